"""Separate an ink drawing: estimate the paper, divide by it, threshold."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.progress import Tick, no_tick

__all__ = ["InkDrawing", "otsu", "paper_surface", "separate_ink"]

_PAPER_SIDE = 192
_PAPER_DEGREE = 3
_ROUNDS = 12


class InkDrawing(NamedTuple):
    """An ink drawing split from its paper."""

    labels: Bytes  # (H, W), 1 paper, 2 ink
    even: Bytes  # (H, W), grey with the paper at 255 and the split at 127.5
    threshold: float  # share of the paper's light, 0 to 1
    histogram: Floats  # (256,) of the evened grey


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


def _terms(height: int, width: int) -> Floats:
    y, x = np.meshgrid(np.linspace(-1, 1, height), np.linspace(-1, 1, width), indexing="ij")
    powers = [(i, j) for i in range(_PAPER_DEGREE + 1) for j in range(_PAPER_DEGREE + 1 - i)]
    return np.stack([x.ravel() ** i * y.ravel() ** j for i, j in powers], 1)


def paper_surface(grey: Bytes) -> Floats:
    """Light of the bare paper, a smooth surface fitted robustly to it.

    A cubic in x and y, refitted with weights that leave out what is much
    darker than the surface.

    Parameters
    ----------
    grey : (H, W) uint8

    Returns
    -------
    (H, W) float32
        At least 1.

    References
    ----------
    .. [1] J. W. Tukey's biweight, in P. J. Huber, "Robust Statistics", 1981.
    """
    height, width = grey.shape
    scale = min(1.0, _PAPER_SIDE / max(height, width))
    size = max(2, round(width * scale)), max(2, round(height * scale))
    small = cv2.resize(grey, size, interpolation=cv2.INTER_AREA).astype(np.float64)
    bright = cv2.dilate(small, np.ones((5, 5)))
    terms = _terms(size[1], size[0])
    value = bright.ravel()
    weight = np.where(value >= np.percentile(value, 40), 1.0, 0.0)
    surface = value
    for turn in range(_ROUNDS):
        weighted = terms * weight[:, None]
        surface = (
            terms
            @ np.linalg.lstsq(weighted.T @ terms + 1e-6 * np.eye(terms.shape[1]), weighted.T @ value, rcond=None)[0]
        )
        if turn == 3:
            value = small.ravel()
        off = value - surface
        calm = np.abs(off[off > -0.25 * np.maximum(surface, 1)])
        spread = max(2.0, 1.4826 * float(np.median(calm))) if len(calm) else 2.0
        reach = np.where(off < 0, 4.0, 6.0) * spread
        weight = np.clip(1 - (off / reach) ** 2, 0, 1) ** 2
        if weight.sum() < 2 * terms.shape[1]:
            return np.full(grey.shape, max(1.0, float(np.percentile(small, 90))), np.float32)
    full = cv2.resize(
        surface.reshape(size[1], size[0]).astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC
    )
    return np.maximum(full, max(1.0, 0.05 * float(full.max())))


def separate_ink(evidence: Bytes, threshold: float | None, tick: Tick = no_tick) -> InkDrawing:
    """Split ink from paper.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    threshold : float, optional
        Share of the paper's light below which a pixel is ink; None finds it.
    """
    grey: Bytes = cv2.cvtColor(evidence, cv2.COLOR_RGBA2GRAY).astype(np.uint8, copy=False)
    noise = _noise(grey)
    if noise > 1.0:
        grey = cv2.GaussianBlur(grey, (0, 0), min(1.2, 0.5 + 0.15 * noise)).astype(np.uint8, copy=False)
    tick(0.2)
    paper = paper_surface(grey)
    tick(0.6)
    even = np.clip(grey * (np.float32(250) / paper), 0, 255)
    histogram = np.bincount(np.rint(even).astype(np.uint8).ravel(), minlength=256).astype(float)
    if threshold is None:
        dark, light = _class_levels(histogram, otsu(histogram))
        split = (dark + light) / 2
        threshold = split / 250
    else:
        split = float(np.clip(threshold, 0.01, 0.99) * 250)
        dark, light = _class_levels(histogram, int(split))
    reach = max(4.0, min(split - dark, light - split) if dark < split < light else 40.0)
    even = np.clip(127.5 + (even - split) * (127.5 / reach), 0, 255)
    labels = np.where(even < 127.5, 2, 1).astype(np.uint8)
    tick(1.0)
    return InkDrawing(labels, np.rint(even).astype(np.uint8), threshold, histogram)


def _class_levels(histogram: Floats, last_dark: int) -> tuple[float, float]:
    level = np.arange(256)
    dark, light = histogram[: last_dark + 1], histogram[last_dark + 1 :]
    return (
        float((dark * level[: last_dark + 1]).sum() / max(1.0, dark.sum())),
        float((light * level[last_dark + 1 :]).sum() / max(1.0, light.sum())) if light.sum() else 255.0,
    )


def _noise(grey: Bytes) -> float:
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
