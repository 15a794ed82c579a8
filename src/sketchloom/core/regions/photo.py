"""Separate a photograph into tone steps."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.progress import Tick, no_tick

__all__ = ["LEAST_STEPS", "MOST_STEPS", "STEPS", "ToneSteps", "multi_otsu", "tone_steps"]

LEAST_STEPS, STEPS, MOST_STEPS = 2, 4, 6
_CALM_PIXELS = 1_000_000
_EDGE, _REACH = 30.0, 4.0


class ToneSteps(NamedTuple):
    """A photograph in steps of light."""

    labels: Bytes  # (H, W), 1 the darkest step
    even: Bytes  # (H, W), light with the steps at equal distances and the cuts half way between
    levels: Floats  # (K,), of the steps in `even`
    cuts: tuple[float, ...]  # (K - 1,), light at which one step becomes the next


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
    evidence: Bytes, steps: int = STEPS, cuts: tuple[float, ...] | None = None, tick: Tick = no_tick
) -> ToneSteps:
    """Calm a photograph without losing its edges, and cut its light into steps.

    Every step holds all that is as dark or darker, so the steps nest when
    their layers are carried.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    steps : int
    cuts : tuple of float, optional
        Of the full picture, when `evidence` is its reduced preview.

    References
    ----------
    .. [1] C. Tomasi and R. Manduchi, "Bilateral filtering for gray and color images", 1998.
    """
    height, width = evidence.shape[:2]
    scale = min(1.0, (_CALM_PIXELS / (height * width)) ** 0.5)
    size = max(1, round(width * scale)), max(1, round(height * scale))
    small = cv2.resize(np.ascontiguousarray(evidence[..., :3]), size, interpolation=cv2.INTER_AREA)
    light = cv2.cvtColor(small, cv2.COLOR_RGB2LAB)[..., 0]
    for turn in range(2):
        light = cv2.bilateralFilter(light, 0, _EDGE, _REACH)
        tick(0.3 * (turn + 1))
    if cuts is None:
        histogram = np.bincount(light.ravel(), minlength=256).astype(np.float64)
        cuts = tuple(last + 0.5 for last in multi_otsu(histogram, min(steps, int(np.count_nonzero(histogram)))))
    levels: Floats = np.linspace(0, 255, len(cuts) + 1)
    between = (levels[:-1] + levels[1:]) / 2
    full = cv2.resize(light.astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC)
    even = np.interp(full, [0, *cuts, 255], [0, *between, 255])
    labels = (1 + np.searchsorted(between, even)).astype(np.uint8)
    tick(1.0)
    return ToneSteps(labels, np.rint(even).astype(np.uint8), levels, cuts)
