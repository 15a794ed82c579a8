"""A piece too large for its sheet is parted where upper layers hide it.

A seam is the cheapest way over the piece on a grid (Dijkstra 1959, "A note on
two problems in connexion with graphs", Numerische Mathematik 1), in a band in
which both sides fit; it is then straightened as far as no more of it is seen.
Every straight seam on a grid of 1 mm and 1 degree is tried as well, and the
best of all is taken: least visible length, then least length, then bends.
Lines that a hand laid come first.
"""

import math
from collections.abc import Iterable, Iterator, Sequence
from itertools import islice
from typing import Any, Literal, NamedTuple

import numpy as np
import shapely
from shapely.ops import split, substring

from sketchloom.core.arrays import Floats
from sketchloom.core.cut import left_of, solid
from sketchloom.core.picture import Point
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.sheets.seams.ground import Ground
from sketchloom.core.sheets.seams.lines import ends_in, hidden_way, stepped_way, straight_lines

__all__ = ["Parted", "Parting", "Seam", "SeamKind", "overlapping", "parted"]

SeamKind = Literal["hidden", "straight", "stepped", "none"]

_WAYS = {"hidden": hidden_way, "stepped": stepped_way}
_SAME = 0.05
"""mm; seams that are seen on lengths closer than that are seen alike."""
_BEND = 2.0
"""mm of length that a bend is worth."""
_ELSEWHERE, _MOST_OTHERS = 10.0, 40
"""mm that the next best seam lies away from the best, and how many are looked at for it."""
_MOST_PARTS = 64
_REMEMBERED = 32
_TINY = 1e-3
"""mm2; smaller scraps of parting are none."""
_BEYOND = 0.01
"""mm that a line is led beyond the edges of what it parts."""


class Seam(NamedTuple):
    """Where a piece is parted."""

    layer: str
    line: Floats
    """(N, 2), mm in the design, from edge to edge of what it parts."""
    length: float
    """mm of it on the piece."""
    visible: float
    """mm of it that no upper layer hides."""
    by_hand: bool = False
    other: "Seam | None" = None
    """The next best, some way off; None where there is none, or a hand laid this one."""
    number: int = 1
    """Of its layer, from 1; the same on both sides."""

    @property
    def bends(self) -> int:
        """How often it bends."""
        return len(self.line) - 2


