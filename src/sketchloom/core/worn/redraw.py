"""Flat art that is blurred or grainy, drawn anew: even inks, and between them edges as a clean picture shows them."""

from itertools import combinations
from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.worn.blocks import to_ycc
from sketchloom.core.worn.blur import Wear, ramp_sigma, wear_of
from sketchloom.core.worn.compressed import Within
from sketchloom.core.worn.jpeg import Stored

__all__ = ["Redrawn", "redrawn", "redrawn_within"]

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
_NEAREST = 5
_FAR, _FAR_OFF = 10.0, 50.0
"""px from its nearest even pixel at which an ink hardly counts, and how far off its blends are then taken to be."""
_EACH_NEXT = 2.0
_OFF = 25.0
"""8-bit steps; what no blend explains better is left as it is."""
_STEEP = 1.3
"""Shares are drawn apart by so much about one half: what of the blur is left."""
_SOFT, _SOFT_GRAIN = 0.13, 0.045
"""px that an edge may be off for each px of blur, and for each 8-bit step of grain."""
_MOST_SQUARES = 8000
"""Of 16 px, that a file stored more than one even colour of: more would take too long."""
_TIMES = 3
"""How often a picture is drawn anew within what a file stored of it."""
_EVEN_STEP, _SOFT_STEP = (1.0, 0.8), 0.08
"""8-bit steps that even pixels keep to their ink, plain and for the root of the file's first step; and px that an edge
may be off for the same."""
_WIDER = 3.0
"""So much farther from an ink that is known even pixels may lie."""
_ONE_STEP, _ROUNDING = 1.1, 0.7
"""Of the step of a block's mean, and 8-bit steps: how far one ink may be rounded to either side."""
_STEEP_LAST = 1.1
_LEAST_LONE, _LONE_OFF = 6, 1.5
"""px of a part that may be a thin line, and how much farther from its ink than from others what it shows may lie."""
_CALM = 0.5
"""8-bit steps of grain that the calmest picture may have."""
_CHUNK = 250_000


class Redrawn(NamedTuple):
    """A picture drawn anew."""

    evidence: Bytes  # (H, W, 4)
    soft: float  # px; how far an edge may be off from what was drawn


def redrawn(evidence: Bytes, wear: Wear | None = None) -> Redrawn | None:
    """Draw blurred or grainy flat art anew; None where it is neither, or no flat art.

    Grain goes by non-local means, blur by Wiener's filter. Then pixels whose
    surroundings are even and near a common colour are its ink; every other
    pixel is a blend of two of the inks nearest to it, whatever colours it
    passes through, and its share says where the edge lies.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    wear : Wear, optional
        Of it, when it was measured already.

    References
    ----------
    .. [1] A. Buades, B. Coll, J.-M. Morel, "A non-local algorithm for image denoising", 2005.
    .. [2] N. Wiener, "Extrapolation, interpolation, and smoothing of stationary time series", 1949.
    """
    if min(evidence.shape[:2]) < 16 or evidence.shape[0] * evidence.shape[1] > _MOST_PIXELS:
        return None
    rgb = np.ascontiguousarray(evidence[..., :3])
    grain, sigma = wear or wear_of(rgb)
    if sigma < _LEAST_SIGMA and grain < _LEAST_GRAIN:
        return None
    calm = rgb
    if grain >= _LEAST_GRAIN:
        calm = cv2.fastNlMeansDenoising(rgb, None, _MEANS * grain, _PATCH, _AROUND).astype(np.uint8, copy=False)
    if sigma >= _LEAST_SIGMA:
        calm = _deblurred(calm, sigma)
    even = min(_EVEN + _EVEN_GRAIN * max(0.0, grain - _LEAST_GRAIN), _MOST_EVEN)
    flat = _even(calm, even)
    inks = _common(calm[flat], even, _LEAST_SHARE * flat.size)
    seed = _seeds(calm, flat, inks, even)
    if len(inks) < 2 or (seed > 0).mean() < _SEEDS:
        return None
    made = _edges_anew(calm, inks, seed, seed, _STEEP)
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


def redrawn_within(evidence: Bytes, stored: Stored, known: Bytes, inks: Floats, tick: Tick = no_tick) -> Redrawn | None:
    """Draw flat art anew that came through a JPEG file; None where it is too large, or no flat art.

    The calmest picture that the file may have been made of is drawn in inks
    that are known, and brought within what the file stored again, a few times.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    stored : Stored
        What the file stored of it.
    known : (H, W) uint8
        1 + the ink that each pixel was taken for.
    inks : (K, 3) float
        sRGB.
    """
    if stored.busy.sum() > _MOST_SQUARES or len(inks) < 2:
        return None
    within = Within(stored)
    step = float(np.sqrt(stored.steps[0][0]))
    even = _EVEN_STEP[0] + _EVEN_STEP[1] * step
    made = within.calmest(np.ascontiguousarray(evidence[..., :3]), tick)
    colours, known = _joined(inks, known, stored)
    if len(colours) < 2:
        return None
    sigma = ramp_sigma(made, _CALM) or 0.0
    blurred = sigma >= _LEAST_SIGMA  # before it was stored
    for left in reversed(range(_TIMES)):
        seed = _seeds(made, _even(made, even), colours, _WIDER * even)
        if (seed > 0).mean() < _SEEDS:
            return None
        near = _with_lone(made, seed, known, colours)
        made = _edges_anew(made, colours, seed, near, 1.0 if left else _STEEP if blurred else _STEEP_LAST)
        made = within.held(made) if left else made
    return Redrawn(np.dstack([made, evidence[..., 3]]), _SOFT_STEP * step + _SOFT * sigma * blurred)


