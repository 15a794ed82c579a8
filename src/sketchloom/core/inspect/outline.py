"""The outlines of a layer as polygons, and what follows from them alone."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Floats, Ints
from sketchloom.core.cut import Cut, Flat, Pieces
from sketchloom.core.inspect.balls import Side
from sketchloom.core.inspect.narrow import Narrow

__all__ = ["Outline", "leads_nowhere", "outline_of"]

_STUB = 1.5
"""Times its width that a stub is long, from which on it is a tail."""
_ROOM = 4.0
"""Times its width that is looked at to each side of a narrow place."""


@dataclass(frozen=True, eq=False)
class Outline:
    """The outlines of a layer as polygons.

    Attributes
    ----------
    flat : Flat
        All contours as lines.
    pieces : Pieces
    points, first, sense
        Corners of closed outlines that do not cross, where each begins, and 1
        where outer ones have a positive area by the shoelace formula.
    piece, window : (R,) int
        The piece that it goes round, and the window that it goes round, or -1.
    """

    flat: Flat
    pieces: Pieces
    points: Floats
    first: Ints
    sense: float
    piece: Ints
    window: Ints

    @cached_property
    def tree(self) -> Any:
        """Tree of the pieces."""
        return shapely.STRtree(self.pieces.shapes)

    @cached_property
    def union(self) -> Any:
        """All pieces as one shape."""
        return shapely.multipolygons(self.pieces.shapes) if self.pieces.valid else shapely.union_all(self.pieces.shapes)

    @cached_property
    def turns(self) -> tuple[Floats, Floats]:
        """By how much outlines turn at their corners, rad, to the inside positive, and the shorter step there, mm."""
        points, count = self.points, len(self.points)
        following = self._following
        before = np.empty(count, np.int64)
        before[following] = np.arange(count)
        ahead, back = points[following] - points, points - points[before]
        turn = np.arctan2(back[:, 0] * ahead[:, 1] - back[:, 1] * ahead[:, 0], (back * ahead).sum(1))
        return self.sense * turn, np.minimum(np.hypot(*ahead.T), np.hypot(*back.T))

    @cached_property
    def length(self) -> float:
        """Length of all outlines, mm."""
        return float(np.hypot(*(self.points[self._following] - self.points).T).sum())

    @cached_property
    def _following(self) -> Ints:
        """The next corner of each; (M,)."""
        following = np.arange(1, len(self.points) + 1)
        following[self.first[1:] - 1] = self.first[:-1]
        return following

    @cached_property
    def across(self) -> Floats:
        """How far each piece reaches, to the right or down, mm: at least that from end to end; (P,)."""
        boxes = shapely.bounds(self.pieces.shapes).reshape(-1, 4)
        return np.maximum(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])

    def reach_of(self, piece: int) -> float:
        """How far a piece reaches from end to end, mm."""
        points = shapely.get_coordinates(shapely.convex_hull(self.pieces.shapes[piece]))
        return float(np.hypot(*np.moveaxis(points[:, None] - points[None], 2, 0)).max())

    def smaller_than(self, limit: float) -> dict[int, float]:
        """Pieces that reach less far, by their number, with how far; the same for a limit each time it is asked."""
        if limit not in self._smaller:
            some = {piece: self.reach_of(piece) for piece in np.flatnonzero(self.across < limit).tolist()}
            self._smaller[limit] = {piece: reach for piece, reach in some.items() if reach < limit}
        return self._smaller[limit]

    @cached_property
    def _smaller(self) -> dict[float, dict[int, float]]:
        """What `smaller_than` gave, by limit."""
        return {}

    @cached_property
    def mean_width(self) -> Floats:
        """Twice the area of each piece over its outline, mm; (P,)."""
        shapes = self.pieces.shapes
        width: Floats = 2 * shapely.area(shapes) / np.maximum(shapely.length(shapes), 1e-9)
        return width


def outline_of(cut: Cut) -> Outline:
    """Work out the outlines of a cut; where they cross, those of what they come to."""
    flat, pieces = cut.flat, cut.polygons
    rings, lines = flat.rings, []
    owner, outers = [], []
    sense = 1.0
    if pieces.valid and pieces.sound.any():
        largest = shapely.get_exterior_ring(pieces.shapes[int(np.argmax(shapely.area(pieces.shapes) * pieces.sound))])
        sense = 1.0 if shapely.is_ccw(largest) else -1.0
    for number in np.flatnonzero((pieces.of_contour >= 0) & pieces.valid).tolist():
        piece = int(pieces.of_contour[number])
        if pieces.sound[piece]:
            lines.append(rings[number])
            owner.append(piece)
            outers.append(bool(pieces.outer[number]))
    for piece in np.flatnonzero(~pieces.sound).tolist():
        shape = shapely.orient_polygons(pieces.shapes[piece], exterior_cw=sense < 0)
        for place, ring in enumerate((shape.exterior, *shape.interiors)):
            if shape.is_empty:
                continue
            lines.append(shapely.get_coordinates(ring)[:-1])
            owner.append(piece)
            outers.append(place == 0)
    piece_of, outer = np.array(owner, np.int64), np.array(outers, bool)
    points = np.concatenate([np.zeros((0, 2)), *lines])
    first = np.append(0, np.cumsum([len(line) for line in lines])).astype(np.int64)
    window = np.where(outer, -1, np.arange(len(lines)))
    return Outline(flat, pieces, points, first, sense, piece_of, window)


def leads_nowhere(outline: Outline, place: Narrow, side: Side) -> bool:
    """Whether a narrow place only parts a stub that is no larger than it is wide; a blunt tip is no neck."""
    if place.whole or place.length >= place.width * _STUB:
        return False
    room = _ROOM * place.width
    x, y = place.at
    box = shapely.box(x - room, y - room, x + room, y + room)
    near = np.sort(outline.tree.query(box))
    here = shapely.intersection(shapely.union_all(outline.pieces.shapes[near]), box)
    if side == "outside":
        here = shapely.difference(box, here)
    way = place.across[1] - place.across[0]
    cut = shapely.linestrings([place.across[0] - 0.05 * way, place.across[1] + 0.05 * way])
    band = shapely.buffer(cut, 0.002 * place.width, cap_style="flat")
    edge = box.exterior
    for stub in shapely.get_parts(shapely.difference(here, band)):
        if stub.distance(band) < 0.01 * place.width and stub.distance(edge) > 0:
            left, top, right, bottom = stub.bounds
            small = np.hypot(right - left, bottom - top) < _STUB * place.width
            if small and shapely.buffer(stub, -place.width / 2).is_empty:
                return True
    return False
