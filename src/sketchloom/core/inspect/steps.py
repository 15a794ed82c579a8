"""Outlines cut into short straight steps, each with its normal: what narrow places are looked for between."""

from typing import NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints

__all__ = ["Steps", "steps_of"]

_FAN = 0.25
"""rad between the normals at a corner; a smaller turn is none."""
_LONG = 200.0
"""Steps of an edge that is long."""
_POINT = 1.75
"""rad that an outline turns at a corner that is the point of a tip."""


class Steps(NamedTuple):
    """Steps of closed outlines, in order along each; at a corner some without length, one for each of its normals.

    Attributes
    ----------
    at : (N, 2) float
        Middles, mm.
    along : (N, 2) float
        Unit vectors along the outline.
    half : (N,) float
        Half of the length, mm; 0 at a corner.
    normal : (N, 2) float
        Unit vectors to the inside.
    bend : (N,) int8
        At a corner 1 where the inside reaches round it and -1 where the outside does; else 0.
    contour : (N,) int
    place : (N,) float
        How far along its contour, mm.
    length : (C,) float
        Of each contour, mm.
    point_after : (N,) bool
        Whether the outline comes to a point of the inside behind a step, before the next one with length.
    notch_after : (N,) bool
        Whether it comes to a point of the outside there.
    longest : float
        mm; no step is longer.
    """

    at: Floats
    along: Floats
    half: Floats
    normal: Floats
    bend: Ints
    contour: Ints
    place: Floats
    length: Floats
    point_after: Bools
    notch_after: Bools
    longest: float


def steps_of(points: Floats, first: Ints, sense: float, longest: float, reach: float = np.inf) -> Steps:
    """Cut closed outlines into steps.

    Long straight edges that nothing lies near have one step where no other
    edge is within reach: so a large square costs what a small one does.

    Parameters
    ----------
    points : (M, 2) float
        Corners of all outlines in order, mm; the last of an outline is not repeated.
    first : (C + 1,) int
        Where each begins.
    sense : float
        1 where outer outlines have a positive area by the shoelace formula, else -1.
    longest : float
        mm; no step is longer.
    reach : float
        mm; what lies farther from an edge says nothing of it.
    """
    points, first, bare = _with_rests(points, first, longest, reach)
    count = len(points)
    contour = np.repeat(np.arange(len(first) - 1), np.diff(first))
    following = np.arange(1, count + 1)
    sizes = np.diff(first)
    following[first[1:][sizes > 0] - 1] = first[:-1][sizes > 0]
    edge = points[following] - points
    length = np.hypot(*edge.T)
    unit = edge / np.maximum(length, 1e-12)[:, None]
    before = np.empty(count, np.int64)
    before[following] = np.arange(count)
    back = unit[before]
    turn = sense * np.arctan2(back[:, 0] * unit[:, 1] - back[:, 1] * unit[:, 0], (back * unit).sum(1))
    fan = np.where(np.abs(turn) > _FAN, np.ceil(np.abs(turn) / _FAN) + 1, 0).astype(np.int64)
    parts = np.maximum(np.ceil(length / longest), 1).astype(np.int64)
    parts[length < 1e-9] = 0
    parts[bare] = 1
    total = fan + parts
    of = np.repeat(np.arange(count), total)
    number = np.arange(len(of)) - (np.cumsum(total) - total)[of]
    in_fan = number < fan[of]
    share = np.where(in_fan, 0.0, (number - fan[of] + 0.5) / np.maximum(parts[of], 1))
    at = points[of] + edge[of] * share[:, None]
    swing = np.where(in_fan, (number / np.maximum(fan[of] - 1, 1) - 1) * turn[of] * sense, 0.0)
    cos, sin = np.cos(swing), np.sin(swing)
    base = unit[of]
    along = np.stack([cos * base[:, 0] - sin * base[:, 1], sin * base[:, 0] + cos * base[:, 1]], 1)
    normal = sense * np.stack([-along[:, 1], along[:, 0]], 1)
    half = np.where(in_fan, 0.0, np.minimum(length[of] / np.maximum(parts[of], 1), longest) / 2)
    ends = np.cumsum(length)
    start = ends - length
    offset = np.append(start, 0.0)[np.minimum(first[:-1], count)]
    whole = np.bincount(contour, length, len(first) - 1)
    place = start[of] + length[of] * share - offset[contour[of]]
    last = number == total[of] - 1
    turn_after = turn[following[of]]
    bend = np.where(in_fan, -np.sign(turn[of]), 0).astype(np.int8)
    return Steps(
        at, along, half, normal, bend, contour[of], place, np.asarray(whole, float),
        last & (turn_after > _POINT), last & (turn_after < -_POINT), longest,
    )  # fmt: skip


def _with_rests(points: Floats, first: Ints, longest: float, reach: float) -> tuple[Floats, Ints, Bools]:
    """Outlines with corners more on long edges, between which nothing is within reach; and which edges those begin."""
    count = len(points)
    nothing = points, first, np.zeros(count, bool)
    sizes = np.diff(first)
    following = np.arange(1, count + 1)
    following[first[1:][sizes > 0] - 1] = first[:-1][sizes > 0]
    edge = points[following] - points
    length = np.hypot(*edge.T)
    long = np.flatnonzero(length > _LONG * longest)
    if not len(long) or not np.isfinite(reach):
        return nothing
    lines = shapely.linestrings(np.stack([points, points[following]], 1))
    own, other = shapely.STRtree(lines).query(lines[long], predicate="dwithin", distance=reach)
    kept = long[own] != other
    own, other = own[kept], other[kept]
    way = edge[long] / length[long][:, None]
    ends = np.stack([points[other], points[following[other]]], 1) - points[long[own]][:, None]
    along = (ends * way[own][:, None]).sum(2)
    low, high = along.min(1) - reach, along.max(1) + reach
    more: list[Floats] = []
    after: list[int] = []
    bare = [False] * count
    for number, begins in enumerate(long.tolist()):
        mine = own == number
        stops = _between(low[mine], high[mine], float(length[begins]), _LONG * longest / 4)
        for begin, end in stops:
            for at in (begin, end):
                more.append(points[begins] + at * way[number])
                after.append(begins)
    if not more:
        return nothing
    places = np.array(after) + 1
    bare_after = np.tile([True, False], len(more) // 2)
    return (
        np.insert(points, places, np.array(more), axis=0),
        first + np.searchsorted(np.sort(places), first, side="right") * (first > 0),
        np.insert(np.array(bare), places, bare_after),
    )


def _between(low: Floats, high: Floats, length: float, least: float) -> list[tuple[float, float]]:
    """What some stretches of an edge leave free, where it is long enough."""
    out = []
    at = 0.0
    for begin, end in sorted(zip(low.tolist(), high.tolist(), strict=True)):
        if begin - at > least:
            out.append((at, begin))
        at = max(at, end)
    if length - at > least:
        out.append((at, length))
    return [(begin, min(end, length)) for begin, end in out if begin > 0 and end < length]
