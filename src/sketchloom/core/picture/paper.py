"""The bare paper behind a drawing: its light and its grain."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats

__all__ = ["grain_of", "paper_surface"]

_PAPER_SIDE = 192
_PAPER_DEGREE = 3
_ROUNDS = 12


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
