"""Where cubic segments cross, each other or themselves: all of them, anywhere."""

from typing import NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves.path import points_at

__all__ = ["CHORDS", "Crossings", "Search", "find_crossings"]

CHORDS = (64, 24)
"""A segment is read as so many chords, alike both ways; by two counts, as readers of a file take their own."""
_GROUP = 8
_AT_END = 1e-6
"""So near the end of a chord, in the units of the curves, two only touch."""
_ON_LINE = 1e-9
"""Of its length that a straight segment's controls may lie off it."""
_PORTION = 16384


class Crossings(NamedTuple):
    """Places where segments cross.

    Attributes
    ----------
    segments : (N, 2) int
        The two, alike for one that crosses itself.
    place : (N, 2) float64
    """

    segments: Ints
    place: Floats


def find_crossings(segments: Floats) -> Crossings:
    """Find where segments cross, or lie on each other from a common end on; where they only touch they do not.

    Parameters
    ----------
    segments : (S, 4, 2) float

    Notes
    -----
    Boxes of the controls are looked up in a tree. Of the pairs that it gives
    most are parted by a line: those that share an end by one through it, as
    each lies in the cone of its controls, the others by one along a chord or
    across it. Chords of the few that are left are intersected.
    """
    return Search(segments).all()


class Search:
    """Segments laid out to be searched: once all, later those that changed against the others."""

    def __init__(self, segments: Floats) -> None:
        self._segments = segments
        self._tree = shapely.STRtree(_boxes(segments))

    def all(self) -> Crossings:
        """Every crossing."""
        one, other = self._tree.query(_boxes(self._segments))
        once = one < other
        return _among(self._segments, one[once], other[once], np.arange(len(self._segments)))

    def beside(self, still: Bools, fresh: Floats, newly: Bools) -> Crossings:
        """Crossings of what changed lately with itself and with all else.

        Parameters
        ----------
        still : (S,) bool
            Which of the segments laid out stay.
        fresh : (F, 4, 2) float
            What stands for the others. In their result segment i of these is named ``S + i``.
        newly : (F,) bool
            Which of these changed since they were searched last; pairs of which none did are left out.
        """
        count = len(self._segments)
        lately = np.flatnonzero(newly)
        boxes = _boxes(fresh)
        mine, theirs = self._tree.query(boxes[lately])
        kept = still[theirs]
        one, other = shapely.STRtree(boxes).query(boxes[lately])
        one = lately[one]
        once = (one < other) | ((one > other) & ~newly[other])
        one, other = one[once], other[once]
        both = np.concatenate([self._segments, fresh])
        first = np.concatenate([theirs[kept], count + np.minimum(one, other)])
        second = np.concatenate([count + lately[mine[kept]], count + np.maximum(one, other)])
        return _among(both, first, second, count + lately)


def _boxes(segments: Floats) -> np.ndarray:
    low, high = segments.min(1), segments.max(1)
    boxes: np.ndarray = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    return boxes


def _among(segments: Floats, one: Ints, other: Ints, alone: Ints) -> Crossings:
    """Crossings of pairs whose boxes meet, and of single segments with themselves."""
    kept = np.concatenate(
        [
            _may_cross(segments, one[low : low + _PORTION], other[low : low + _PORTION])
            for low in range(0, len(one), _PORTION)
        ]
        or [np.zeros(0, bool)]
    )
    lying, where = _on_each_other(segments, one, other)
    loops = alone[_may_loop(segments[alone])]
    pairs, at = [np.stack([one[lying], other[lying]], 1)], [where]
    one, other = np.append(one[kept], loops), np.append(other[kept], loops)
    if not len(one):
        return Crossings(pairs[0], where)
    names, place = np.unique(np.concatenate([one, other]), return_inverse=True)
    a, b = place[: len(one)], place[len(one) :]
    for count in CHORDS:
        chords = _polylines(segments[names], count)
        for low in range(0, len(a), _PORTION):
            row, where = _crossed(chords, a[low : low + _PORTION], b[low : low + _PORTION])
            pairs.append(np.stack([one[low + row], other[low + row]], 1))
            at.append(where)
    return Crossings(np.concatenate(pairs), np.concatenate(at))


def _on_each_other(segments: Floats, one: Ints, other: Ints) -> tuple[Ints, Floats]:
    """Pairs of straight segments that run from one point the same way, and the middles of what they share."""
    chord = segments[:, 3] - segments[:, 0]
    size = np.hypot(*chord.T)
    legs = segments[:, 1:3] - segments[:, :1]
    off = np.abs(legs[..., 0] * chord[:, None, 1] - legs[..., 1] * chord[:, None, 0]).max(1)
    line = (off <= _ON_LINE * size**2) & (size > 0)
    both = np.flatnonzero(line[one] & line[other])
    rows: list[Ints] = []
    at: list[Floats] = []
    for i in (0, 3):
        for j in (0, 3):
            here = both[(segments[one[both], i] == segments[other[both], j]).all(1)]
            a, b = chord[one[here]] * (1 if i == 0 else -1), chord[other[here]] * (1 if j == 0 else -1)
            near = np.abs(_cross(a, b)) <= _ON_LINE * size[one[here]] * size[other[here]]
            same = np.flatnonzero(near & ((a * b).sum(1) > 0))
            rows.append(here[same])
            half = np.minimum(size[one[here[same]]], size[other[here[same]]]) / 2
            at.append(segments[one[here[same]], i] + a[same] * (half / size[one[here[same]]])[:, None])
    return np.concatenate(rows), np.concatenate(at)


