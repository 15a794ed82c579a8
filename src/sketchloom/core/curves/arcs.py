"""The curves of all arcs of a planar map, each fitted exactly once."""

from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, ranges
from sketchloom.core.curves.corners import Neighbours, corner_places, find_corners
from sketchloom.core.curves.cubics import rest_of_cubics
from sketchloom.core.curves.junctions import on_frame, place_vertices, run_through
from sketchloom.core.curves.nodes import Chosen, choose_nodes
from sketchloom.core.curves.noise import Noise, measure_noise
from sketchloom.core.curves.path import areas_below
from sketchloom.core.curves.settings import Bounds
from sketchloom.core.curves.square import square_up
from sketchloom.core.curves.track import Stretches, Track
from sketchloom.core.planar import EdgeSamples, PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["ArcCurves", "Deviation", "Piece", "fit_lines", "lay_out", "trace_arcs"]

_FLOOR, _FLOOR_EXACT = 0.08, 0.05
_FAR, _FAR_EXACT = 0.5, 0.025
_EASE_EXACT = 1.6
"""Straight lines of a clean picture: renderers are off by up to 0.07 px along level and upright edges."""
_NEAR_CORNER = 0.05
_BEND = 5
_SMOOTHED = 3
_KERNELS = {
    1: np.array([1, 2, 1]) / 4,
    2: np.array([-3, 12, 17, 12, -3]) / 35,
    3: np.array([-2, 3, 6, 7, 6, 3, -2]) / 21,
}
_SURE = 5.6
"""Standard deviations that the largest of many running means may reach."""
_SURE_OF_ONE = 1.6


class Piece(NamedTuple):
    """Segments in a row."""

    control: Floats  # (n, 4, 2)
    straight: Bools  # (n,)

    def reversed(self) -> "Piece":
        """The same, the other way round."""
        return Piece(self.control[::-1, ::-1], self.straight[::-1])


class Deviation(NamedTuple):
    """How far the picture's edges lie from the curves.

    Attributes
    ----------
    place : (N, 2) float64
        Samples of the edges, arc after arc, px.
    away : (N,) float64
        Distance of each from its arc, px or mm.
    offset : (A + 1,) int
        Where each arc begins.
    """

    place: Floats
    away: Floats
    offset: Ints

    @property
    def largest(self) -> Floats:
        """Of each arc; (A,)."""
        return np.maximum.reduceat(self.away, self.offset[:-1]) if len(self.away) else np.zeros(0)

    @property
    def mean(self) -> Floats:
        """Of each arc; (A,)."""
        total = np.add.reduceat(self.away, self.offset[:-1]) if len(self.away) else np.zeros(0)
        return np.asarray(total / np.maximum(np.diff(self.offset), 1))

    def in_mm(self, px_per_mm: float) -> "Deviation":
        """Bring the distances to mm; the places stay."""
        return self._replace(away=self.away / px_per_mm)


@dataclass(frozen=True, eq=False)
class ArcCurves:
    """Cubic segments of every arc.

    Attributes
    ----------
    points : (P, 2) float64
        Node, two controls, node ... of one arc after the other; an arc of n
        segments has 3 n + 1 points.
    straight, round : (S,) bool
        Which segments are straight lines, and which circular arcs.
    offset : (A + 1,) int
        Segment at which each arc begins; its points begin at ``3 offset[a] + a``.
    deviation : Deviation
    unit : str
        ``px`` or ``mm``.
    """

    points: Floats
    straight: Bools
    round: Bools
    offset: Ints
    deviation: Deviation
    unit: str = field(default="px")

    @property
    def segments(self) -> Floats:
        """Control points of every segment; (S, 4, 2)."""
        arc = np.repeat(np.arange(len(self.offset) - 1), np.diff(self.offset))
        place = np.arange(len(arc)) - self.offset[arc]
        return self.points[(3 * self.offset[arc] + arc + 3 * place)[:, None] + np.arange(4)]

    def in_mm(self, origin: Floats, px_per_mm: float, decimals: int) -> "ArcCurves":
        """Move to `origin` and bring to mm, rounded once to what files are written with.

        The controls of straight segments are not written; they stay on the chord.
        """
        points = np.round((self.points - origin) / px_per_mm, decimals) + 0.0
        arc = np.repeat(np.arange(len(self.offset) - 1), np.diff(self.offset))
        begin = (3 * np.arange(len(arc)) + arc)[self.straight]
        third = (points[begin + 3] - points[begin]) / 3
        points[begin + 1], points[begin + 2] = points[begin] + third, points[begin + 3] - third
        return replace(self, points=points, deviation=self.deviation.in_mm(px_per_mm), unit="mm")

    def areas(self) -> Floats:
        """What each arc adds to the area on its right hand by Green's formula; (A,) in square units."""
        return np.add.reduceat(areas_below(self.segments), self.offset[:-1])

    def lengths(self) -> Floats:
        """Length of each arc; (A,), by Gauss-Legendre quadrature with 12 points a segment."""
        times, weights = np.polynomial.legendre.leggauss(12)
        t = (times + 1) / 2
        segments = self.segments
        d0, d1, d2 = (3 * (segments[:, i + 1] - segments[:, i]) for i in range(3))
        speed = ((1 - t) ** 2)[:, None, None] * d0 + (2 * t * (1 - t))[:, None, None] * d1 + (t**2)[:, None, None] * d2
        length = (np.linalg.norm(speed, axis=2) * weights[:, None]).sum(0) / 2
        return np.add.reduceat(length, self.offset[:-1])


