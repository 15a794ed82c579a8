"""Flat art that is blurred or grainy, drawn anew: even inks, and between them edges as a clean picture shows them."""

from itertools import combinations
from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.worn.blur import grain_level, ramp_sigma

__all__ = ["Redrawn", "redrawn"]

_MOST_PIXELS = 8_000_000
"""A larger picture is left as it is: it would take minutes, and some GB."""
_LEAST_SIGMA, _LEAST_GRAIN = 0.4, 1.2
"""px, and 8-bit steps; less is left as it is."""
_NOISE_POWER = 0.003
"""Of the signal's, that Wiener's filter allows for: little is asked back that the blur has taken away."""
_MEANS, _PATCH, _AROUND = 3.4, 5, 15
"""Non-local means: strength, in deviations of the grain; side in px of a patch, and of where its like is looked for."""
_EVEN, _EVEN_GRAIN, _MOST_EVEN = 2.0, 0.6, 8.0
"""8-bit steps that even pixels keep to their ink, plain and more for each step of grain."""
_LEAST_SHARE = 3e-4
"""Of the picture, that even pixels of an ink have."""
_MOST_INKS = 32
_SEEDS = 0.4
"""With fewer even pixels than this part of the picture it is no flat art."""
_NEAREST = 3
_FAR, _FAR_OFF = 10.0, 50.0
"""px from its nearest even pixel at which an ink hardly counts, and how far off its blends are then taken to be."""
_EACH_NEXT = 2.0
_OFF = 25.0
"""8-bit steps; what no blend explains better is left as it is."""
_STEEP = 1.3
"""Shares are drawn apart by so much about one half: what of the blur is left."""
_SOFT, _SOFT_GRAIN = 0.13, 0.045
"""px that an edge may be off for each px of blur, and for each 8-bit step of grain."""
_CHUNK = 250_000


class Redrawn(NamedTuple):
    """A picture drawn anew."""

    evidence: Bytes  # (H, W, 4)
    soft: float  # px; how far an edge may be off from what was drawn


def redrawn(evidence: Bytes) -> Redrawn | None:
    """Draw blurred or grainy flat art anew; None where it is neither, or no flat art.

    Grain goes by non-local means, blur by Wiener's filter. Then pixels whose
    surroundings are even and near a common colour are its ink; every other
    pixel is a blend of two of the inks nearest to it, whatever colours it
    passes through, and its share says where the edge lies.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.

    References
    ----------
    .. [1] A. Buades, B. Coll, J.-M. Morel, "A non-local algorithm for image denoising", 2005.
    .. [2] N. Wiener, "Extrapolation, interpolation, and smoothing of stationary time series", 1949.
    """
    if min(evidence.shape[:2]) < 16 or evidence.shape[0] * evidence.shape[1] > _MOST_PIXELS:
        return None
    rgb = np.ascontiguousarray(evidence[..., :3])
    grain = grain_level(rgb)
    sigma = ramp_sigma(rgb, grain) or 0.0
    if sigma < _LEAST_SIGMA and grain < _LEAST_GRAIN:
        return None
    calm = rgb
    if grain >= _LEAST_GRAIN:
        calm = cv2.fastNlMeansDenoising(rgb, None, _MEANS * grain, _PATCH, _AROUND).astype(np.uint8, copy=False)
    if sigma >= _LEAST_SIGMA:
        calm = _deblurred(calm, sigma)
    even = min(_EVEN + _EVEN_GRAIN * max(0.0, grain - _LEAST_GRAIN), _MOST_EVEN)
    made = _edges_anew(calm, even)
    if made is None:
        return None
    return Redrawn(np.dstack([made, evidence[..., 3]]), max(_SOFT * sigma, _SOFT_GRAIN * grain))


