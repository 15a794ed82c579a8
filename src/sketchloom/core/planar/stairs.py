"""Edges without anti-aliasing: the line behind the stairs."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.planar.planarmap import EAST, NORTH, OUTSIDE, SOUTH, WEST, PlanarMap

__all__ = ["GRAIN", "behind_stairs", "stair_arcs"]

GRAIN = 0.25
"""px; how far a line behind stairs can be off."""

_STEP = np.zeros((4, 2))
_STEP[[EAST, SOUTH, WEST, NORTH]] = (1, 0), (0, 1), (-1, 0), (0, -1)
_CORNER = 3
_RISER = 2
_BARE = 0.4


def stair_arcs(planar: PlanarMap, arc_of: Ints, shift: Floats, used: Bools) -> Bools:
    """Tell arcs whose edge shows no coverage, only whole pixels.

    Beside a step of an anti-aliased edge the coverage moves the edge by about
    half a pixel; without anti-aliasing it lies on the crack.

    Parameters
    ----------
    planar : PlanarMap
    arc_of : (N,) int
        Arc of each crack.
    shift : (N,) float
        Distance of the edge from each crack, px.
    used : (N,) bool
        Cracks along the edge, where `shift` says something.

    Returns
    -------
    (A,) bool
    """
    turn = _steps(planar.heading, arc_of)
    beside = turn.copy()
    beside[:-1] |= turn[1:]
    beside &= used
    count = len(planar.tail)
    steps = np.bincount(arc_of, beside, count)
    bare = np.bincount(arc_of, beside & (np.abs(shift) < 0.02), count)
    inner = (planar.left != OUTSIDE) & (planar.right != OUTSIDE)
    return inner & (steps >= 4) & (bare >= _BARE * steps)


def _steps(heading: Ints, arc_of: Ints) -> Bools:
    """Cracks that begin at a turn of a step: two turns to opposite sides, hardly a pixel apart.

    A true corner on the pixel grid is no step.
    """
    out = np.zeros(len(arc_of), bool)
    way = np.mod(np.diff(heading.astype(np.int64)), 4)  # 1 to the right, 3 to the left
    at = np.flatnonzero((way != 0) & (arc_of[1:] == arc_of[:-1])) + 1
    if len(at) < 2:
        return out
    pair = (way[at[1:] - 1] != way[at[:-1] - 1]) & (np.diff(at) <= _RISER) & (arc_of[at[1:]] == arc_of[at[:-1]])
    out[at[:-1][pair]] = out[at[1:][pair]] = True
    return out


def behind_stairs(planar: PlanarMap, chosen: Bools) -> tuple[Floats, Ints]:
    """Samples about a pixel apart on the line behind the stairs of some arcs.

    A straight edge that was drawn without anti-aliasing passes through the
    middle of each of its runs and of each single step between them. A long
    run is flat only as far as half its neighbour reaches beyond their step;
    two long runs meet in a true corner.

    Returns
    -------
    points, arc : (M, 2) float and (M,) int

    References
    ----------
    .. [1] R. Klette and A. Rosenfeld, "Digital straightness: a review",
       Discrete Applied Mathematics 139, 2004 (runs of digital lines).
    """
    sizes = np.diff(planar.offset)
    arc_of = np.repeat(np.arange(len(sizes)), sizes)
    mine = chosen[arc_of]
    begins = mine.copy()
    begins[1:] &= (planar.heading[1:] != planar.heading[:-1]) | (arc_of[1:] != arc_of[:-1])
    start = np.flatnonzero(begins)
    arc = arc_of[start]
    length = np.minimum(np.append(start[1:], len(arc_of)), planar.offset[arc + 1]) - start
    left, right = _reach(arc, length, planar.loops)
    middle = (left + length - right) / 2
    met = left + right >= length
    way = _STEP[planar.heading[start]]
    low = planar.corner[start] + np.where(met, middle, left)[:, None] * way
    high = planar.corner[start] + np.where(met, middle, length - right)[:, None] * way
    knots = np.stack([low, high], 1).reshape(-1, 2)
    return _resample(knots, np.repeat(arc, 2), planar.loops)


def _reach(arc: Ints, length: Ints, loops: Bools) -> tuple[Floats, Floats]:
    """How much of each run's beginning and end leans towards its neighbours."""
    first = np.flatnonzero(np.append(True, arc[1:] != arc[:-1])) if len(arc) else np.zeros(0, np.int64)
    count = np.diff(np.append(first, len(arc)))
    base, size = np.repeat(first, count), np.repeat(count, count)
    place = np.arange(len(arc)) - base
    loop = loops[arc]
    out = []
    for sign in (-1, 1):
        there = [loop | ((place + sign * k >= 0) & (place + sign * k < size)) for k in (1, 2)]
        one, two = (length[base + (place + sign * k) % size] for k in (1, 2))
        half = length / 2
        beyond = np.where(there[1], np.minimum(half, two / 2), half)
        other = np.where((one >= _CORNER) & (length >= _CORNER), 0.0, np.minimum(half, 1.0))
        lean = np.where(one == 1, beyond, other)
        lean = np.where(there[0], lean, np.minimum(half, 0.5))
        out.append(np.where(length == 1, 0.5, lean))
    return out[0], out[1]


def _resample(knots: Floats, arc: Ints, loops: Bools) -> tuple[Floats, Ints]:
    """Points at equal steps of about a pixel along each arc's knots; loops run round."""
    last = np.append(arc[1:] != arc[:-1], True)
    first = np.append(True, last[:-1])
    closing = np.flatnonzero(last & loops[arc])
    opening = np.flatnonzero(first & loops[arc])
    knots = np.insert(knots, closing + 1, knots[opening], axis=0)
    arc = np.insert(arc, closing + 1, arc[closing])
    step = np.linalg.norm(np.diff(knots, axis=0, prepend=knots[:1]), axis=1)
    along = np.cumsum(step)
    first = np.append(True, arc[1:] != arc[:-1])
    starts = np.flatnonzero(first)
    ends = np.append(starts[1:], len(arc)) - 1
    whole = along[ends] - along[starts]
    many = np.maximum(2, np.rint(whole)).astype(np.int64)
    which = np.repeat(np.arange(len(starts)), many)
    place = np.arange(len(which)) - np.repeat(np.cumsum(many) - many, many)
    at = along[starts][which] + (place + 0.5) / many[which] * whole[which]
    points = np.stack([np.interp(at, along, knots[:, axis]) for axis in range(2)], 1)
    return points, arc[starts][which]
