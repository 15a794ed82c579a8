"""Edge samples laid out as tracks of points with their corners, before they are bound to anything."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, ranges
from sketchloom.core.curves.fit.corners import Neighbours, corner_places, find_corners
from sketchloom.core.curves.fit.junctions import on_frame, place_vertices, run_through
from sketchloom.core.curves.fit.track import Stretches, Track
from sketchloom.core.planar import EdgeSamples, PlanarMap

__all__ = ["NEAR_CORNER", "beside", "lay_out", "smoothed_track", "unrolled"]

NEAR_CORNER = 0.05
"""Weight of points beside a corner, whose pixels two edges share."""
_BEND = 5
_SMOOTHED = 3
_KERNELS = {
    1: np.array([1, 2, 1]) / 4,
    2: np.array([-3, 12, 17, 12, -3]) / 35,
    3: np.array([-2, 3, 6, 7, 6, 3, -2]) / 21,
}


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
    corner = find_corners(points, near, coarse, least_turn, samples.blur)
    framed = on_frame(points, planar.shape)
    corner &= ~framed
    corners = np.flatnonzero(corner)
    place = corner_places(points, weight, corners, near, corner | end, samples.blur)
    points[corners] = place
    weight = np.where(framed, 1.0, weight)
    sharp = corner | end | _at_frame_corner(points, planar.shape)
    for step in (-1, 1):
        beside, there = near.at(step)
        close = there & sharp[beside] & ~sharp & ~framed
        weight[close] *= NEAR_CORNER
        second, there = near.at(2 * step)
        close = there & sharp[second] & ~sharp & ~framed & (np.linalg.norm(points - points[second], axis=1) < 1.0)
        weight[close] *= NEAR_CORNER
    node = smoothed_track(points, near, sharp)
    return unrolled(points, weight, node, near, sharp, planar.loops, junctions.partner)


def smoothed_track(points: Floats, near: Neighbours, sharp: Bools) -> Floats:
    """Local quadratic least squares over seven points; nearer a corner over fewer.

    References
    ----------
    .. [1] A. Savitzky and M. J. E. Golay, "Smoothing and differentiation of
       data by simplified least squares procedures", 1964.
    """
    ends = (near.place == 0) | (near.place == near.size - 1)
    spread = _convolved(sharp | ends, np.ones(2 * _SMOOTHED + 1)) > 0.5  # hardly any are near one
    out = points.copy()
    for column, values in zip(out.T, points.T, strict=True):
        column[~spread] = _convolved(values, _KERNELS[_SMOOTHED])[~spread]
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


def _convolved(values: Floats | Bools, kernel: Floats) -> Floats:
    """As long as the values, however few they are."""
    half = len(kernel) // 2
    return np.convolve(values, kernel, "full")[half : half + len(values)]


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


def unrolled(
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


def beside(sharp: Bools, near: Neighbours) -> Bools:
    """Points next to a corner or an end."""
    out = np.zeros(len(sharp), bool)
    for step in (-1, 1):
        beside, there = near.at(step)
        out |= there & sharp[beside]
    return out & ~sharp