def trace_arcs(
    planar: PlanarMap,
    samples: EdgeSamples,
    bounds: Bounds,
    tick: Tick = no_tick,
    stretches: Stretches | None = None,
) -> ArcCurves:
    """Fit curves to all arcs.

    Parameters
    ----------
    planar : PlanarMap
    samples : EdgeSamples
        Of `planar`.
    bounds : Bounds
    stretches : Stretches, optional
        What `lay_out` gave for these samples and ``bounds.corner``, when it is known already.

    Returns
    -------
    ArcCurves
        In px.
    """
    stretches = _with_limits(stretches or lay_out(planar, samples, bounds.corner), planar, samples, bounds)
    tick(0.2)
    chosen = choose_nodes(stretches, lambda done: tick(0.2 + 0.75 * done))
    if bounds.square:
        arc = np.searchsorted(stretches.first, chosen.first, "right") - 1
        chosen = chosen._replace(control=square_up(planar, arc, chosen.control, chosen.straight, bounds.square))
    return _table(planar, stretches, chosen)


def _with_ends(planar: PlanarMap, samples: EdgeSamples, vertices: Floats) -> tuple[Floats, Floats, Neighbours]:
    """Samples arc by arc, open arcs with their vertices at both ends."""
    loop = planar.loops
    count = np.diff(samples.offset)
    size = count + 2 * ~loop
    first = np.cumsum(size) - size
    index, _ = ranges(first + ~loop, count)
    points, weight = np.empty((int(size.sum()), 2)), np.ones(int(size.sum()))
    points[index], weight[index] = samples.points, samples.weight
    points[first[~loop]] = vertices[planar.tail[~loop]]
    points[(first + size)[~loop] - 1] = vertices[planar.head[~loop]]
    arc = np.repeat(np.arange(len(size)), size)
    near = Neighbours(first[arc], size[arc], loop[arc], np.arange(len(arc)) - first[arc])
    return points, weight, near


def _with_limits(stretches: Stretches, planar: PlanarMap, samples: EdgeSamples, bounds: Bounds) -> Stretches:
    """Say how closely each arc is to be followed: no closer than its samples are sure of."""
    track = stretches.track
    framed = on_frame(track.points, planar.shape)
    plain = ~(stretches.sharp | stretches.end | framed) & (track.weight > 0.3)
    noise = Noise(0.0, 0.0) if samples.exact else measure_noise(track.points, plain)
    size = stretches.last - stretches.first + 1
    floor = _FLOOR_EXACT if samples.exact else _FLOOR
    limit = np.repeat(np.maximum(samples.grain, max(bounds.tolerance, floor, _SURE * noise.mean)), size)
    rms_limit = np.hypot(limit, _SURE_OF_ONE * noise.single)
    far = limit + (_FAR_EXACT if samples.exact else _FAR + limit)
    least = _EASE_EXACT if samples.exact else 1.0
    ease = np.maximum(least, bounds.straight / limit)
    return stretches._replace(track=track._replace(limit=limit, rms_limit=rms_limit, ease=ease, far=far))


