"""The narrowest place of a layer, as its ledger row tells it."""

from typing import Any, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.layers.polygons import flatten

__all__ = ["narrowest_mm"]

_PIXELS = 900_000
_FINEST = 0.05
"""mm a pixel."""
_HALF = 0.5
"""px between the middle of the last pixel and the edge."""
_FIRST, _STEP, _HALVINGS = 1.5, 1.35, 3
"""Widths that are tried, px: from the first up by that factor, then halved between."""
_LONG, _TAPER = 1.0, 0.8
"""Least length of a tail, in widths; and what part of the width its foot has at most, or it is a pointed tip."""
_COARSER = 24.0
"""px; a width above it is tried on a raster of half the size."""
_SHIFT = 4


def narrowest_mm(path: Path) -> float:
    """Width of the narrowest tail, neck or piece of a layer, mm; 0 for an empty one.

    What an opening by a disc [1]_ of some width takes away or parts is thinner
    than the disc; pointed tips, which an opening only blunts, aside. Found on
    a raster of at most a million pixels.

    References
    ----------
    .. [1] J. Serra, "Image Analysis and Mathematical Morphology", 1982.
    """
    if not path.contours:
        return 0.0
    left, top, right, bottom = path.bounds
    mm = max(((right - left) * (bottom - top) / _PIXELS) ** 0.5, _FINEST)
    mask = _raster(path, np.array([left, top]), mm, (int((bottom - top) / mm) + 4, int((right - left) / mm) + 4))
    return round(_narrowest(mask) * mm, 3) if mask.any() else 0.0


def _raster(path: Path, origin: Floats, mm: float, shape: tuple[int, int]) -> Bools:
    rings = [np.rint(((ring - origin) / mm + 1.5) * 2**_SHIFT).astype(np.int32) for ring in flatten(path).rings]
    mask = np.zeros(shape, np.uint8)
    cv2.fillPoly(mask, rings, 1, cv2.LINE_8, _SHIFT)
    return mask.view(bool)


def _narrowest(own: Bools) -> float:
    """Try widths from thin to wide; px. A wide one is tried on a raster of half the size, and so on."""
    shape = _shape_of(own)
    widest = np.zeros(int(shape.pieces.max()) + 1)
    np.maximum.at(widest, shape.pieces[own], shape.deep[own])
    whole = 2 * (float(widest[1:].min()) - _HALF)
    low = high = _FIRST
    scale = 1
    while scale * high < whole and not _is_thin(shape, high):
        low, high = high, high * _STEP
        if high > _COARSER:
            small = cv2.resize(shape.own.view(np.uint8) * 255, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA) > 127
            if not small.any():
                break
            shape, low, high, scale = _shape_of(small), low / 2, high / 2, 2 * scale
    if scale * high >= whole:
        return max(whole, 1.0)
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (low, middle) if _is_thin(shape, middle) else (middle, high)
    return scale * (low + high) / 2


class _Shape(NamedTuple):
    """A raster, how deep each pixel lies in it, and the number of its piece."""

    own: Bools
    deep: Any
    pieces: Any


def _shape_of(own: Bools) -> _Shape:
    padded = np.pad(own.view(np.uint8), 1)
    deep = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1]
    return _Shape(own, deep, cv2.connectedComponents(own.view(np.uint8), connectivity=4)[1])


def _is_thin(shape: _Shape, width: float) -> bool:
    """Whether an opening by a disc of a width parts a piece, or takes a tail that is no pointed tip."""
    core = shape.deep - _HALF >= width / 2
    near = cv2.distanceTransform((~core).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    thin = shape.own & (near > width / 2 + _HALF)
    if not thin.any():
        return False
    wide = shape.own & ~thin
    count, bodies = cv2.connectedComponents(wide.view(np.uint8), connectivity=4)
    piece_of = np.zeros(count, np.int64)
    piece_of[bodies[wide]] = shape.pieces[wide]
    if count > 1 and (np.bincount(piece_of[1:]) > 1).any():
        return True
    count, parts = cv2.connectedComponents(thin.view(np.uint8), connectivity=8)
    at, far = parts[thin], near[thin]
    reach = np.zeros(count)
    np.maximum.at(reach, at, far)
    foot = far < width / 2 + 0.25 * (reach[at] - width / 2) + 1
    ridge = np.zeros(count)
    np.maximum.at(ridge, at[foot], shape.deep[thin][foot])
    tail = (reach - width / 2 >= _LONG * width) & (2 * (ridge - _HALF) < _TAPER * width + _HALF)
    return bool(tail[1:].any())
