"""Numbers of seams as single strokes, on both sides, where upper layers hide them if they do anywhere."""

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.sheets.seams.parting import Seam

__all__ = ["number_strokes"]

_HEIGHT, _WIDTH, _GAP = 5.0, 3.0, 1.2
"""mm of a digit, and between two."""
_AWAY = 1.5
"""mm between a number and what it lies beside."""
_STEP = 5.0
"""mm along a seam from one place that is tried to the next."""
_CORNERS = {
    "a": (0, 0), "b": (1, 0), "c": (0, 0.5), "d": (1, 0.5), "e": (0, 1), "f": (1, 1), "g": (0.5, 0), "h": (0.5, 1),
}  # fmt: skip
_DIGITS = {
    "0": ("abfea",), "1": ("cgh", "ef"), "2": ("abdcef",), "3": ("abdfe", "cd"), "4": ("acd", "bf"), "5": ("bacdfe",),
    "6": ("baefdc",), "7": ("abh",), "8": ("cabfecd",), "9": ("dcabfe",),
}  # fmt: skip
"""Strokes from corner to corner: ``a`` to ``f`` those of two squares, ``g`` and ``h`` the middle above and below."""


def number_strokes(part: Any, seams: Sequence[Seam], covered: Any) -> list[Floats]:
    """Give the numbers of the seams that bound a part, as lines on it; a seam beside which none has room gets none.

    Parameters
    ----------
    part : Polygon
        mm
    seams : sequence of Seam
    covered : Polygon or MultiPolygon
        What upper layers hide.

    Returns
    -------
    list of (N, 2) float
        mm
    """
    edge = shapely.boundary(part)
    inside = shapely.buffer(part, -_AWAY)
    hidden = shapely.intersection(inside, covered)
    shapely.prepare(inside)
    out: list[Floats] = []
    for seam in seams:
        line = shapely.linestrings(seam.line)
        if shapely.length(shapely.intersection(line, shapely.buffer(edge, 0.1))) < _WIDTH:
            continue
        words = str(seam.number)
        size = np.array([len(words) * (_WIDTH + _GAP) - _GAP, _HEIGHT])
        middles = _middles(seam, float(np.hypot(*size)) / 2 + _AWAY)
        boxes = shapely.box(*(middles - size / 2).T, *(middles + size / 2).T)
        fits = np.flatnonzero(shapely.contains_properly(inside, boxes))
        if not len(fits):
            continue
        seen = size.prod() - shapely.area(shapely.intersection(boxes[fits], hidden))
        from_middle = np.hypot(*(middles[fits] - seam.line.mean(0)).T)
        best = fits[np.lexsort((from_middle, np.round(seen, 3)))[0]]
        out += _strokes(words, middles[best] - size / 2)
    return out


def _middles(seam: Seam, away: float) -> Floats:
    """Places on both sides of a seam, (N, 2)."""
    line = shapely.linestrings(seam.line)
    along = np.arange(_STEP / 2, max(float(line.length), _STEP), _STEP)
    at = shapely.get_coordinates(line.interpolate(along))
    ahead = shapely.get_coordinates(line.interpolate(along + 0.5))
    way = ahead - shapely.get_coordinates(line.interpolate(along - 0.5))
    normal = np.column_stack([way[:, 1], -way[:, 0]]) / np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    return np.vstack([at + away * normal, at - away * normal])


def _strokes(words: str, corner: Floats) -> list[Floats]:
    out = []
    for place, digit in enumerate(words):
        left = corner + np.array([place * (_WIDTH + _GAP), 0.0])
        out += [left + np.array([_CORNERS[one] for one in stroke]) * (_WIDTH, _HEIGHT) for stroke in _DIGITS[digit]]
    return out