def _at_frame_corner(points: Floats, shape: tuple[int, int]) -> Bools:
    height, width = shape
    x, y = points[:, 0], points[:, 1]
    return ((x == 0) | (x == width)) & ((y == 0) | (y == height))


def lay_out(planar: PlanarMap, samples: EdgeSamples, least_turn: float) -> Stretches:
    """Lay the arcs out as tracks of points with their corners, not yet bound to anything.

    Parameters
    ----------
    planar : PlanarMap
    samples : EdgeSamples
        Of `planar`.
    least_turn : float
        Of a corner, rad.
    """
    junctions = run_through(planar, samples, place_vertices(planar, samples))
    points, weight, near = _with_ends(planar, samples, junctions.place)
    end = ~near.loop & ((near.place == 0) | (near.place == near.size - 1))
    coarse = np.repeat(samples.grain > 0, np.diff(np.append(np.flatnonzero(near.place == 0), len(points))))
    corner = find_corners(points, near, coarse, least_turn)
    framed = on_frame(points, planar.shape)
    corner &= ~framed
    corners = np.flatnonzero(corner)
    place = corner_places(points, weight, corners, near, corner | end)
    points[corners] = place
    weight = np.where(framed, 1.0, weight)
    sharp = corner | end | _at_frame_corner(points, planar.shape)
    for step in (-1, 1):
        beside, there = near.at(step)
        close = there & sharp[beside] & ~sharp & ~framed
        weight[close] *= _NEAR_CORNER
        second, there = near.at(2 * step)
        close = there & sharp[second] & ~sharp & ~framed & (np.linalg.norm(points - points[second], axis=1) < 1.0)
        weight[close] *= _NEAR_CORNER
    node = _smooth(points, near, sharp)
    return _unroll(points, weight, node, near, sharp, planar.loops, junctions.partner)


def _smooth(points: Floats, near: Neighbours, sharp: Bools) -> Floats:
    """Local quadratic least squares over seven points; nearer a corner over fewer.

    References
    ----------
    .. [1] A. Savitzky and M. J. E. Golay, "Smoothing and differentiation of
       data by simplified least squares procedures", 1964.
    """
    ends = (near.place == 0) | (near.place == near.size - 1)
    spread = np.convolve(sharp | ends, np.ones(2 * _SMOOTHED + 1), "same") > 0.5  # hardly any are near one
    out = points.copy()
    for column, values in zip(out.T, points.T, strict=True):
        column[~spread] = np.convolve(values, _KERNELS[_SMOOTHED], "same")[~spread]
    rows = np.flatnonzero(spread & ~sharp)
    near = near.of(rows)
    free = np.ones(len(rows), bool)
    beside = {0: points[rows]}
    best = points[rows]
    for reach in range(1, _SMOOTHED + 1):
        for sign in (-1, 1):
            at, there = near.at(sign * reach)
            beside[sign * reach] = points[at]
            free &= there & ~sharp[at]
        use = free & (near.size > 2 * reach)
        best[use] = sum(
            share * beside[k][use] for k, share in zip(range(-reach, reach + 1), _KERNELS[reach], strict=True)
        )
    out[rows] = best
    return out


def _where_bending_changes(node: Floats, near: Neighbours) -> Ints:
    """Where along each loop bending changes most, as from a straight side to a round corner; (A,)."""
    first = np.flatnonzero(near.place == 0)
    out = np.zeros(len(first), np.int64)
    rows = np.flatnonzero(near.loop & (near.size > 4 * _BEND))
    if not len(rows):
        return out
    mine = near.of(rows)
    before, after = node[mine.at(-_BEND)[0]], node[mine.at(_BEND)[0]]
    back, ahead = node[mine.at(-2 * _BEND)[0]], node[mine.at(2 * _BEND)[0]]
    change = np.hypot(*(ahead - 2 * after + 2 * before - back).T)
    arc = np.searchsorted(first, rows, "right") - 1
    order = np.lexsort((rows, -np.round(change, 3), arc))
    lead = order[np.append(True, arc[order][1:] != arc[order][:-1])]
    out[arc[lead]] = mine.place[lead]
    return out


