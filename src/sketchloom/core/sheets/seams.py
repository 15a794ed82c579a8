"""Seams: a piece too large for its sheet is parted where upper layers hide it.

A seam is the cheapest way over the piece on a grid (Dijkstra 1959, "A note on
two problems in connexion with graphs", Numerische Mathematik 1), in a band in
which both sides fit; it is then straightened as far as no more of it is seen.
Every straight seam on a grid of 1 mm and 1 degree is tried as well, and the
best of all is taken: least visible length, then least length, then bends.
"""

import math
from collections.abc import Iterator, Sequence
from typing import Any, Literal, NamedTuple

import cv2
import numpy as np
import shapely
from shapely.ops import substring

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.cut import left_of, solid
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Parting", "Seam", "SeamKind", "overlapping", "parted"]

SeamKind = Literal["hidden", "straight", "none"]

_CELL = 1.0
_MOST_CELLS = 600_000
_SEEN, _UNSURE, _HIDDEN, _NOWHERE = 400.0, 100.0, 1.0, 0.05
"""Cost of a cell that is seen, one that may be, one that is hidden, and one beside the piece."""
_LESS = 0.02
"""What a length that may be seen counts, of one that is."""
_MOST_ENDS = 40
_LOT = 1000
_TRIED_LINES = 40
"""Lines that are measured on the outlines, of those that are best as the cells have it."""
_SHIFT = 4
_FIXED = 1 << _SHIFT
_CLEAR = 1.6
"""Cells that a way keeps from those that are seen, so that no line between two of its own is."""
_DETAIL, _NEAR = 6.0, 6.0
"""mm from an edge up to which a cell costs more, and how much more at the edge."""
_STRAIGHTER = (60.0, 30.0, 15.0, 8.0, 4.0, 2.0, 1.0)
"""mm that a seam may be straightened by, tried in turn."""
_SAME = 0.05
"""mm; seams that are seen on lengths closer than that are seen alike."""
_BEND = 2.0
"""mm of length that a bend is worth."""
_MOST_PARTS = 64
_REMEMBERED = 32
_SAMPLE = 0.5
_TINY = 1e-3
"""mm2; smaller scraps of parting are none."""


class Seam(NamedTuple):
    """Where a piece is parted."""

    layer: str
    line: Floats
    """(N, 2), mm in the design, from edge to edge of what it parts."""
    length: float
    """mm of it on the piece."""
    visible: float
    """mm of it that no upper layer hides."""


Parted = tuple[tuple[Any, ...], tuple[Seam, ...]]


_remembered: dict["Parting", tuple[Parted | None]] = {}


class Parting(NamedTuple):
    """What is to be parted.

    Attributes
    ----------
    layer : str
        Key of its layer.
    piece : Polygon
        mm
    covered : Polygon or MultiPolygon
        What upper layers hide.
    slip : float
        mm by which they may be laid off, and what they hide is less.
    rooms : tuple of (float, float)
        Width and height of what may lie on a sheet, in each allowed turn.
    kind : {'hidden', 'straight'}
    """

    layer: str
    piece: Any
    covered: Any
    slip: float
    rooms: tuple[tuple[float, float], ...]
    kind: SeamKind


def parted(asked: Parting, tick: Tick = no_tick) -> Parted | None:
    """Part a piece until all parts fit; None where no seam is found that does it. Remembers the last answers."""
    known = _remembered.get(asked)
    if known is None:
        known = (_parted(asked, tick),)
        if len(_remembered) >= _REMEMBERED:
            _remembered.clear()
        _remembered[asked] = known
    return known[0]


def _parted(asked: Parting, tick: Tick) -> Parted | None:
    layer, piece, covered, slip, rooms, kind = asked
    if _least(piece.bounds, rooms) > _MOST_PARTS:
        return None
    left, done = [piece], list[Any]()
    sure = shapely.buffer(covered, -slip)
    seams: list[Seam] = []
    while left:
        tick(0.0)
        one = left.pop()
        if _fits(one, rooms):
            done.append(one)
            continue
        best = _best(layer, _Ground(one, covered, sure), rooms, kind)
        if best is None or len(done) + len(left) > _MOST_PARTS:
            return None
        seams.append(best.seam)
        left += best.sides
    return tuple(done), tuple(seams)


def _least(bounds: Sequence[float], rooms: Sequence[tuple[float, float]]) -> int:
    """Parts that a box needs at least, cut across and down."""
    left, top, right, bottom = bounds
    counts = [
        math.ceil((right - left) / w - 1e-9) * math.ceil((bottom - top) / h - 1e-9) for w, h in rooms if w > 1 < h
    ]
    return min(counts, default=_MOST_PARTS + 1)


