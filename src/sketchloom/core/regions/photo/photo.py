"""Separate a photograph into tone steps."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.colour import lab_of
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.photo.simpler import FOLLOWED, LEAST_DETAIL, simpler_steps, working_scale

__all__ = ["LEAST_STEPS", "MOST_STEPS", "STEPS", "ColourSteps", "ToneSteps", "colour_steps", "multi_otsu", "tone_steps"]

LEAST_STEPS, STEPS, MOST_STEPS = 2, 4, 6
_CALM_PIXELS = 1_000_000
_EDGE, _REACH = 30.0, 4.0
_CALM = 0.4
"""Reach of the smoothing that keeps edges, in details."""
_MOST_MEDIAN = 101
_GRAIN_REACH, _SLOPE = 8, 12.0
_ROUNDS = 40


class ToneSteps(NamedTuple):
    """A photograph in steps of light."""

    labels: Bytes  # (H, W), 1 the darkest step
    even: Bytes  # (H, W), light with the steps at equal distances and the cuts half way between
    levels: Floats  # (K,), of the steps in `even`
    cuts: tuple[float, ...]  # (K - 1,), light at which one step becomes the next
    soft: float = 0.0  # px that curves may leave the edges by, which were simplified


class ColourSteps(NamedTuple):
    """A photograph in a few flat colours."""

    labels: Bytes  # (H, W), 1 + colour
    even: Bytes  # (H, W, 4), the calmed picture
    mix: Floats  # (K, 3), the colours, most frequent first
    soft: float = 0.0  # px that curves may leave the edges by, which were simplified


def multi_otsu(histogram: Floats, classes: int) -> tuple[int, ...]:
    """Thresholds that part a histogram into classes with the largest variance between them.

    Parameters
    ----------
    histogram : (N,) array
    classes : int
        At least 2.

    Returns
    -------
    tuple of int
        The last bin of every class but the highest.

    References
    ----------
    .. [1] P.-S. Liao, T.-S. Chen and P.-C. Chung, "A fast algorithm for
       multilevel thresholding", 2001.
    """
    counts = np.asarray(histogram, np.float64)
    size = len(counts)
    mass = np.append(0, np.cumsum(counts))
    moment = np.append(0, np.cumsum(counts * np.arange(size)))
    inside = mass[None, 1:] - mass[:-1, None]  # of bins i to j
    gain = np.where(inside > 0, (moment[None, 1:] - moment[:-1, None]) ** 2 / np.where(inside > 0, inside, 1), 0)
    gain[np.tril_indices(size, -1)] = -np.inf
    best, came = gain[0], []
    for _ in range(classes - 1):
        total = np.full((size, size), -np.inf)
        total[1:] = best[:-1, None] + gain[1:]
        came.append(total.argmax(0))
        best = total.max(0)
    ends, end = [], size - 1
    for begins in reversed(came):
        end = int(begins[end]) - 1
        ends.append(end)
    return tuple(reversed(ends))


def tone_steps(
    evidence: Bytes,
    steps: int = STEPS,
    detail: float = 0.0,
    cuts: tuple[float, ...] | None = None,
    tick: Tick = no_tick,
    there: Bools | None = None,
) -> ToneSteps:
    """Calm a photograph without losing its edges, and cut its light into steps.

    Every step holds all that is as dark or darker, so the steps nest when
    their layers are carried.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    steps : int
    detail : float
        Px; what is smaller is smoothed away.
    cuts : tuple of float, optional
        Of the full picture, when `evidence` is its reduced preview.
    tick : callable
    there : (H, W) bool, optional
        The subject, where the picture was cut out: only its light says what the steps are.
    """
    height, width = evidence.shape[:2]
    simple = detail >= LEAST_DETAIL
    calm = _reduced(evidence, detail, tick) if simple else _calmed(evidence, detail, tick)
    light: Bytes = cv2.cvtColor(calm, cv2.COLOR_RGB2LAB)[..., 0].astype(np.uint8, copy=False)
    seen = light.ravel() if there is None else light[_fit(there, light.shape)]
    histogram = np.bincount(seen, minlength=256).astype(np.float64)
    if cuts is None:
        cuts = tuple(last + 0.5 for last in multi_otsu(histogram, min(steps, int(np.count_nonzero(histogram)))))
    levels: Floats = np.linspace(0, 255, len(cuts) + 1)
    if simple and len(cuts):
        off = _steps_off(histogram, cuts)[:, light]
        labels, shares = simpler_steps(off, (height, width), detail * light.shape[1] / width, tick)
        even = np.tensordot(levels, shares, 1)
        return ToneSteps(labels + np.uint8(1), np.rint(even).astype(np.uint8), levels, cuts, FOLLOWED * detail)
    between = (levels[:-1] + levels[1:]) / 2
    full = cv2.resize(light.astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC)
    even = np.interp(full, [0, *cuts, 255], [0, *between, 255])
    labels = (1 + np.searchsorted(between, even)).astype(np.uint8)
    tick(1.0)
    return ToneSteps(labels, np.rint(even).astype(np.uint8), levels, cuts)


def _steps_off(histogram: Floats, cuts: tuple[float, ...]) -> Floats:
    """How many steps each light lies off each step, by the mean light of each; (K, 256), 0 at its own."""
    bins = np.arange(256)
    step = np.searchsorted(cuts, bins)
    mass = np.bincount(step, histogram, len(cuts) + 1)
    bounds = np.array([0.0, *cuts, 255.0])
    middle = (bounds[1:] + bounds[:-1]) / 2
    mean = np.where(mass > 0, np.bincount(step, histogram * bins, len(mass)) / np.maximum(mass, 1), middle)
    gap = max(1.0, float(np.diff(mean).mean()))
    place = np.interp(bins, mean, np.arange(len(mean)))
    place += np.minimum((bins - mean[0]) / gap, 0) + np.maximum((bins - mean[-1]) / gap, 0)
    off = np.abs(place[None] - np.arange(len(mean))[:, None])
    return np.asarray(off - off.min(0))


def _colours_off(calm: Bytes, mix: Floats) -> Floats:
    """How far each pixel is off each colour beyond its nearest, in usual distances between colours; (K, h, w)."""
    own, pixels = lab_of(mix), lab_of(calm.reshape(-1, 3))
    apart = np.linalg.norm(own[:, None] - own[None], axis=2)
    np.fill_diagonal(apart, np.inf)
    gap = max(1.0, float(apart.min(1).mean()))
    off = np.stack([np.linalg.norm(pixels - one, axis=1) for one in own])
    off -= off.min(0)
    return (off / gap).reshape(len(mix), *calm.shape[:2])


def _fit(there: Bools, shape: tuple[int, ...]) -> Bools:
    """The subject in a reduced picture."""
    small = cv2.resize(there.view(np.uint8), shape[1::-1], interpolation=cv2.INTER_NEAREST) > 0
    return small if small.any() else np.ones(shape[:2], bool)


def _rounded(values: Floats) -> Bytes:
    return np.clip(np.rint(values), 0, 255).astype(np.uint8)


def _reduced(evidence: Bytes, detail: float, tick: Tick) -> Bytes:
    """The picture at the size that the detail needs, calmed but for its edges; (h, w, 3) uint8."""
    height, width = evidence.shape[:2]
    scale = working_scale(detail)
    size = max(1, round(width * scale)), max(1, round(height * scale))
    calm = cv2.resize(np.ascontiguousarray(evidence[..., :3]), size, interpolation=cv2.INTER_AREA)
    for turn in range(2):
        calm = cv2.bilateralFilter(calm, 0, _EDGE, max(0.5, _CALM * detail * scale))
        tick(0.1 * (turn + 1))
    return calm.astype(np.uint8, copy=False)


def colour_steps(
    evidence: Bytes,
    count: int,
    detail: float = 0.0,
    mix: Floats | None = None,
    tick: Tick = no_tick,
    there: Bools | None = None,
) -> ColourSteps:
    """Calm a photograph without losing its edges, and give every pixel to one of a few colours.

    The colours are the means that leave the least squared difference, begun
    at the tones that stand farthest apart, so that the same picture always
    gives the same ones. A pixel goes to the nearest; where two of them meet
    the calmed picture itself tells where half way lies.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    count : int
    detail : float
        Px; what is smaller is smoothed away.
    mix : (K, 3) array, optional
        Colours of the full picture, when `evidence` is its reduced preview.
    tick : callable
    there : (H, W) bool, optional
        The subject, where the picture was cut out.

    References
    ----------
    .. [1] S. Lloyd, "Least squares quantization in PCM", 1982.
    .. [2] T. Gonzalez, "Clustering to minimize the maximum intercluster distance", 1985.
    """
    height, width = evidence.shape[:2]
    simple = detail >= LEAST_DETAIL
    calm = _reduced(evidence, detail, tick) if simple else _calmed(evidence, detail, tick)
    if mix is None:
        mix = _few_colours(calm if there is None else calm[_fit(there, calm.shape[:2])], count)
    if simple and len(mix) > 1:
        off = _colours_off(calm, mix)
        labels, shares = simpler_steps(off, (height, width), detail * calm.shape[1] / width, tick)
        even = np.tensordot(shares, mix, (0, 0))
        opaque = np.full((height, width), 255, np.uint8)
        return ColourSteps(labels + np.uint8(1), np.dstack([_rounded(even), opaque]), mix, FOLLOWED * detail)
    full = calm
    if calm.shape[:2] != (height, width):
        full = cv2.resize(calm, (width, height), interpolation=cv2.INTER_CUBIC).astype(np.uint8, copy=False)
    labels = np.zeros((height, width), np.uint8)
    least = np.full((height, width), np.inf, np.float32)
    for number, colour in enumerate(mix, 1):
        off = ((full.astype(np.float32) - colour.astype(np.float32)) ** 2).sum(2)
        closer = off < least
        labels[closer], least[closer] = number, off[closer]
    tick(1.0)
    return ColourSteps(labels, np.dstack([full, np.full((height, width), 255, np.uint8)]), mix)


def _few_colours(calm: Bytes, count: int) -> Floats:
    """The colours that a picture is told with best; (K, 3), most frequent first."""
    codes, places, counts = np.unique(
        (calm.reshape(-1, 3) >> 2).astype(np.int32) @ np.array([1, 64, 4096]), return_inverse=True, return_counts=True
    )
    sums = np.stack([np.bincount(places.ravel(), calm[..., c].ravel(), len(codes)) for c in range(3)], 1)
    colours, weight = sums / counts[:, None], counts.astype(float)
    labs = lab_of(colours)
    chosen = [int(np.argmax(weight))]
    frequent = np.minimum(1.0, weight / (0.001 * weight.sum()))
    far = ((labs - labs[chosen[0]]) ** 2).sum(1)
    while len(chosen) < min(count, len(codes)):
        chosen.append(int(np.argmax(far * frequent)))
        far = np.minimum(far, ((labs - labs[chosen[-1]]) ** 2).sum(1))
    means = labs[chosen]
    for _ in range(_ROUNDS):
        nearest = ((labs[:, None] - means[None]) ** 2).sum(2).argmin(1)
        mass = np.bincount(nearest, weight, len(means))
        moved = np.stack([np.bincount(nearest, weight * labs[:, c], len(means)) for c in range(3)], 1)
        fresh = np.where(mass[:, None] > 0, moved / np.maximum(mass, 1e-9)[:, None], means)
        if np.abs(fresh - means).max() < 0.05:
            break
        means = fresh
    mass = np.bincount(nearest, weight, len(means))
    mix = np.stack([np.bincount(nearest, weight * colours[:, c], len(means)) for c in range(3)], 1)
    order = [k for k in np.argsort(-mass, kind="stable") if mass[k]]
    return np.rint(mix[order] / mass[order, None])


def _calmed(evidence: Bytes, detail: float, tick: Tick) -> Bytes:
    """Smooth what is smaller than `detail` px, and keep edges; at most a megapixel, (h, w, 3).

    References
    ----------
    .. [1] C. Tomasi and R. Manduchi, "Bilateral filtering for gray and color images", 1998.
    """
    height, width = evidence.shape[:2]
    scale = min(1.0, (_CALM_PIXELS / (height * width)) ** 0.5)
    size = max(1, round(width * scale)), max(1, round(height * scale))
    calm = cv2.resize(np.ascontiguousarray(evidence[..., :3]), size, interpolation=cv2.INTER_AREA)
    for turn in range(2):
        calm = cv2.bilateralFilter(calm, 0, _EDGE, _REACH)
        tick(0.3 * (turn + 1))
    side = min(2 * round(detail * scale / 2) + 1, _MOST_MEDIAN, min(size) // 2 * 2 - 1)
    if side >= 3:
        # a median keeps edges and takes what fills less than half of its window away
        calm = cv2.medianBlur(calm, side)
        calm = cv2.GaussianBlur(calm, (0, 0), max(0.6, side / 8))
    return _guided(calm.astype(np.uint8, copy=False), max(_GRAIN_REACH, round(1.5 * detail * scale)))


def _guided(picture: Bytes, reach: int) -> Bytes:
    """Smooth slopes, where a step's edge would follow the grain, and leave edges; (h, w, 3) uint8.

    References
    ----------
    .. [1] K. He, J. Sun and X. Tang, "Guided image filtering", 2010.
    """
    side = (2 * reach + 1, 2 * reach + 1)
    planes = []
    for channel in cv2.split(picture):
        plane = channel.astype(np.float32)
        mean = cv2.blur(plane, side)
        spread = cv2.blur(plane * plane, side) - mean * mean
        keep = spread / (spread + _SLOPE**2)
        planes.append(cv2.blur(keep, side) * plane + cv2.blur((1 - keep) * mean, side))
    return np.clip(np.rint(np.dstack(planes)), 0, 255).astype(np.uint8)