def _may_loop(segments: Floats) -> Bools:
    """Which cubics may cross themselves: those whose controls turn by half a turn and more."""
    leg = np.diff(segments, axis=1)
    turn = np.zeros(len(segments))
    for a, b in ((0, 1), (1, 2)):
        cross = leg[:, a, 0] * leg[:, b, 1] - leg[:, a, 1] * leg[:, b, 0]
        turn += np.abs(np.arctan2(cross, (leg[:, a] * leg[:, b]).sum(1)))
    out: Bools = turn >= np.pi * (1 - 1e-9)
    return out


def _may_cross(segments: Floats, one: Ints, other: Ints) -> Bools:
    """Which pairs no line parts."""
    a, b = segments[one], segments[other]
    out = np.ones(len(one), bool)
    shared = np.zeros(len(one), bool)
    for i in (0, 3):
        for j in (0, 3):
            here = np.flatnonzero((a[:, i] == b[:, j]).all(1))
            shared[here] = True
            out[here] &= ~_cones_apart(a[here] if i == 0 else a[here, ::-1], b[here] if j == 0 else b[here, ::-1])
    rest = np.flatnonzero(~shared)
    a, b = a[rest], b[rest]
    apart = np.zeros(len(rest), bool)
    for chord in (a[:, 3] - a[:, 0], b[:, 3] - b[:, 0]):
        for axis in (chord, np.stack([-chord[:, 1], chord[:, 0]], 1)):
            at_a, at_b = (a @ axis[:, :, None])[..., 0], (b @ axis[:, :, None])[..., 0]
            apart |= (at_a.max(1) < at_b.min(1)) | (at_b.max(1) < at_a.min(1))
    out[rest] = ~apart
    return out


def _cones_apart(a: Floats, b: Floats) -> Bools:
    """Which pairs of cubics that begin at one point lie in cones that share nothing else."""
    (low_a, high_a, base_a), (low_b, high_b, base_b) = _cone(a), _cone(b)
    turn = (base_b - base_a + np.pi) % (2 * np.pi) - np.pi
    meet = np.zeros(len(a), bool)
    for whole in (-2 * np.pi, 0.0, 2 * np.pi):
        meet |= (turn + whole + low_b <= high_a) & (turn + whole + high_b >= low_a)
    wide = (high_a - low_a >= np.pi) | (high_b - low_b >= np.pi)
    out: Bools = ~(meet | wide)
    return out


def _cone(control: Floats) -> tuple[Floats, Floats, Floats]:
    """Least and largest angle of the controls seen from the first, rad, about the last one's; and that angle."""
    way = control[:, 1:] - control[:, :1]
    angle = np.arctan2(way[..., 1], way[..., 0])
    base = angle[:, 2]
    swing = (angle - base[:, None] + np.pi) % (2 * np.pi) - np.pi
    swing[(way == 0).all(2)] = 0.0
    return swing.min(1), swing.max(1), base


def _polylines(segments: Floats, count: int) -> Floats:
    """Points along segments, (n, count + 1, 2): the same for a segment and its reverse."""
    begin, end = segments[:, 0], segments[:, 3]
    back = (begin[:, 0] > end[:, 0]) | ((begin[:, 0] == end[:, 0]) & (begin[:, 1] > end[:, 1]))
    control = np.where(back[:, None, None], segments[:, ::-1], segments)
    points = points_at(control, np.linspace(0, 1, count + 1))
    points[:, 0], points[:, -1] = control[:, 0], control[:, 3]
    return points


def _crossed(chords: Floats, a: Ints, b: Ints) -> tuple[Ints, Floats]:
    """Which pairs of polylines cross, and where; a pair may do so more than once."""
    starts = np.arange(0, chords.shape[1] - 1, _GROUP)
    index = starts[:, None] + np.arange(_GROUP + 1)
    low, high = chords[:, index].min(2), chords[:, index].max(2)  # (n, groups, 2)
    meet = (low[a][:, :, None] <= high[b][:, None]) & (low[b][:, None] <= high[a][:, :, None])
    pair, g, h = np.nonzero(meet.all(3))
    kept = (a[pair] != b[pair]) | (g <= h)
    pair, g, h = pair[kept], g[kept], h[kept]
    rows: list[Ints] = [np.zeros(0, np.int64)]
    at: list[Floats] = [np.zeros((0, 2))]
    step = np.arange(_GROUP + 1)
    for first in range(0, len(pair), _PORTION):
        part = slice(first, first + _PORTION)
        p = chords[a[pair[part]][:, None], starts[g[part]][:, None] + step]
        q = chords[b[pair[part]][:, None], starts[h[part]][:, None] + step]
        row, place = _chords_crossed(p, q, (a == b)[pair[part]] & (g[part] == h[part]))
        rows.append(pair[part][row])
        at.append(place)
    return np.concatenate(rows), np.concatenate(at)


def _chords_crossed(p: Floats, q: Floats, same: Bools) -> tuple[Ints, Floats]:
    """Crossings of short polylines, (n, k + 1, 2) each; of one with itself each is told once."""
    d, e = np.diff(p, axis=1)[:, :, None], np.diff(q, axis=1)[:, None]
    w = q[:, None, :-1] - p[:, :-1, None]
    det = _cross(d, e)
    with np.errstate(divide="ignore", invalid="ignore"):
        u, v = _cross(w, e) / det, _cross(w, d) / det
        nu, nv = _AT_END / np.hypot(d[..., 0], d[..., 1]), _AT_END / np.hypot(e[..., 0], e[..., 1])
        hit = (u > nu) & (u < 1 - nu) & (v > nv) & (v < 1 - nv)
    order = np.arange(hit.shape[1])
    hit &= ~same[:, None, None] | (order[:, None] < order)
    row, i, j = np.nonzero(hit)
    return row, p[row, i] + u[row, i, j][:, None] * d[row, i, 0]


def _cross(a: Floats, b: Floats) -> Floats:
    return np.asarray(a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0])
