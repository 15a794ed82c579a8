"""A picture as it was before it was enlarged."""

from typing import Any

import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.worn.enlarged import Enlargement
from sketchloom.core.worn.kernels import enlarging, solved

__all__ = ["before_enlarging"]

_ROUNDS = 8
_TIE = 1e-6
"""px of the small picture; so near the border of two of its pixels, either may have been taken."""


def before_enlarging(rgb: Bytes, found: Enlargement) -> Bytes:
    """Undo an enlargement by least squares; pixels cut off at black or white count as what would lie beyond.

    Parameters
    ----------
    rgb : (H, W, 3) uint8
    found : Enlargement

    Returns
    -------
    (found.height, found.width, 3) uint8
    """
    height, width = rgb.shape[:2]
    if found.kernel == "nearest":
        return _as_bytes(
            _block_means(_block_means(rgb, found.height).transpose(1, 0, 2), found.width).transpose(1, 0, 2)
        )
    down, across = enlarging(height, found.height, found.kernel), enlarging(width, found.width, found.kernel)
    rounds = 1 if found.kernel == "bilinear" else _ROUNDS  # a kernel without negative parts never leaves the range
    planes = [_plane_before(rgb[..., channel, None], down, across, rounds) for channel in range(3)]  # to save memory
    return np.concatenate(planes, 2)


def _plane_before(rgb: Bytes, down: Any, across: Any, rounds: int) -> Bytes:
    """Undo an enlargement of one channel; (h, w, 1)."""
    black, white = rgb == 0, rgb == 255
    wanted = rgb.astype(np.float64)
    for turn in range(rounds):
        small = _least_squares(wanted, down, across)
        if turn + 1 < rounds:
            made = _made(small, down, across)
            wanted = np.where(black, np.minimum(made, 0), np.where(white, np.maximum(made, 255), rgb))
    return _as_bytes(small)


def _block_means(values: Floats | Bytes, count: int) -> Floats:
    """Means of the blocks that pixels were repeated in, along the first axis."""
    place = (np.arange(len(values)) + 0.5) * count / len(values)
    sure = np.flatnonzero(np.abs(place - np.rint(place)) > _TIE)
    _, first, many = np.unique(np.floor(place[sure]), return_index=True, return_counts=True)
    return np.asarray(np.add.reduceat(values[sure].astype(np.float64), first) / many[:, None, None])


def _least_squares(values: Floats, down: Any, across: Any) -> Floats:
    """Pre-image along both axes."""
    once = solved(down, values)
    return solved(across, once.transpose(1, 0, 2)).transpose(1, 0, 2)


def _made(small: Floats, down: Any, across: Any) -> Floats:
    """A small picture, enlarged."""
    once = (down @ small.reshape(len(small), -1)).reshape(down.shape[0], *small.shape[1:])
    turned = np.ascontiguousarray(once.transpose(1, 0, 2))
    return np.asarray((across @ turned.reshape(len(turned), -1)).reshape(across.shape[0], *turned.shape[1:])).transpose(
        1, 0, 2
    )


def _as_bytes(values: Floats) -> Bytes:
    return np.rint(np.clip(values, 0, 255)).astype(np.uint8)
