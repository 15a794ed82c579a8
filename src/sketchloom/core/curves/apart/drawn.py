"""One arc, drawn back towards its crack line where it has to be."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.apart.cracks import Homes, crack_line, homes
from sketchloom.core.curves.arcs import Piece
from sketchloom.core.curves.path import lengths_of, straight_thirds
from sketchloom.core.curves.pieces import begun_at, cut_piece, joined
from sketchloom.core.planar import PlanarMap

__all__ = ["LINES", "PACE", "Drawn", "Stretch"]

PACE = 0.5
"""px between points along a curve that can be drawn back."""
LINES = 1.3
"""Share from which on the curve is its crack line itself, straight from crack to crack."""
_TURN = 0.15
"""rad; a node at which a curve turns more stays a corner."""
_ROOM = 80
"""Points beyond what is drawn back within which the curve's next node is taken for the end of the stretch."""
_CUT = 4
"""Points beyond what is drawn back where the curve is cut, if no node is near."""
_SAME = 1e-9
_REPEAT = 1e-3
"""px; points that lie closer together are one."""
_SAME_WAY = 0.2
"""rad; an end that turned by less takes its old direction again."""


class Stretch(NamedTuple):
    """Part of a drawn arc that is to be fitted anew.

    Attributes
    ----------
    points : (N, 2) float64
    corners : (N,) bool
    share : float
        How far it is drawn back at most.
    first, last : float
        Where it begins and ends on the arc as it was, in segments.
    whole : bool
        It is all of a loop; its last point is the first again.
    """

    points: Floats
    corners: Bools
    share: float
    first: float
    last: float
    whole: bool

    @property
    def tolerance(self) -> float:
        """How closely its points are to be followed, px."""
        return float(np.interp(self.share, [0.25, 1.0, LINES], [0.25, 0.16, 0.03]))


