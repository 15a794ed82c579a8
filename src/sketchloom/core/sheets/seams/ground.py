"""A piece and what of it is seen, as polygons and as a grid."""

import math
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
import shapely

from sketchloom.core.arrays import Bytes, Floats, Ints

__all__ = ["Ground"]

_CELL = 1.0
_MOST_CELLS = 600_000
_SEEN, _UNSURE, _HIDDEN, _NOWHERE = 400.0, 100.0, 1.0, 0.05
"""Cost of a cell that is seen, one that may be, one that is hidden, and one beside the piece."""
_LESS = 0.02
"""What a length that may be seen counts, of one that is."""
_LOT = 1000
_TRIED_LINES = 40
"""Lines that are measured on the outlines, of those that are best as the cells have it."""
_SHIFT = 4
_FIXED = 1 << _SHIFT
_CLEAR = 1.6
"""Cells that a way keeps from those that are seen, so that no line between two of its own is."""
_DETAIL, _NEAR = 6.0, 6.0
"""mm from an edge up to which a cell costs more, and how much more at the edge."""


class Ground:
    """A piece and what of it is seen, as polygons and as a grid.

    Parameters
    ----------
    piece : Polygon
        mm
    covered, sure : Polygon or MultiPolygon
        What upper layers hide, and what they hide wherever they are laid.
    """

    def __init__(self, piece: Any, covered: Any, sure: Any) -> None:
        self.piece, self.bounds = piece, piece.bounds
        self.seen, self.unsure = shapely.difference(piece, covered), shapely.difference(piece, sure)
        left, top, right, bottom = self.bounds
        self.cell = max(_CELL, math.sqrt((right - left) * (bottom - top) / _MOST_CELLS))
        self.origin = np.array([left, top]) - 2 * self.cell
        self._shape = int((bottom - top) / self.cell) + 5, int((right - left) / self.cell) + 5
        self.inside, seen, unsure = (self._cells(shape) for shape in (piece, self.seen, self.unsure))
        off = cv2.distanceTransform(1 - unsure, cv2.DIST_L2, 5)
        deep = cv2.distanceTransform(self.inside, cv2.DIST_L2, 5) * self.cell
        cost = np.where(off < _CLEAR, _UNSURE, np.where(self.inside > 0, _HIDDEN, _NOWHERE))
        cost = np.where(seen > 0, _SEEN, cost)
        self.cost = cost + np.where(self.inside > 0, _NEAR * np.clip(1 - deep / _DETAIL, 0, 1), 0.0)
        self._price = np.float32(seen) + np.float32(_LESS) * unsure
        beside = np.ones((3, 3), np.uint8)
        self._wide = np.float32(cv2.dilate(seen, beside)) + np.float32(_LESS) * cv2.dilate(unsure, beside)

    def _cells(self, shape: Any) -> Bytes:
        """Cells whose middle lies in a shape."""
        out = np.zeros(self._shape, np.uint8)
        for part in shapely.get_parts(shape).tolist():
            if part.geom_type == "Polygon" and not part.is_empty:
                rings = [np.array(ring.coords) for ring in (part.exterior, *part.interiors)]
                points = [
                    np.round(((ring - self.origin) / self.cell - 0.5) * _FIXED).astype(np.int32) for ring in rings
                ]
                cv2.fillPoly(out, points, 1, shift=_SHIFT)
        return out

    def at(self, cells: Ints) -> Floats:
        """Middles of cells, rows and columns, as points; mm."""
        return np.asarray((cells[:, ::-1] + 0.5) * self.cell + self.origin)

    def lengths(self, line: Floats) -> tuple[float, float, float]:
        """Length of a line on the piece, what is seen of it, and what may be."""
        near = shapely.clip_by_rect([self.piece, self.seen, self.unsure], *_box_of(line))
        length, seen, unsure = shapely.length(shapely.intersection(shapely.linestrings(line), near)).tolist()
        return length, seen, unsure

    def least_seen(self, ends: Floats) -> list[Floats]:
        """Of straight lines, (N, 2, 2), those of which least is seen as the cells have it."""
        prices, lengths = self._priced(ends, self._price), np.hypot(*(ends[:, 1] - ends[:, 0]).T)
        best = np.lexsort((lengths, np.round(prices, 1)))[:_TRIED_LINES]
        return list(ends[best])

    def seen_near(self, ends: Floats) -> Floats:
        """Lengths of straight lines, (N, 2, 2), that are seen as the cells and those beside them have it, mm; (N,)."""
        return self._priced(ends, self._wide)

    def seen_along(self, line: Floats) -> Callable[[Floats], Floats]:
        """Tell lengths of straight lines beside a line that are seen by the outlines, as `seen_near` does."""
        seen, unsure = shapely.clip_by_rect([self.seen, self.unsure], *_box_of(line))

        def told(ends: Floats) -> Floats:
            lines = shapely.linestrings(ends)
            lengths = (shapely.length(shapely.intersection(lines, shape)) for shape in (seen, unsure))
            return np.asarray(next(lengths) + _LESS * next(lengths))

        return told

    def _priced(self, ends: Floats, price: Floats) -> Floats:
        """Lengths of straight lines, each weighed by the cells that it runs over; (N,)."""
        prices = np.zeros(len(ends))
        lengths = np.hypot(*(ends[:, 1] - ends[:, 0]).T)
        many = int(lengths.max(initial=0.0) / self.cell * 0.75) + 2
        share = np.float32((np.arange(many) + 0.5) / many)
        rows, columns = self._shape
        for lot in range(0, len(ends), _LOT):
            some = ends[lot : lot + _LOT]
            first, last = (((some[:, end] - self.origin) / self.cell).astype(np.float32) for end in (0, 1))
            x, y = ((first[:, axis, None] + share * (last - first)[:, axis, None]).astype(np.int32) for axis in (0, 1))
            np.clip(x, 0, columns - 1, out=x)  # the outermost cells lie beside the piece
            np.clip(y, 0, rows - 1, out=y)
            told = price.ravel().take(y * columns + x)
            prices[lot : lot + _LOT] = told.mean(1) * lengths[lot : lot + _LOT]
        return prices


def _box_of(line: Floats) -> list[float]:
    """The box round a line and a little more: shapes of thousands of holes are clipped to it before they are met."""
    return [*(line.min(0) - 1.0).tolist(), *(line.max(0) + 1.0).tolist()]