def _joined(inks: Floats, known: Bytes, stored: Stored) -> tuple[Bytes, Bytes]:
    """Join inks that lie no farther apart than one ink that the file rounded up here and down there."""
    most = np.array([stored.steps[0][0], stored.steps[1][0], stored.steps[1][0]]) / 8 * _ONE_STEP + _ROUNDING
    area = np.bincount(known.ravel(), minlength=len(inks) + 1)[1 : len(inks) + 1].astype(float)
    planes = to_ycc(inks[None])[:, 0].T
    owner = np.arange(len(inks))
    for ink in np.argsort(-area, kind="stable"):
        if owner[ink] == ink:
            owner[(np.abs(planes - planes[ink]) <= most).all(1) & (owner == np.arange(len(inks)))] = ink
    heads = np.unique(owner)
    number = np.append(0, 1 + np.searchsorted(heads, owner)).astype(np.uint8)
    share = np.maximum(area, 1)[:, None]
    mean = [(inks * share)[owner == head].sum(0) / share[owner == head].sum() for head in heads]
    return np.rint(np.clip(mean, 0, 255)).astype(np.uint8), number[known]


def _even(rgb: Bytes, most: float) -> Bools:
    """Pixels whose surroundings lie within `most` 8-bit steps to either side of each other; (H, W) bool."""
    square = np.ones((3, 3), np.uint8)
    return np.asarray(_largest(cv2.dilate(rgb, square) - cv2.erode(rgb, square)) <= 2 * most)


def _largest(off: np.ndarray) -> np.ndarray:
    """The largest of three channels; (..., 3) to (...)."""
    return np.maximum(np.maximum(off[..., 0], off[..., 1]), off[..., 2])


def _seeds(rgb: Bytes, even: Bools, inks: Bytes, most: float) -> Bytes:
    """1 + the ink that each even pixel shows within `most` 8-bit steps, 0 elsewhere; (H, W) uint8."""
    value = rgb[even].astype(np.int16)
    own = np.zeros(len(value), np.uint8)
    nearest = np.full(len(value), np.int16(most))
    for place, colour in enumerate(inks.astype(np.int16), 1):
        off = _largest(np.abs(value - colour))
        taken = off <= nearest
        own[taken], nearest[taken] = place, off[taken] - 1  # the first of two that are as near
    seed = np.zeros(even.shape, np.uint8)
    seed[even] = own
    return seed


def _edges_anew(rgb: Bytes, inks: Bytes, seed: Bytes, near: Bytes, steep: float) -> Bytes:
    """Draw even inks where they are sure, and elsewhere the blend of two of the nearest; (H, W, 3) uint8.

    Parameters
    ----------
    rgb : (H, W, 3) uint8
    inks : (K, 3) uint8
    seed : (H, W) uint8
        1 + the ink where it is sure, 0 elsewhere.
    near : (H, W) uint8
        The same, and more that an ink may be near to.
    steep : float
        Blends are drawn apart by so much about one half.
    """
    made = rgb.copy()
    made[seed > 0] = inks[seed[seed > 0] - 1]
    away = np.stack(
        [cv2.distanceTransform((near != place).view(np.uint8), cv2.DIST_L2, 5) for place in range(1, len(inks) + 1)]
    ).reshape(len(inks), -1)
    colours = inks.astype(np.float32)
    rest = np.flatnonzero(seed.ravel() == 0)
    out = made.reshape(-1, 3)
    for begin in range(0, len(rest), _CHUNK):
        some = rest[begin : begin + _CHUNK]
        out[some] = _blends(out[some].astype(np.float32), away[:, some], colours, steep)
    return made


def _with_lone(rgb: Bytes, seed: Bytes, known: Bytes, inks: Bytes) -> Bytes:
    """Add parts of some size that were taken for an ink, and none of which surely shows it: thin lines.

    The picture must show more of that ink there than a crumb of ringing does.
    """
    near = seed.copy()
    for place in range(1, len(inks) + 1):
        count, part, stats, _ = cv2.connectedComponentsWithStats((known == place).view(np.uint8), connectivity=8)
        lone = stats[:, cv2.CC_STAT_AREA] >= _LEAST_LONE
        lone[0] = False
        lone[np.unique(part[seed == place])] = False
        at = np.flatnonzero(lone[part.ravel()])
        if len(at):
            value = rgb.reshape(-1, 3)[at].astype(np.float32)
            off = np.linalg.norm(value[:, None] - inks.astype(np.float32), axis=2)
            own, other = off[:, place - 1].copy(), np.delete(off, place - 1, 1).min(1)
            of = part.ravel()[at]
            lone &= np.bincount(of, own, count) <= _LONE_OFF * np.bincount(of, other, count)
        near[lone[part] & (seed == 0)] = place
    return near


def _common(values: Bytes, even: float, least: float) -> Bytes:
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
    return np.asarray(np.rint(np.array(found).reshape(-1, 3)), np.uint8)


def _blends(value: Floats, away: Floats, colours: Floats, steep: float) -> Bytes:
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
        drawn = np.clip(0.5 + (share - 0.5) * steep, 0, 1)[:, None]
        made[better] = (first + drawn * way)[better]
        best[better] = off[better]
    return np.rint(made).astype(np.uint8)