class Drawn:
    """An arc, with how far each of its points is drawn back to where it belongs on the crack line.

    Attributes
    ----------
    points : (N, 2) float64
        Along the curve as it was; a loop's first is its last again.
    share : (N,) float64
        How far each is drawn back: 0 not at all, 1 to the crack line, from `LINES` on along it.
    """

    def __init__(self, planar: PlanarMap, piece: Piece, arc: int) -> None:
        self.loop = bool(planar.loops[arc])
        if self.loop:  # begin at a corner, where there is one
            piece = begun_at(piece, float(np.argmax(_turns(piece, True)[:-1])))
        self.piece = piece
        count = np.maximum(2, np.ceil(lengths_of(piece.control) / PACE)).astype(int)
        step = np.concatenate([np.arange(n) / n for n in count.tolist()])
        row = np.repeat(np.arange(len(count)), count)
        self.place = np.append(row + step, float(len(count)))  # in segments
        self.points = _points(piece, self.place)
        self.node = np.append(step == 0, True)
        self.corner = np.zeros(len(self.place), bool)
        self.corner[self.node] = _turns(piece, self.loop) > _TURN
        height, width = planar.shape
        frame = np.array([(0, 0), (width, 0), (width, height), (0, height)])
        self.homes: Homes = homes(crack_line(planar, arc), self.points, self.loop, frame)
        self.home = self.homes.places()
        self.share = np.zeros(len(self.place))

    def now(self) -> Floats:
        """Where the points are drawn to."""
        return np.asarray(self.points + np.minimum(self.share, 1.0)[:, None] * (self.home - self.points))

    def stretches(self) -> list[Stretch]:
        """What is to be fitted anew, in order along the arc."""
        if (self.share > 0).all():
            return [self._stretch(self._rows(0), 0, len(self.share) - 1)]
        rows = self._rows(int(np.argmin(self.share)))
        edge = np.flatnonzero(np.diff((rows.share > 0).astype(np.int8), prepend=0, append=0)).reshape(-1, 2)
        ends: list[list[int]] = []
        last = len(rows.share) - 1
        for low, high in edge.tolist():
            begin, end = _back_to_node(rows.node, max(low - 1, 0)), _on_to_node(rows.node, min(high, last))
            if ends and begin <= ends[-1][1]:
                ends[-1][1] = max(end, ends[-1][1])
            else:
                ends.append([begin, end])
        return [self._stretch(rows, begin, end) for begin, end in ends]

    def _rows(self, begin: int) -> "_Rows":
        """The points in order; those of a loop from some point on, once round."""
        if not self.loop:
            begin = 0
        count = len(self.share) - 1
        order = np.arange(begin, begin + count + 1)
        again = order > count
        order[again] -= count
        place = self.place[order] + again * len(self.piece.control)
        along = self.homes.along[order] + again * self.homes.walked[-1]
        return _Rows(self.now()[order], self.share[order], self.node[order], self.corner[order], place, along)

    def _stretch(self, rows: "_Rows", begin: int, end: int) -> Stretch:
        own = rows.between(begin, end + 1)
        points, corners = own.points, own.corner.copy()
        lines = own.share >= LINES
        if lines.any():
            points, corners = self._along_cracks(points, corners, lines, own.along)
        points, corners = _without_repeats(points, corners)
        whole = self.loop and end - begin == len(self.share) - 1
        if not whole:
            corners[[0, -1]] = True
        return Stretch(points, corners, float(own.share.max()), float(own.place[0]), float(own.place[-1]), whole)

    def _along_cracks(self, points: Floats, corners: Bools, lines: Bools, along: Floats) -> tuple[Floats, Bools]:
        """Points with those of some runs replaced by the crack line's own corners."""
        line, walked = self.homes.line, self.homes.walked
        if self.loop:  # a run may pass its begin
            line, walked = np.vstack([line, line[1:]]), np.append(walked, walked[1:] + walked[-1])
        kept, sharp = [], []
        edge = np.flatnonzero(np.diff(lines.astype(np.int8), prepend=0, append=0)).reshape(-1, 2)
        done = 0
        for low, high in edge.tolist():
            first, last = along[low], along[high - 1]
            inner = (walked > first + _SAME) & (walked < last - _SAME)
            run = np.vstack([points[low : low + 1], line[inner], points[high - 1 : high]])
            run = run[np.append(True, np.abs(np.diff(run, axis=0)).max(1) > _SAME)]
            way = np.diff(run, axis=0)
            bends = np.abs(way[1:, 0] * way[:-1, 1] - way[1:, 1] * way[:-1, 0]) > _SAME
            run = run[np.concatenate([[True], bends, [True]])] if len(run) > 1 else run
            kept += [points[done:low], run]
            sharp += [corners[done:low], np.ones(len(run), bool)]
            done = high
        return np.concatenate([*kept, points[done:]]), np.concatenate([*sharp, corners[done:]])

    def with_parts(self, stretches: list[Stretch], parts: list[Piece]) -> Piece:
        """The arc with parts in the place of its stretches; a loop begins with the first of them."""
        if stretches[0].whole:
            return parts[0]
        piece, end = self.piece, float(len(self.piece.control))
        out, done = [], 0.0
        if self.loop:
            piece, done, end = joined(piece, piece), stretches[0].first, stretches[0].first + end
        for stretch, part in zip(stretches, parts, strict=True):
            out += [_between(piece, done, stretch.first), _led(part, piece, stretch)]
            done = stretch.last
        out.append(_between(piece, done, end))
        return _closed_up(joined(*(one for one in out if len(one.control))))


class _Rows(NamedTuple):
    """The points of an arc, or some of them, in order."""

    points: Floats
    share: Floats
    node: Bools
    corner: Bools
    place: Floats
    along: Floats

    def between(self, low: int, high: int) -> "_Rows":
        """Some of them in a row."""
        own = slice(low, high)
        return _Rows(
            self.points[own], self.share[own], self.node[own], self.corner[own], self.place[own], self.along[own]
        )


def _without_repeats(points: Floats, corners: Bools) -> tuple[Floats, Bools]:
    """Points of which none lies on the one before; the first and the last stay."""
    fresh = np.append(True, np.abs(np.diff(points, axis=0)).max(1) > _REPEAT)
    fresh[-1] = True
    first = np.flatnonzero(fresh)
    sharp = np.logical_or.reduceat(corners, first)
    if len(first) > 2 and np.abs(points[-1] - points[first[-2]]).max() <= _REPEAT:
        sharp[-1] |= sharp[-2]
        first, sharp = np.delete(first, -2), np.delete(sharp, -2)
    return points[first], sharp