def _unroll(
    points: Floats, weight: Floats, node: Floats, near: Neighbours, sharp: Bools, loop: Bools, partner: Ints
) -> Stretches:
    """Begin each loop at a corner where it has one, and close it by its first point again."""
    size = np.diff(np.append(np.flatnonzero(near.place == 0), len(points)))
    first = np.cumsum(size) - size
    arc = np.repeat(np.arange(len(size)), size)
    begin = _where_bending_changes(node, near)
    at = np.flatnonzero(sharp & near.loop)
    begin[arc[at][::-1]] = near.place[at][::-1]
    new_size = size + loop
    where, _ = ranges(np.zeros(len(size), np.int64), new_size)
    new_arc = np.repeat(np.arange(len(size)), new_size)
    source = first[new_arc] + np.where(loop[new_arc], (where + begin[new_arc]) % size[new_arc], where)
    moved = points[source]
    step = np.linalg.norm(np.diff(moved, axis=0, prepend=moved[:1]), axis=1)
    new_first = np.cumsum(new_size) - new_size
    step[new_first] = 0.0
    none = np.zeros(len(moved))
    track = Track(moved, weight[source], node[source], np.cumsum(step), none, none, none, none)
    is_sharp = sharp[source].copy()
    last = new_first + new_size - 1
    open_end = np.zeros(len(source), bool)
    open_end[new_first] = open_end[last] = True
    smooth_loop = loop & ~np.logical_or.reduceat(is_sharp, new_first)
    return Stretches(track, is_sharp, open_end, new_first, last, smooth_loop, partner)


def fit_lines(lines: list[Floats], closed: list[bool], tolerance: float) -> list[Piece]:
    """Fit curves through lines of points about a pixel apart, as to the arcs of a map.

    Parameters
    ----------
    lines : list of (N, 2) float
    closed : list of bool
    tolerance : float
        Bound on the running mean of the signed distance, px.
    """
    sizes = np.array([len(line) for line in lines])
    loop = np.array(closed)
    first = np.cumsum(sizes) - sizes
    arc = np.repeat(np.arange(len(lines)), sizes)
    near = Neighbours(first[arc], sizes[arc], loop[arc], np.arange(len(arc)) - first[arc])
    points, weight = np.concatenate(lines), np.ones(len(arc))
    end = ~near.loop & ((near.place == 0) | (near.place == near.size - 1))
    corner = find_corners(points, near, np.ones(len(points), bool), Bounds(tolerance).corner)
    corners = np.flatnonzero(corner)
    points[corners] = corner_places(points, weight, corners, near, corner | end)
    sharp = corner | end
    nowhere = np.full((len(lines), 2), -1)
    weight[_beside(sharp, near)] = _NEAR_CORNER
    stretches = _unroll(points, weight, _smooth(points, near, sharp), near, sharp, loop, nowhere)
    limit = np.full(len(stretches.track.points), tolerance)
    track = stretches.track._replace(limit=limit, rms_limit=limit, ease=np.ones(len(limit)), far=limit + 0.15)
    chosen = choose_nodes(stretches._replace(track=track))
    of = np.searchsorted(stretches.first, chosen.first, "right") - 1
    return [Piece(chosen.control[of == i], chosen.straight[of == i]) for i in range(len(lines))]


def _beside(sharp: Bools, near: Neighbours) -> Bools:
    """Points next to a corner or an end."""
    out = np.zeros(len(sharp), bool)
    for step in (-1, 1):
        beside, there = near.at(step)
        out |= there & sharp[beside]
    return out & ~sharp


def _table(planar: PlanarMap, stretches: Stretches, chosen: Chosen) -> ArcCurves:
    first, last, control = chosen.first, chosen.last, chosen.control
    arc = np.searchsorted(stretches.first, first, "right") - 1
    offset = np.searchsorted(arc, np.arange(len(planar.tail) + 1))
    away = rest_of_cubics(stretches.track, first, last, control)
    points = np.empty((3 * len(first) + len(planar.tail), 2))
    begins = 3 * np.arange(len(first)) + arc
    for k in range(4):
        points[begins + k] = control[:, k]
    return ArcCurves(
        points,
        chosen.straight,
        chosen.round,
        offset,
        Deviation(stretches.track.points, away, np.append(stretches.first, len(away))),
    )
