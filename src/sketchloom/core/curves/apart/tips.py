"""Junctions whose arcs cross again right beside them, moved to where they cross.

Every arc is fitted by itself. Where two of them leave a junction at a small
angle, as at the tip of a thin ink, they may cross once more a fraction of a
pixel on; the face between them is turned over up to there, and both outlines
cross themselves. The picture shows nothing of so small a tip: it ends where
its edges meet.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, dots
from sketchloom.core.curves.apart.areas import face_areas
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.fit.junctions import on_frame
from sketchloom.core.curves.path import points_at, straight_thirds
from sketchloom.core.curves.pieces import measured, split_cubic, with_arcs
from sketchloom.core.planar import PlanarMap

__all__ = ["tips_uncrossed"]

_REACH = 2.0
"""px beside a junction; what crosses farther on is another matter."""
_LEFT = 0.05
"""px that is left of a segment at least."""
_ASIDE, _SLANT = 1.0, 4.0
"""px beside an arc, and times its length px2, up to which its end is moved; to what lies farther off a line leads."""
_KEPT = 0.5
"""Share of its area that a face keeps at least."""
_STEPS = 16
"""Chords along a segment, in a search."""
_NEWTON = 6
_ROUNDS = 4
_CHUNK = 4096


def tips_uncrossed(planar: PlanarMap, curves: ArcCurves) -> ArcCurves:
    """Move junctions inside the picture to where two of their arcs cross beside them; the other arcs follow.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, px.
    """
    kept = np.zeros(len(planar.vertices), bool)
    for _ in range(_ROUNDS):
        moved = _moved(planar, curves, _crossings(planar, curves, kept))
        if not moved:
            break
        shrunk = _shrunk(planar, curves, with_arcs(curves, _pieces(moved)))
        kept[[one.junction for one in moved if one.touches(planar, shrunk)]] = True
        moved = [one for one in moved if not kept[one.junction]]
        curves = _drawn(curves, moved) if moved else curves
    return curves


def _drawn(curves: ArcCurves, moved: Sequence["_Move"]) -> ArcCurves:
    """The curves after moves, measured anew."""
    pieces = _pieces(moved)
    beside = {arc: [other for other in one.pieces if other != arc] for one in moved for arc in one.pieces}
    return measured(_ends_told(with_arcs(curves, pieces), pieces), sorted(pieces), beside)


def _pieces(moved: Sequence["_Move"]) -> dict[int, Piece]:
    """The arcs of all moves."""
    return {arc: piece for one in moved for arc, piece in one.pieces.items()}


def _shrunk(planar: PlanarMap, before: ArcCurves, after: ArcCurves) -> Bools:
    """Faces of which less than a share is left; (F,)."""
    out: Bools = face_areas(planar, after) < _KEPT * face_areas(planar, before)
    out[0] = False
    return out


def _ends_told(curves: ArcCurves, pieces: Mapping[int, Piece]) -> ArcCurves:
    """Put the first and last sample of arcs, which are where they begin and end, there."""
    deviation = curves.deviation
    place = deviation.place.copy()
    for arc, piece in pieces.items():
        place[deviation.offset[arc]], place[deviation.offset[arc + 1] - 1] = piece.control[0, 0], piece.control[-1, 3]
    return replace(curves, deviation=deviation._replace(place=place))


class _Crossings(NamedTuple):
    """Where the segments at two ends of arcs cross; ends are ``2 arc`` at the tail and ``2 arc + 1`` at the head."""

    one: Ints  # (n,)
    other: Ints  # (n,)
    times: Floats  # (n, 2) along both, from the junction on
    place: Floats  # (n, 2)


class _Move(NamedTuple):
    """A junction that moves, and its arcs after that."""

    junction: int
    pieces: dict[int, Piece]

    def touches(self, planar: PlanarMap, faces: Bools) -> bool:
        """Whether any of its arcs bounds one of some faces."""
        arcs = list(self.pieces)
        return bool(faces[planar.left[arcs]].any() or faces[planar.right[arcs]].any())


def _crossings(planar: PlanarMap, curves: ArcCurves, kept: Bools) -> _Crossings:
    """Find, for every two arc ends at a junction that is not kept, the farthest place within reach where they cross."""
    control = _end_segments(curves)
    one, other = _pairs(planar, curves, kept)
    some = _may_cross(control, one, other)
    one, other = one[some], other[some]
    found = [_cross(control, one[low : low + _CHUNK], other[low : low + _CHUNK]) for low in range(0, len(one), _CHUNK)]
    if not found:
        return _Crossings(one, other, np.zeros((0, 2)), np.zeros((0, 2)))
    return _Crossings(*(np.concatenate(field) for field in zip(*found, strict=True)))


def _end_segments(curves: ArcCurves) -> Floats:
    """The first segment from each end of every arc, running away from it; (2 A, 4, 2)."""
    segments = curves.segments
    out = np.empty((2 * (len(curves.offset) - 1), 4, 2))
    out[0::2] = segments[curves.offset[:-1]]
    out[1::2] = segments[curves.offset[1:] - 1, ::-1]
    return out


def _pairs(planar: PlanarMap, curves: ArcCurves, kept: Bools) -> tuple[Ints, Ints]:
    """Every two arc ends at one junction inside the picture; never both ends of one segment."""
    vertex = np.stack([planar.tail, planar.head], 1).ravel()
    inner = (planar.degree > 2) & ~on_frame(planar.vertices, planar.shape) & ~kept
    ends = np.flatnonzero(inner[vertex])
    ends = ends[np.argsort(vertex[ends], kind="stable")]
    here = vertex[ends]
    one, other = [np.zeros(0, np.int64)], [np.zeros(0, np.int64)]
    for apart in (1, 2, 3):  # at most four ends meet
        same = np.flatnonzero(here[apart:] == here[:-apart])
        one.append(ends[same])
        other.append(ends[same + apart])
    first, second = np.concatenate(one), np.concatenate(other)
    lone = np.diff(curves.offset)[first // 2] == 1
    kept = ~((first // 2 == second // 2) & lone)
    return first[kept], second[kept]


def _may_cross(control: Floats, one: Ints, other: Ints) -> Bools:
    """Which pairs lie in cones that overlap; a cubic stays in the cone of its controls, seen from its end."""
    way = control[:, 1:] - control[:, :1]
    angle = np.arctan2(way[..., 1], way[..., 0])
    empty = dots(way.reshape(-1, 2), way.reshape(-1, 2)).reshape(angle.shape) == 0
    base = angle[:, 2]
    swing = (angle - base[:, None] + np.pi) % (2 * np.pi) - np.pi
    swing = np.where(empty, 0.0, swing)
    low, high = swing.min(1), swing.max(1)
    turn = (base[other] - base[one] + np.pi) % (2 * np.pi) - np.pi
    out = np.zeros(len(one), bool)
    for whole in (-2 * np.pi, 0.0, 2 * np.pi):
        out |= (turn + whole + low[other] <= high[one]) & (turn + whole + high[other] >= low[one])
    return out


def _cross(control: Floats, one: Ints, other: Ints) -> _Crossings:
    """The farthest crossing of each pair within reach; pairs that have none are left out."""
    times = np.linspace(0.0, 1.0, _STEPS + 1)
    a, b = points_at(control[one], times), points_at(control[other], times)
    step_a, step_b = np.diff(a, axis=1)[:, :, None], np.diff(b, axis=1)[:, None]
    between = b[:, None, :-1] - a[:, :-1, None]
    det = _cross_of(step_a, step_b)
    with np.errstate(divide="ignore", invalid="ignore"):
        s, t = _cross_of(between, step_b) / det, _cross_of(between, step_a) / det
    there = (s >= 0) & (s < 1) & (t >= 0) & (t < 1)
    there[:, 0, 0] = False  # both begin at the junction
    near = np.hypot(*np.moveaxis(a - a[:, :1], 2, 0))[:, :-1] < _REACH
    there &= near[:, :, None]
    flat = there.reshape(len(one), -1)
    last = flat.shape[1] - 1 - np.argmax(flat[:, ::-1], axis=1)
    some = np.flatnonzero(flat.any(1))
    i, j = np.divmod(last[some], _STEPS)
    guess = np.stack([(i + s[some, i, j]) / _STEPS, (j + t[some, i, j]) / _STEPS], 1)
    found, place, right = _exact(control[one[some]], control[other[some]], guess)
    return _Crossings(one[some][right], other[some][right], found[right], place[right])


def _exact(a: Floats, b: Floats, times: Floats) -> tuple[Floats, Floats, Bools]:
    """Newton's method for where two segments meet: parameters, places, and where it came to an end well."""
    for _ in range(_NEWTON):
        (at_a, way_a), (at_b, way_b) = _at(a, times[:, 0]), _at(b, times[:, 1])
        gap = at_b - at_a
        det = _cross_of(way_a, way_b)
        det = np.where(np.abs(det) > 1e-12, det, np.inf)
        step = np.stack([_cross_of(gap, way_b) / det, _cross_of(gap, way_a) / det], 1)
        times = np.clip(times + step, 0.0, 1.0)
    at_a, at_b = _at(a, times[:, 0])[0], _at(b, times[:, 1])[0]
    right = (np.abs(at_a - at_b).max(1) < 1e-6) & (times > 1e-3).all(1)
    rest = [np.hypot(*(segment[:, 3] - at_a).T) for segment in (a, b)]
    right &= (rest[0] > _LEFT) & (rest[1] > _LEFT)
    return times, (at_a + at_b) / 2, right


