"""What is laid: pieces, or layers in register, with the outlines that nesting looks at."""

import dataclasses
import math
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_contour
from sketchloom.core.cut import clipped, lines_within
from sketchloom.core.sheets.board import Shape, shape_of
from sketchloom.core.sheets.pieces import Part, parts_of, stroke_of
from sketchloom.core.units import DECIMALS

__all__ = ["HAIR", "SLACK", "Body", "Item", "Part", "bodies_within", "turned"]

HAIR = 0.02
"""mm by which the outline that is laid may lie beside that of the piece."""
_EDGE = 0.003
"""mm that a curve may reach beyond the lines it is told by."""
_TINY = 1e-3
"""mm2; less of something drawn is nothing."""
SLACK = 2 * (HAIR + _EDGE)
"""mm that two outlines are kept farther apart than asked, as each is a hair plainer than the piece."""


def turned(turn: float, flipped: bool) -> Floats:
    """Matrix that flips left for right about x = 0 if asked, then turns clockwise as it is seen; (2, 2)."""
    exact = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}
    cos, sin = exact.get(turn % 360, (math.cos(math.radians(turn)), math.sin(math.radians(turn))))
    return np.array([[-cos if flipped else cos, -sin], [-sin if flipped else sin, cos]])


class Body:
    """What moves as one, in any turn; copies share it.

    Parameters
    ----------
    layer : str
        Key of the layer that it is of.
    parts : sequence of Part
    """

    def __init__(self, layer: str, parts: Sequence[Part]) -> None:
        self.layer, self.parts = layer, tuple(parts)
        shapes = np.array([part.shape for part in parts], object)
        self._points = shapely.get_coordinates(shapes)
        self._plain = shapely.simplify(shapes, HAIR)
        self.area = float(shapely.area(shapes).sum())
        self.length = float(shapely.length(shapes).sum())
        self._shapes: dict[tuple[float, bool, float, float], Shape] = {}

    @property
    def largest(self) -> Part:
        """The part that its place is told by."""
        return max(self.parts, key=lambda part: (not part.role, part.cut.kind == "cut", part.shape.area))

    def bounds(self, turn: float, flipped: bool) -> tuple[float, float, float, float]:
        """Extent at a turn, about the design's own origin, mm."""
        points = self._points @ turned(turn, flipped).T
        (left, top), (right, bottom) = points.min(0) - _EDGE, points.max(0) + _EDGE
        return float(left), float(top), float(right), float(bottom)

    def shape(self, turn: float, flipped: bool, cell: float, distance: float) -> Shape:
        """Give what is laid at a turn; the outline is a hair plainer than it is, and the distance allows for it."""
        key = turn % 360, flipped, cell, distance
        if key not in self._shapes:
            matrix = turned(turn, flipped).T
            parts = shapely.transform(self._plain, lambda points: points @ matrix)
            self._shapes[key] = shape_of(parts, self.bounds(turn, flipped), cell, distance + SLACK)
        return self._shapes[key]

    def forget_shapes(self) -> None:
        """Let go of what was prepared for laying."""
        self._shapes.clear()

    def upright(self) -> float:
        """Turn at which the smallest box round it stands straight, degrees."""
        box = shapely.minimum_rotated_rectangle(shapely.multipolygons(list(shapely.get_parts(self._plain))))
        corners = shapely.get_coordinates(box)
        if len(corners) < 3:
            return 0.0
        side = corners[1] - corners[0]
        return round(-math.degrees(math.atan2(side[1], side[0])) % 90, 1)


class Item(NamedTuple):
    """A body in one copy of the design."""

    body: Body
    copy: int


def bodies_within(part: Part, shape: Any, drawn: Sequence[Part] = (), strokes: Sequence[Floats] = ()) -> list[Body]:
    """Give what is laid of a piece of which only a shape is left; its curves stay what they are.

    Parameters
    ----------
    part : Part
        The piece.
    shape : Polygon or MultiPolygon
        mm
    drawn : sequence of Part
        What lies on the piece, of which only what lies on the shape stays.
    strokes : sequence of (N, 2) float
        That a pen draws on the shape besides, mm.
    """
    cut = part.cut.with_path(clipped(part.cut.flat, shape))
    out = [[one] for one in parts_of(cut)]
    for parts in out:
        parts += [left for one in drawn if (left := _drawn_within(one, parts[0].shape)) is not None]
    if strokes and len(out) == 1:
        lines = tuple(straight_contour(np.round(stroke, DECIMALS) + 0.0) for stroke in strokes)
        path = Path(lines, tuple(np.ones(len(stroke) - 1, bool) for stroke in strokes), (True,) * len(lines))
        pen = dataclasses.replace(cut, key=f"{cut.key} numbers", kind="draw", path=path, widths=(), known=None)
        out[0].append(stroke_of(pen))
    return [Body(part.cut.key, parts) for parts in out]


def _drawn_within(part: Part, shape: Any) -> Part | None:
    """What of something drawn lies on a shape."""
    shared = shapely.intersection(part.shape, shape)
    if shared.area <= _TINY:
        return None
    if shared.area >= part.shape.area - _TINY:
        return part
    own = part.cut.with_path(part.cut.path.part(part.contours))
    path = clipped(own.flat, shared) if own.kind == "engrave" else lines_within(own.path, shape)
    return Part(own.with_path(path), tuple(range(len(path.contours))), shared)