def _fits(part: Any, rooms: Sequence[tuple[float, float]]) -> bool:
    left, top, right, bottom = part.bounds
    return any(right - left <= w and bottom - top <= h for w, h in rooms)


def overlapping(parts: Sequence[Any], seams: Sequence[Seam], by: float) -> list[Any]:
    """Let each part run on by a length, mm, under those that follow, across the seams between them."""
    if not by:
        return list(parts)
    near = shapely.union_all([shapely.buffer(shapely.linestrings(seam.line), by + _TINY) for seam in seams])
    out = []
    for place, part in enumerate(parts):
        behind = shapely.union_all(parts[place + 1 :])
        more = shapely.intersection(shapely.intersection(shapely.buffer(part, by, join_style="mitre"), behind), near)
        out.append(solid(shapely.union(part, more)))
    return out


class _Ground:
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
        whole = shapely.linestrings(line)
        shapes = np.array([self.piece, self.seen, self.unsure], object)
        length, seen, unsure = shapely.length(shapely.intersection(whole, shapes)).tolist()
        return length, seen, unsure

    def least_seen(self, ends: Floats) -> list[Floats]:
        """Of straight lines, (N, 2, 2), those of which least is seen as the cells have it."""
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
            told = self._price.ravel().take(y * columns + x)
            prices[lot : lot + _LOT] = told.mean(1) * lengths[lot : lot + _LOT]
        best = np.lexsort((lengths, np.round(prices, 1)))[:_TRIED_LINES]
        return list(ends[best])


class _Tried(NamedTuple):
    seam: Seam
    unsure: float
    sides: list[Any]

    @property
    def rank(self) -> tuple[float, float, float]:
        seen, unsure = (round(length / _SAME) * _SAME for length in (self.seam.visible, self.unsure))
        return seen, unsure, self.seam.length + _BEND * len(self.seam.line)


def _best(layer: str, ground: _Ground, rooms: Sequence[tuple[float, float]], kind: SeamKind) -> _Tried | None:
    """The best seam after which fewest parts are needed."""
    least = _least(ground.bounds, rooms)
    lines: list[Floats] = []
    for w, h in rooms:
        if _least(ground.bounds, [(w, h)]) == least:
            for down, band in _bands(ground.bounds, w, h):
                lines += [] if kind == "straight" else [_way(ground, down, band)]
                lines += ground.least_seen(_ends_in(ground.bounds, down, band))
    if least <= 2:
        lines += ground.least_seen(_straight(ground.piece, rooms))
    tried = []
    for line in lines:
        length, seen, unsure = ground.lengths(line)
        tried.append(_Tried(Seam(layer, line, length, seen), unsure, []))
    for one in sorted(tried, key=lambda one: one.rank):
        sides = _sides(ground.piece, one.seam.line)
        if len(sides) > 1 and (least > 2 or all(_fits(side, rooms) for side in sides)):
            return one._replace(seam=one.seam._replace(line=_trimmed(one.seam.line, ground.piece)), sides=sides)
    return None


def _trimmed(line: Floats, piece: Any) -> Floats:
    """A line from where it comes to a piece to where it leaves it."""
    whole = shapely.linestrings(line)
    ends = shapely.points(shapely.get_coordinates(shapely.intersection(whole, piece)))
    along = shapely.line_locate_point(whole, ends)
    return shapely.get_coordinates(substring(whole, float(along.min()), float(along.max())))


def _bands(bounds: Sequence[float], w: float, h: float) -> Iterator[tuple[bool, tuple[float, float]]]:
    """Bands in which a seam leaves as few parts as can be: whether it runs down, and between which two lines."""
    left, top, right, bottom = bounds
    for down, low, high, room in ((True, left, right, w), (False, top, bottom, h)):
        many = math.ceil((high - low) / room - 1e-9)
        if many > 1:
            yield down, (high - (many - 1) * room, low + room)


def _sides(piece: Any, line: Floats) -> list[Any]:
    """What a line that crosses a piece parts it into."""
    left, top, right, bottom = piece.bounds
    side = left_of(line, 3 * math.hypot(right - left, bottom - top) + 10)
    return [
        part
        for half in (shapely.intersection(piece, side), shapely.difference(piece, side))
        for part in shapely.get_parts(half).tolist()
        if part.geom_type == "Polygon" and part.area > _TINY
    ]