def _deblurred(rgb: Bytes, sigma: float) -> Bytes:
    """Undo a Gaussian blur by Wiener's filter; the picture is mirrored at its border."""
    from scipy.fft import irfft2, next_fast_len, rfft2

    border = 16
    padded = np.pad(rgb.astype(np.float32), ((border, border), (border, border), (0, 0)), mode="symmetric")
    shape = [next_fast_len(side, real=True) for side in padded.shape[:2]]
    down, across = np.fft.fftfreq(shape[0])[:, None], np.fft.rfftfreq(shape[1])[None]
    passed = np.exp(-2 * np.pi**2 * sigma**2 * (down**2 + across**2))
    gain = (passed / (passed**2 + _NOISE_POWER) * (1 + _NOISE_POWER)).astype(np.float32)
    made = irfft2(rfft2(padded, shape, axes=(0, 1)) * gain[..., None], shape, axes=(0, 1))
    inner = made[border : border + rgb.shape[0], border : border + rgb.shape[1]]
    return np.rint(np.clip(inner, 0, 255)).astype(np.uint8)


def _edges_anew(rgb: Bytes, even: float) -> Bytes | None:
    """Inks where the picture is even, coverage between them; None where too little of it is even."""
    square = np.ones((3, 3), np.uint8)
    flat = (cv2.dilate(rgb, square) - cv2.erode(rgb, square)).max(2) <= 2 * even
    inks = _common(rgb[flat], even, _LEAST_SHARE * flat.size)
    if len(inks) < 2:
        return None
    ink = np.full(flat.shape, -1, np.int8)
    value = rgb.astype(np.int16)
    for place, colour in enumerate(inks):
        ink[flat & (ink < 0) & (np.abs(value - colour).max(2) <= even)] = place
    if (ink >= 0).mean() < _SEEDS:
        return None
    away = np.stack(
        [cv2.distanceTransform((ink != place).view(np.uint8), cv2.DIST_L2, 5) for place in range(len(inks))]
    )
    colours = inks.astype(np.float32)
    made = rgb.copy()
    made[ink >= 0] = inks[ink[ink >= 0]]
    rest = np.flatnonzero(ink.ravel() < 0)
    out = made.reshape(-1, 3)
    away = away.reshape(len(inks), -1)
    for begin in range(0, len(rest), _CHUNK):
        some = rest[begin : begin + _CHUNK]
        out[some] = _blends(out[some].astype(np.float32), away[:, some], colours)
    return made


def _common(values: Bytes, even: float, least: float) -> Ints:
    """The most usual colours, each with all that lie within `even` of it, most first; (K, 3) uint8."""
    packed = values.astype(np.int64) @ (65536, 256, 1)
    codes, counts = np.unique(packed, return_counts=True)
    order = np.argsort(-counts, kind="stable")
    codes, counts = codes[order], counts[order]
    colours = np.stack([codes >> 16, codes >> 8 & 255, codes & 255], -1).astype(np.int16)
    apart = max(3.0, 2 * even)
    free: Bools = np.ones(len(codes), bool)
    found: list[Floats] = []
    for _ in range(4 * _MOST_INKS):
        left = np.flatnonzero(free)
        if not len(left) or len(found) == _MOST_INKS:
            break
        off = np.abs(colours - colours[left[0]]).max(1)
        near = off <= even
        free &= off > apart
        if counts[near].sum() >= least:
            found.append(np.average(colours[near], axis=0, weights=counts[near]))
    return np.rint(np.array(found).reshape(-1, 3)).astype(np.uint8)


def _blends(value: Floats, away: Floats, colours: Floats) -> Bytes:
    """Give each pixel the blend of two of its nearest inks that comes nearest to it, drawn steeper; (N, 3)."""
    near = np.argsort(away, axis=0, kind="stable")[: min(_NEAREST, len(colours))]
    best = np.full(len(value), np.float32(_OFF))
    made = value.copy()
    for a, b in combinations(range(len(near)), 2):
        first, second = colours[near[a]], colours[near[b]]
        way = second - first
        share = ((value - first) * way).sum(1) / np.maximum((way * way).sum(1), 1)
        off = np.linalg.norm(value - first - np.clip(share, 0, 1)[:, None] * way, axis=1) + (a + b - 1) * _EACH_NEXT
        off += np.where(np.take_along_axis(away, near[b][None], 0)[0] > _FAR, _FAR_OFF, 0)
        better = off < best
        steep = np.clip(0.5 + (share - 0.5) * _STEEP, 0, 1)[:, None]
        made[better] = (first + steep * way)[better]
        best[better] = off[better]
    return np.rint(made).astype(np.uint8)
