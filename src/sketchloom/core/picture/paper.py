"""The bare paper behind a drawing: its light and its grain."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats

__all__ = ["grain_of", "otsu", "paper_light"]

_SIDE, _LIGHT_SIDE = 512, 144
_SHARP = 0.12
"""Steps of the logarithm of light, at `_LIGHT_SIDE`, above this are edges of ink, not of light."""
_STROKE = 24
"""A stroke thinner than this part of the longer side is closed before the light is sought."""
_DARK = 40.0
_CONTRAST = 0.5
_SURE = 0.75
"""Of the way from ink to paper; brighter than this is surely paper."""
_ROUNDS = 3


def otsu(histogram: Floats) -> int:
    """Threshold that parts a histogram into two classes with the largest variance between them.

    Parameters
    ----------
    histogram : (N,) array
        Counts; at least two bins in use.

    Returns
    -------
    int
        The last bin of the lower class.

    References
    ----------
    .. [1] N. Otsu, "A threshold selection method from gray-level histograms", 1979.
    """
    counts = np.asarray(histogram, np.float64)
    level = np.arange(len(counts))
    below, sums = np.cumsum(counts), np.cumsum(counts * level)
    above = below[-1] - below
    with np.errstate(divide="ignore", invalid="ignore"):
        gap = sums / below - (sums[-1] - sums) / above
        between = np.where((below > 0) & (above > 0), below * above * gap**2, -1.0)
    return int(np.argmax(between))


def paper_light(grey: Bytes) -> Floats:
    """Light on the bare paper, behind the ink too.

    Ink has sharp edges, light and shadows have soft ones. So the light is
    first what the soft steps of brightness add up to when the sharp ones are
    left out: that tells paper in a shadow from a large area of ink. Then it is
    refined as the local mean of what is surely paper, filled in across the
    ink from the nearest scale that holds any.

    Parameters
    ----------
    grey : (H, W) uint8

    Returns
    -------
    (H, W) float32
        At least 1.

    References
    ----------
    .. [1] B. K. P. Horn, "Determining lightness from an image", 1974.
    .. [2] S. J. Gortler et al., "The Lumigraph", 1996 (pull-push).
    """
    seen = _blurred(_reduced(grey, _SIDE), 1.0)
    side = max(5, max(seen.shape) // _STROKE | 1)
    square = np.ones((side, side), np.uint8)
    closed = cv2.morphologyEx(seen, cv2.MORPH_CLOSE, square, borderType=cv2.BORDER_REFLECT).astype(np.float32)
    base = _resized(_soft_light(closed), seen.shape)
    even = seen / base
    split = (otsu(np.histogram(even, 150, (0, 1.5))[0]) + 1) / 100
    dark = even <= split
    ink = min(0.9, float(np.median(even[dark]))) if dark.any() else 0.2
    level = ink + _SURE * (1 - ink)
    paper, light = (even > (1 + ink) / 2) & (seen > level * closed), base  # a pale stroke is no paper
    for _ in range(_ROUNDS):
        sure = cv2.erode(paper.astype(np.uint8), np.ones((3, 3), np.uint8))
        if np.count_nonzero(sure) < 50:
            sure = paper.astype(np.uint8)
        if not sure.any():
            break
        light = _filled(seen, sure.astype(np.float32), max(seen.shape) / 120)
        paper = seen > level * light
    return np.maximum(_resized(light, grey.shape), np.float32(1))


def _blurred(plane: Floats, spread: float) -> Floats:
    return cv2.GaussianBlur(plane, (0, 0), spread).astype(np.float32, copy=False)


def _resized(plane: Floats, shape: tuple[int, ...]) -> Floats:
    size = shape[1], shape[0]
    return cv2.resize(plane, size, interpolation=cv2.INTER_LINEAR).astype(np.float32, copy=False)


def _reduced(grey: Bytes | Floats, side: int) -> Floats:
    height, width = grey.shape
    scale = min(1.0, side / max(height, width))
    size = max(2, round(width * scale)), max(2, round(height * scale))
    return cv2.resize(grey, size, interpolation=cv2.INTER_AREA).astype(np.float32)


def _soft_light(closed: Floats) -> Floats:
    """Light whose steps are the soft ones of a picture, by weighted least squares, at the level of its paper."""
    small = np.maximum(_reduced(closed, _LIGHT_SIDE), 2)
    height, width = small.shape
    log = np.log(small)
    place = np.arange(height * width).reshape(height, width)
    begins, ends, steps, weights = [], [], [], []
    for before, after, square in (
        (np.s_[:, :-1], np.s_[:, 1:], np.ones((1, 3), np.uint8)),
        (np.s_[:-1], np.s_[1:], np.ones((3, 1), np.uint8)),
    ):
        step = log[after] - log[before]
        sharp = cv2.dilate((np.abs(step) > _SHARP).astype(np.uint8), square) > 0
        sure = np.clip(np.minimum(small[after], small[before]) / _DARK, 0.1, 1) ** 2  # grain weighs more in the dark
        begins.append(place[before].ravel())
        ends.append(place[after].ravel())
        steps.append(np.where(sharp, 0, step).ravel())
        weights.append(np.where(sharp, 1e-3, sure).ravel())
    i, j = np.concatenate(begins), np.concatenate(ends)
    step, weight = np.concatenate(steps), np.concatenate(weights)
    count = height * width
    across = np.bincount(i, weight, count) + np.bincount(j, weight, count) + 1e-9
    from scipy import sparse  # takes long to import, and only shadows need it
    from scipy.sparse.linalg import spsolve

    equations = sparse.diags(across) - sparse.coo_matrix(
        (np.tile(weight, 2), (np.concatenate([i, j]), np.concatenate([j, i]))), (count, count)
    )
    wanted = np.bincount(j, weight * step, count) - np.bincount(i, weight * step, count)

    light = spsolve(equations.tocsc(), wanted).reshape(height, width)
    even = log - light
    low, high = np.percentile(even, [0.5, 99.5])
    counts, edges = np.histogram(even, 128, (low, max(high, low + 0.01)))
    cut = edges[otsu(counts) + 1]
    paper, ink = even > cut, even <= cut
    level = np.median(even)
    if paper.any() and ink.any() and np.median(even[paper]) - np.median(even[ink]) > _CONTRAST:
        level = np.median(even[paper])
    return np.exp(light + level).astype(np.float32)


def _filled(values: Floats, mask: Floats, reach: float) -> Floats:
    """Local mean under a mask, from the finest scale that has enough of it near; (h, w) float32."""
    levels = [(_blurred(values * mask, reach), _blurred(mask, reach))]
    while min(levels[-1][0].shape) > 3:
        height, width = levels[-1][0].shape
        size = (width + 1) // 2, (height + 1) // 2
        halves = (cv2.resize(plane, size, interpolation=cv2.INTER_AREA).astype(np.float32) for plane in levels[-1])
        mass, share = (_blurred(half, 1.0) for half in halves)
        levels.append((mass, share))
    mean = float((values * mask).sum() / mask.sum())
    filled: Floats = np.full(levels[-1][0].shape, mean, np.float32)
    for mass, share in reversed(levels):
        coarse = _resized(filled, mass.shape)
        near = np.clip(share / 0.15, 0, 1)
        filled = near * (mass / np.maximum(share, 1e-6)) + (1 - near) * coarse
    return filled


def grain_of(grey: Bytes) -> float:
    """Spread of the grain, from second differences in the calmer half of the rows.

    References
    ----------
    .. [1] J. Immerkaer, "Fast noise variance estimation", 1996.
    """
    if min(grey.shape) < 3:
        return 0.0
    step = max(1, int((grey.size / 500_000) ** 0.5))
    rows = grey[::step].astype(np.int16)
    second = np.abs(rows[:, 2:] - 2 * rows[:, 1:-1] + rows[:, :-2])
    return float(np.percentile(second, 50)) / (0.6745 * 6**0.5)