class Parted(NamedTuple):
    """What parting gives."""

    parts: tuple[Any, ...]
    seams: tuple[Seam, ...]
    idle: tuple[int, ...]
    """Which lines of a hand part nothing."""


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
    kind : {'hidden', 'straight', 'stepped'}
    lines : tuple of tuple of Point
        That a hand laid, in turn, mm; each parts what most of it lies on.
    """

    layer: str
    piece: Any
    covered: Any
    slip: float
    rooms: tuple[tuple[float, float], ...]
    kind: SeamKind
    lines: tuple[tuple[Point, ...], ...] = ()


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
    rooms = asked.rooms
    if _least(asked.piece.bounds, rooms) > _MOST_PARTS:
        return None
    left, seams, idle = _by_hand(asked)
    done = list[Any]()
    sure = shapely.buffer(asked.covered, -asked.slip)
    while left:
        tick(0.0)
        one = left.pop()
        if _fits(one, rooms):
            done.append(one)
            continue
        best = _best(asked.layer, Ground(one, asked.covered, sure), rooms, asked.kind)
        if best is None or len(done) + len(left) > _MOST_PARTS:
            return None
        seams.append(best.seam)
        left += best.sides
    return Parted(tuple(done), tuple(seams), tuple(idle))


def _by_hand(asked: Parting) -> tuple[list[Any], list[Seam], list[int]]:
    """What the lines of a hand part a piece into, each the part that most of it lies on if that is too large.

    With the seams, and which lines part nothing.
    """
    left, seams, idle = [asked.piece], list[Seam](), list(range(len(asked.lines)))
    for number, points in enumerate(asked.lines):
        line = np.array(points)
        whole = shapely.linestrings(line)
        over = [shapely.length(shapely.intersection(whole, part)) for part in left]
        place = int(np.argmax(over))
        part = left[place]
        if over[place] <= _TINY or _fits(part, asked.rooms) or not shapely.is_simple(whole):
            continue
        line = _run_on(line, part)
        halves = split(part, shapely.linestrings(line)).geoms
        sides = [half for half in halves if half.geom_type == "Polygon" and half.area > _TINY]
        if len(sides) > 1:
            line = _trimmed(line, part)
            shapes = np.array([part, shapely.difference(part, asked.covered)], object)
            length, seen = shapely.length(shapely.intersection(shapely.linestrings(line), shapes)).tolist()
            seams.append(Seam(asked.layer, line, length, seen, by_hand=True))
            left[place : place + 1] = sides
            idle.remove(number)
    return left, seams, idle


def _run_on(line: Floats, part: Any) -> Floats:
    """Lead the ends of a line on, straight, until they leave what it parts."""
    left, top, right, bottom = part.bounds
    reach = 2 * math.hypot(right - left, bottom - top) + float(np.hypot(*np.ptp(line, axis=0)))
    ends = []
    for here, before in ((line[0], line[1]), (line[-1], line[-2])):
        way = (here - before) / max(float(np.hypot(*(here - before))), 1e-9)
        ray = shapely.linestrings([here + _BEYOND * way, here + reach * way])
        inside = shapely.intersects(part, ray.interpolate(0.0))
        edge = shapely.get_coordinates(shapely.intersection(ray, shapely.boundary(part)))
        on = float(np.hypot(*(edge - here).T).min()) if inside and len(edge) else 0.0
        ends.append(here + way * (on + 2 * _BEYOND))
    return np.vstack([ends[0], line[1:-1], ends[1]])


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


class _Tried(NamedTuple):
    seam: Seam
    unsure: float
    sides: list[Any]

    @property
    def rank(self) -> tuple[float, float, float]:
        seen, unsure = (round(length / _SAME) * _SAME for length in (self.seam.visible, self.unsure))
        return seen, unsure, self.seam.length + _BEND * len(self.seam.line)


def _best(layer: str, ground: Ground, rooms: Sequence[tuple[float, float]], kind: SeamKind) -> _Tried | None:
    """The best seam after which fewest parts are needed, with the next best, some way off, beside it."""
    least = _least(ground.bounds, rooms)
    lines: list[Floats] = []
    for w, h in rooms:
        if _least(ground.bounds, [(w, h)]) == least:
            for down, band in _bands(ground.bounds, w, h):
                if kind in _WAYS:
                    lines.append(_WAYS[kind](ground, down, band))
                if kind != "stepped":
                    lines += ground.least_seen(ends_in(ground.bounds, down, band))
    if least <= 2 and kind != "stepped":
        lines += ground.least_seen(straight_lines(ground.piece, rooms))
    tried = []
    for line in lines:
        length, seen, unsure = ground.lengths(line)
        tried.append(_Tried(Seam(layer, line, length, seen), unsure, []))
    tried.sort(key=lambda one: one.rank)

    def good(ones: Iterable[_Tried]) -> Iterator[_Tried]:
        for one in ones:
            sides = _sides(ground.piece, one.seam.line)
            if len(sides) > 1 and (least > 2 or all(_fits(side, rooms) for side in sides)):
                yield one._replace(seam=one.seam._replace(line=_trimmed(one.seam.line, ground.piece)), sides=sides)

    best = next(good(tried), None)
    if best is None:
        return _best(layer, ground, rooms, "straight") if kind == "stepped" else None
    taken = shapely.linestrings(best.seam.line)
    away = (one for one in tried if _apart(taken, one.seam.line) > _ELSEWHERE)
    other = next(good(islice(away, _MOST_OTHERS)), None)
    return best._replace(seam=best.seam._replace(other=other.seam if other is not None else None))


def _apart(taken: Any, line: Floats) -> float:
    """How far a line gets from another, mm."""
    return float(shapely.distance(taken, shapely.points(line)).max())


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