def _back_to_node(node: Bools, row: int) -> int:
    low = max(0, row - _ROOM)
    near = np.flatnonzero(node[low : row + 1])
    return low + int(near[-1]) if len(near) else max(0, row - _CUT)


def _on_to_node(node: Bools, row: int) -> int:
    near = np.flatnonzero(node[row : row + _ROOM + 1])
    return row + int(near[0]) if len(near) else min(row + _CUT, len(node) - 1)


def _points(piece: Piece, place: Floats) -> Floats:
    """Points of a piece at places along it; (N, 2)."""
    row = np.minimum(place.astype(int), len(piece.control) - 1)
    t = (place - row)[:, None]
    p, s = piece.control[row], 1 - t
    out = s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3]
    node = t[:, 0] == 0
    out[node] = p[node, 0]
    if len(out) and place[-1] == len(piece.control):
        out[-1] = piece.control[-1, 3]
    return np.asarray(out)


def _turns(piece: Piece, loop: bool) -> Floats:
    """By how much a piece turns at its nodes, rad; at the ends of an open one as much as can be."""
    out_way, in_way = _way(piece.control), -_way(piece.control[:, ::-1])
    turn = np.full(len(piece.control) + 1, np.pi)
    before, after = in_way[:-1], out_way[1:]
    if loop:
        before, after = np.vstack([before, in_way[-1:]]), np.vstack([after, out_way[:1]])
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    found = np.abs(np.arctan2(cross, (before * after).sum(1)))
    turn[1 : 1 + len(found)] = found
    if loop:
        turn[0] = turn[-1]
    return turn


def _way(control: Floats) -> Floats:
    """Direction in which segments leave their first point; (S, 2)."""
    legs = control[:, 1:] - control[:, :1]
    size = np.hypot(legs[..., 0], legs[..., 1])
    first = np.argmax(size > 1e-9, axis=1)
    rows = np.arange(len(control))
    return np.asarray(legs[rows, first] / np.maximum(size[rows, first], 1e-12)[:, None])


def _between(piece: Piece, first: float, last: float) -> Piece:
    """Part of a piece."""
    head = cut_piece(piece, last)[0]
    if first == 0 or not len(head.control):
        return head
    if int(first) == int(last) and last != int(last):  # both within one segment
        return cut_piece(head, int(first) + (first - int(first)) / (last - int(last)))[1]
    return cut_piece(head, first)[1]


def _led(part: Piece, piece: Piece, stretch: Stretch) -> Piece:
    """A part whose ends run on in the directions that the arc has there, if they nearly do."""
    control = part.control.copy()
    smooth = stretch.last > stretch.first
    if smooth and stretch.first > 0:
        before = _between(piece, max(0.0, np.ceil(stretch.first) - 1), stretch.first)
        if len(before.control) and not part.straight[0]:
            _lead(control[0], -_way(before.control[-1:, ::-1])[0])
    if smooth and stretch.last < len(piece.control):
        after = _between(piece, stretch.last, np.floor(stretch.last) + 1)
        if len(after.control) and not part.straight[-1]:
            _lead(control[-1][::-1], -_way(after.control[:1])[0])
    return Piece(straight_thirds(control, part.straight), part.straight)


def _lead(control: Floats, way: Floats) -> None:
    """Turn a handle into a direction, in place."""
    handle = control[1] - control[0]
    size = float(np.hypot(*handle))
    if size > 1e-9 and abs(np.arctan2(handle[0] * way[1] - handle[1] * way[0], handle @ way)) < _SAME_WAY:
        control[1] = control[0] + size * way


def _closed_up(piece: Piece) -> Piece:
    """A piece whose segments begin exactly where the one before ends."""
    control = piece.control.copy()
    control[1:, 0] = control[:-1, 3]
    return Piece(control, piece.straight)