def _way(ground: _Ground, down: bool, band: tuple[float, float]) -> Floats:
    """The cheapest way in a band, straightened as far as no more of it is seen."""
    axis = 0 if down else 1
    first, last = ((edge - ground.origin[axis]) / ground.cell for edge in band)
    low, high = math.ceil(first), max(math.ceil(first) + 1, math.floor(last))
    cost = ground.cost if down else ground.cost.T
    path = _cheapest(cost[:, low:high]) + np.array([0, low])
    line = ground.at(path if down else path[:, ::-1])
    line[:, axis] = np.clip(line[:, axis], *band)
    _, seen, unsure = ground.lengths(line)
    for by in _STRAIGHTER:
        plain = shapely.get_coordinates(shapely.simplify(shapely.linestrings(line), by))
        _, now, may = ground.lengths(plain)
        if now <= seen + _SAME / 2 and may <= unsure + _SAME / 2:
            return plain
    return line


def _cheapest(cost: Floats) -> Any:
    """The cheapest way from the first row of a grid to the last, eight neighbours; (N, 2) rows and columns."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import dijkstra

    rows, columns = cost.shape
    number = np.arange(rows * columns).reshape(rows, columns)
    begin, end = rows * columns, rows * columns + 1
    one, other, length = [], [], []
    for down, right in ((0, 1), (1, 0), (1, 1), (1, -1)):
        here = (slice(0, rows - down), slice(max(0, -right), columns - max(0, right)))
        there = (slice(down, rows), slice(max(0, right), columns + min(0, right)))
        one.append(number[here].ravel())
        other.append(number[there].ravel())
        length.append(((cost[here] + cost[there]) / 2 * math.hypot(down, right)).ravel())
    ends = [np.full(columns, begin), number[-1]], [number[0], np.full(columns, end)]
    one += ends[0]
    other += ends[1]
    length += [np.full(columns, 1e-6)] * 2
    graph = coo_matrix((np.concatenate(length), (np.concatenate(one), np.concatenate(other))), (end + 1, end + 1))
    _, before = dijkstra(graph.tocsr(), directed=False, indices=begin, return_predecessors=True)
    way, at = [], int(before[end])
    while at != begin:
        way.append(at)
        at = int(before[at])
    return np.column_stack(np.divmod(np.array(way[::-1]), columns))


def _ends_in(bounds: Sequence[float], down: bool, band: tuple[float, float]) -> Floats:
    """Ends of all straight lines through a band, on a grid of 1 mm at both; (N, 2, 2)."""
    axis = 0 if down else 1
    many = max(2, min(_MOST_ENDS, int(band[1] - band[0]) + 1))
    places = np.linspace(band[0] + 1e-6, band[1] - 1e-6, many)
    out = np.zeros((many * many, 2, 2))
    out[:, 0, axis], out[:, 1, axis] = (each.ravel() for each in np.meshgrid(places, places))
    out[:, 0, 1 - axis], out[:, 1, 1 - axis] = bounds[1 - axis] - 1, bounds[3 - axis] + 1
    return out


def _straight(piece: Any, rooms: Sequence[tuple[float, float]]) -> Floats:
    """Ends of all straight seams on a grid of 1 mm and 1 degree that leave two sides which fit; (N, 2, 2)."""
    outline = shapely.get_coordinates(shapely.segmentize(piece.exterior, _SAMPLE))
    middle = outline.mean(0)
    reach = float(np.hypot(*(outline - middle).T).max()) + 2
    ends: list[Floats] = []
    for degrees in range(180):
        angle = math.radians(degrees)
        way, normal = np.array([math.cos(angle), math.sin(angle)]), np.array([-math.sin(angle), math.cos(angle)])
        along = (outline - middle) @ normal
        order = np.argsort(along)
        offsets = np.arange(math.ceil(along.min()) + 1, math.floor(along.max()))
        if len(offsets):
            before, behind = _boxes(outline[order], np.searchsorted(along[order], offsets))
            offsets = offsets[_hold(before, rooms) & _hold(behind, rooms)]
        base = middle + offsets[:, None] * normal
        ends.append(np.stack([base - reach * way, base + reach * way], 1))
    return np.concatenate(ends)


def _boxes(points: Floats, at: Any) -> tuple[Floats, Floats]:
    """Width and height of the box round the first so many of some points, and round the others; (N, 2) each."""
    low, high = np.minimum.accumulate(points), np.maximum.accumulate(points)
    low_back = np.minimum.accumulate(points[::-1])[::-1]
    high_back = np.maximum.accumulate(points[::-1])[::-1]
    some = np.minimum(at, len(points) - 1)  # a point more on either side: the line's own ends lie between
    rest = np.maximum(at - 1, 0)
    return high[some] - low[some], high_back[rest] - low_back[rest]


def _hold(sizes: Floats, rooms: Sequence[tuple[float, float]]) -> Bools:
    return np.asarray(np.any([(sizes <= np.array(room) - 2 * _SAMPLE).all(1) for room in rooms], axis=0))
