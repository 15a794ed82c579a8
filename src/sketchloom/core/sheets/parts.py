"""What is laid: pieces, or layers in register, with the outlines that nesting looks at."""

import dataclasses
import math
from collections.abc import Iterable, Sequence
from typing import Any, Literal, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_contour
from sketchloom.core.cut import Cut, clipped
from sketchloom.core.sheets.board import Shape, shape_of
from sketchloom.core.sheets.work import Work
from sketchloom.core.units import DECIMALS, FINEST

__all__ = ["HAIR", "SLACK", "Body", "Item", "Part", "bodies_of", "bodies_within", "turned"]

HAIR = 0.02
"""mm by which the outline that is laid may lie beside that of the piece."""
_EDGE = 0.003
"""mm that a curve may reach beyond the lines it is told by."""
SLACK = 2 * (HAIR + _EDGE)
"""mm that two outlines are kept farther apart than asked, as each is a hair plainer than the piece."""
_THIN = 0.1
"""mm; as wide as any line that is drawn is taken to be."""


class Part(NamedTuple):
    """A connected part of a cut, or all its drawn lines."""

    cut: Cut
    contours: tuple[int, ...]
    shape: Any
    """Polygon, mm, where it lies in the design; several where one outline touches itself."""
    role: Literal["", "marks"] = ""


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
        return max(self.parts, key=lambda part: (not part.role, part.shape.area))

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


def _stroke_of(cut: Cut) -> Part:
    """All drawn lines of a cut, as what they cover."""
    widths = [max(width, _THIN) for width in cut.widths] or [_THIN] * len(cut.path.contours)
    ends = (contour[-1:] for contour in cut.path.contours)  # of an open line, which its points leave out
    lines = [shapely.linestrings(np.vstack([ring, end])) for ring, end in zip(cut.flat.rings, ends, strict=True)]
    covered = [line.buffer(width / 2) for line, width in zip(lines, widths, strict=False)]
    whole = shapely.union_all(covered)
    return Part(cut, tuple(range(len(cut.path.contours))), whole)


def _parts_of(cut: Cut) -> list[Part]:
    """The connected parts of a cut; one where its outlines cannot be told apart."""
    if not cut.polygons.sound.all() and cut.path.meant is None:
        cut = cut.with_path(_untied(cut.path))
    pieces = cut.polygons
    if not len(pieces.shapes):
        return []
    if not pieces.valid:
        return [Part(cut, tuple(range(len(cut.path.contours))), shapely.union_all(pieces.shapes))]
    contours: list[list[int]] = [[] for _ in pieces.shapes]
    for contour, piece in enumerate(pieces.of_contour.tolist()):
        if piece >= 0:
            contours[piece].append(contour)
    shapes = [[shape] for shape in pieces.shapes.tolist()]
    rings = cut.flat.rings
    for orphan in (place for place, own in enumerate(contours) if not own):  # split off where an outline touches itself
        inside = pieces.shapes[orphan].representative_point()
        for place, own in enumerate(contours):
            if own and not pieces.sound[place] and _enclosed([rings[one] for one in own]).covers(inside):
                shapes[place].append(pieces.shapes[orphan])
                break
    return [
        Part(cut, tuple(own), some[0] if len(some) == 1 else shapely.multipolygons(some))
        for own, some in zip(contours, shapes, strict=True)
        if own and not some[0].is_empty
    ]


def _untied(path: Path) -> Path:
    """Part closed outlines at nodes that they run through twice: there what they go round hangs together by a point."""
    contours: list[Floats] = []
    flags: list[Bools] = []
    is_open: list[bool] = []
    for contour, straight, closed in zip(path.contours, path.straight, path.closed, strict=True):
        loops = _loops(contour[:-1:3]) if closed else [list(range(len(straight)))]
        for loop in loops:
            segments = contour[3 * np.array(loop)[:, None] + np.arange(4)]
            contours.append(np.vstack([segments[:, :3].reshape(-1, 2), segments[-1:, 3]]))
            flags.append(straight[loop])
            is_open.append(not closed)
    return Path(tuple(contours), tuple(flags), tuple(is_open) if any(is_open) else ())


def _loops(nodes: Floats) -> list[list[int]]:
    """Part a closed line at nodes that it visits again; each loop by the numbers of its segments."""
    out: list[list[int]] = []
    way: list[int] = []
    seen: dict[tuple[float, float], int] = {}
    for number, node in enumerate(map(tuple, np.round(nodes, FINEST).tolist())):
        if node in seen:
            back = seen[node]
            out.append(way[back:])
            for one in way[back:]:
                seen.pop(tuple(np.round(nodes[one], FINEST).tolist()), None)
            way = way[:back]
        seen[node] = len(way)
        way.append(number)
    return [*out, way]


def _enclosed(rings: Sequence[Floats]) -> Any:
    """What an outline and the holes in it enclose, though it touches itself."""
    polygons = np.array([shapely.Polygon(ring) for ring in rings if len(ring) >= 3], object)
    whole = shapely.make_valid(polygons, method="structure", keep_collapsed=False)
    largest = max(range(len(whole)), key=lambda place: whole[place].area)
    return shapely.difference(whole[largest], shapely.union_all(np.delete(whole, largest)))


def _marks_of(cut: Cut, marks: Path) -> Part:
    """The marks of a layer, as what they cover."""
    own = dataclasses.replace(cut, key=f"{cut.key} marks", path=marks, known=None)
    return _stroke_of(own)._replace(role="marks")


def bodies_within(part: Part, shape: Any, strokes: Sequence[Floats] = ()) -> list[Body]:
    """Give what is laid of a piece of which only a shape is left, with strokes on it; its curves stay what they are."""
    cut = part.cut.with_path(clipped(part.cut.flat, shape))
    out = [[one] for one in _parts_of(cut)]
    if strokes and len(out) == 1:
        lines = tuple(straight_contour(np.round(stroke, DECIMALS) + 0.0) for stroke in strokes)
        path = Path(lines, tuple(np.ones(len(stroke) - 1, bool) for stroke in strokes), (True,) * len(lines))
        pen = dataclasses.replace(cut, key=f"{cut.key} numbers", kind="draw", path=path, widths=(), known=None)
        out[0].append(_stroke_of(pen))
    return [Body(part.cut.key, parts) for parts in out]


def bodies_of(cuts: Iterable[Cut], nested: bool, work: Work) -> list[Body]:
    """Give what is laid of some cuts of one stock: piece by piece, or each cut in register with its marks.

    Drawn lines are never laid line by line; where the layer that they are of
    is laid in register, they go with it.
    """
    cuts = list(cuts)
    drawn = [cut for cut in cuts if cut.kind != "cut" and cut.path.contours]
    out: list[Body] = []
    for cut in cuts:
        if cut.kind != "cut":
            continue
        parts = _parts_of(cut)
        if nested:
            out += [Body(cut.key, [part]) for part in parts]
        elif parts:
            with_it = [line for line in drawn if line.ink.key == cut.ink.key]
            drawn = [line for line in drawn if line.ink.key != cut.ink.key]
            marks = work.marks_of(cut.key)
            marked = [_marks_of(cut, marks)] if marks is not None else []
            out.append(Body(cut.key, [*parts, *map(_stroke_of, with_it), *marked]))
    return out + [Body(cut.key, [_stroke_of(cut)]) for cut in drawn]