def _at(control: Floats, time: Floats) -> tuple[Floats, Floats]:
    """Points and derivatives of cubics, each at its own parameter; (n, 2) both."""
    t = time[:, None]
    s = 1 - t
    p0, p1, p2, p3 = np.moveaxis(control, 1, 0)
    point = s**3 * p0 + 3 * s * s * t * p1 + 3 * s * t * t * p2 + t**3 * p3
    way = 3 * (s * s * (p1 - p0) + 2 * s * t * (p2 - p1) + t * t * (p3 - p2))
    return point, way


def _cross_of(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])


def _moved(planar: PlanarMap, curves: ArcCurves, found: _Crossings) -> list["_Move"]:
    """Junctions moved to where two of their arcs cross: nearest crossings first, and no arc changes twice."""
    vertex = np.stack([planar.tail, planar.head], 1).ravel()
    start = _end_segments(curves)[found.one, 0]
    out: list[_Move] = []
    changed: set[int] = set()
    for row in np.argsort(np.hypot(*(found.place - start).T), kind="stable").tolist():
        junction = int(vertex[found.one[row]])
        ends = [int(half) for half in planar.leaving[junction] if half >= 0]
        if not changed.isdisjoint(end // 2 for end in ends):
            continue
        cut = {int(found.one[row]): found.times[row, 0], int(found.other[row]): found.times[row, 1]}
        pieces: dict[int, Piece] = {}
        for end in ends:
            piece = pieces.get(end // 2) or arc_piece(curves, end // 2)
            pieces[end // 2] = _begun_at(piece, end, found.place[row], cut.get(end))
        changed |= pieces.keys()
        out.append(_Move(junction, pieces))
    return out


def _begun_at(piece: Piece, end: int, place: Floats, time: float | None) -> Piece:
    """An arc that begins at a place: cut there, or led there from where it comes nearest."""
    piece = piece.reversed() if end % 2 else piece
    control, straight = piece.control.copy(), piece.straight.copy()
    time = _nearest(control[0], place) if time is None else time
    if time > 0:
        control[0] = split_cubic(control[0], time)[1]
    gap = place - control[0, 0]
    way = next((one - control[0, 0] for one in control[0, 1:] if (one != control[0, 0]).any()), gap)
    aside = abs(float(_cross_of(way, gap))) / max(float(np.hypot(*way)), 1e-9)
    if aside <= _ASIDE and aside * float(np.hypot(*(control[0, 3] - control[0, 0]))) <= _SLANT:
        control[0, :2] += gap
    else:  # so much would slant it
        control = np.concatenate([np.repeat([[place, control[0, 0]]], 2, 1), control])
        straight = np.append(True, straight)
    control[0, 0] = place
    out = Piece(straight_thirds(control, straight), straight)
    return out.reversed() if end % 2 else out


def _nearest(control: Floats, place: Floats) -> float:
    """Parameter of the point of a cubic next to a place, 0 where that is the beginning."""
    times = np.linspace(0.0, 1.0, _STEPS**2 + 1)
    away = np.hypot(*(points_at(control[None], times)[0] - place).T)
    time = float(times[int(np.argmin(away))])
    left = points_at(control[None], np.array([time]))[0, 0] - control[3]
    return time if float(np.hypot(*left)) > _LEFT else 0.0
