"""The narrowest place of a layer, as its ledger row tells it."""

from typing import Any, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.layers.polygons import flatten

__all__ = ["narrowest_mm"]

_PIXELS = 600_000
_FINEST = 0.05
"""mm a pixel."""
_HALF = 0.5
"""px between the middle of the last pixel and the edge."""
_DRAWN = 1.0
"""px that a drawn polygon is wider than it is: every pixel that its edge touches is filled."""
_FIRST, _STEP, _HALVINGS = 2.0, 1.5, 4
"""Widths that are tried, px: from the first up by that factor, then halved between."""
_LONG, _TAPER, _TOLD = 1.0, 0.68, 6.0
"""Least length of a tail, in widths; what part of the width its foot has at most; and the width from which tails are
told. A tip of an angle a that is as long has at its foot cos(a / 2) / (1 + sin(a / 2)) of the width, at least 0.7."""
_MIDDLE = 0.4, 0.7
"""Part of a tail, from its foot, in which its width is taken."""
_EVEN = 0.75
"""What part of its foot's depth the middle of a tail has at least, or it is a pointed tip."""
_COARSER = 48.0
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
    return round(max(_narrowest(mask) - _DRAWN, _HALF) * mm, 3) if mask.any() else 0.0


def _raster(path: Path, origin: Floats, mm: float, shape: tuple[int, int]) -> Bools:
    rings = [np.rint(((ring - origin) / mm + 1.5) * 2**_SHIFT).astype(np.int32) for ring in flatten(path).rings]
    mask = np.zeros(shape, np.uint8)
    cv2.fillPoly(mask, rings, 1, cv2.LINE_8, _SHIFT)
    return mask.view(bool)


def _narrowest(own: Bools) -> float:
    """Try widths from thin to wide; px. A wide one is tried on a raster of half the size, and so on."""
    shape = _shape_of(own)
    count, labels = cv2.connectedComponents(own.view(np.uint8), connectivity=4)
    widest = np.zeros(count)
    np.maximum.at(widest, labels.astype(np.int64)[own], shape.deep[own])
    whole = 2 * (float(widest[1:].min()) - _HALF)
    low = high = _FIRST
    scale = 1
    while scale * high < whole and _thin_at(shape, high) is None:
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
        low, high = (low, middle) if _thin_at(shape, middle) is not None else (middle, high)
    found = _thin_at(shape, high)
    return scale * (found if found is not None and found < low else (low + high) / 2)


class _Shape(NamedTuple):
    """A raster, how deep each pixel lies in it, and how many pieces it has."""

    own: Bools
    deep: Any
    pieces: int


def _shape_of(own: Bools) -> _Shape:
    padded = np.pad(own.view(np.uint8), 1)
    deep = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1]
    return _Shape(own, deep, cv2.connectedComponents(own.view(np.uint8), connectivity=4)[0] - 1)


def _thin_at(shape: _Shape, width: float) -> float | None:
    """What an opening by a disc of a width finds thin, px: that width where it parts a piece.

    Of a tail that is no pointed tip it is the tail's own width, which is less;
    None where nothing is thin.
    """
    core = shape.deep - _HALF >= width / 2
    near = cv2.distanceTransform((~core).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    thin = shape.own & (near > width / 2 + _HALF)
    if not thin.any():
        return None
    wide = shape.own & ~thin
    count, _ = cv2.connectedComponents(wide.view(np.uint8), connectivity=4)
    if count - 1 > shape.pieces:  # no piece is gone yet: narrower ones ended the search
        return width
    if width < _TOLD:
        return None
    count, parts = cv2.connectedComponents(thin.view(np.uint8), connectivity=8)
    at, far, deep = parts[thin], near[thin], shape.deep[thin]
    reach = np.zeros(count)
    np.maximum.at(reach, at, far)
    foot = far < width / 2 + 0.25 * (reach[at] - width / 2) + 1
    ridge = np.zeros(count)
    np.maximum.at(ridge, at[foot], deep[foot])
    tail = (reach - width / 2 >= _LONG * width) & (2 * (ridge - _HALF) < _TAPER * width)
    along = (far - width / 2) / np.maximum(reach[at] - width / 2, 1e-9)
    middle = np.zeros(count)
    inside = (along > _MIDDLE[0]) & (along < _MIDDLE[1])
    np.maximum.at(middle, at[inside], deep[inside])
    tail &= middle > _EVEN * ridge
    return float(2 * middle[1:][tail[1:]].min() - _HALF) if tail[1:].any() else None
