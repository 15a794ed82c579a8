"""Lines along which a piece may be parted: along hidden ground, in steps, straight."""

import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.sheets.seams.ground import Ground

__all__ = ["ends_in", "hidden_way", "stepped_way", "straight_lines"]

_MOST_ENDS = 40
_STRAIGHTER = (60.0, 30.0, 15.0, 8.0, 4.0, 2.0, 1.0)
"""mm that a seam may be straightened by."""
_SAME = 0.05
"""mm; ways that are seen on lengths closer than that are seen alike."""
_RUN, _STEP, _STEP_COST = 20.0, 10.0, 20.0
"""mm between steps of a stepped seam, least width of one, and what one costs."""
_SAMPLE = 0.5
"""mm"""


def hidden_way(ground: Ground, down: bool, band: tuple[float, float]) -> Floats:
    """The cheapest way in a band, straightened as far as no more of it is seen."""
    axis = 0 if down else 1
    first, last = ((edge - ground.origin[axis]) / ground.cell for edge in band)
    low, high = math.ceil(first), max(math.ceil(first) + 1, math.floor(last))
    cost = ground.cost if down else ground.cost.T
    path = _cheapest(cost[:, low:high]) + np.array([0, low])
    line = ground.at(path if down else path[:, ::-1])
    line[:, axis] = np.clip(line[:, axis], *band)
    _, seen, unsure = ground.lengths(line)
    plainer = [_straightened(line, ground.seen_near)]
    plainer += [shapely.get_coordinates(shapely.simplify(shapely.linestrings(line), by)) for by in _STRAIGHTER]
    for plain in sorted(plainer, key=len):
        _, now, may = ground.lengths(plain)
        if now <= seen + _SAME / 2 and may <= unsure + _SAME / 2:
            return plain
    return _straightened(line, ground.seen_along(line))


def _straightened(line: Floats, seen: Callable[[Floats], Floats]) -> Floats:
    """Leave points of a way out where a straight line is seen no more; `seen` tells that of lines, (N, 2, 2).

    It is parted where it lies farthest from a line that is (Douglas and
    Peucker 1973); then points are left out one by one.
    """
    told = np.append(0.0, np.cumsum(seen(np.stack([line[:-1], line[1:]], 1))))
    kept, left = [0, len(line) - 1], [(0, len(line) - 1)]
    while left:
        prices = seen(line[np.array(left)])
        worse = [pair for pair, price in zip(left, prices.tolist(), strict=True) if price > _allowed(told, pair)]
        left = []
        for first, last in worse:
            between = np.arange(first + 1, last)
            if len(between):
                chord = shapely.linestrings(line[[first, last]])
                middle = int(between[shapely.distance(chord, shapely.points(line[between])).argmax()])
                kept.append(middle)
                left += [(first, middle), (middle, last)]
    kept.sort()
    place = 1
    while place < len(kept) - 1:
        pair = kept[place - 1], kept[place + 1]
        if float(seen(line[[pair]])[0]) <= _allowed(told, pair):
            del kept[place]
        else:
            place += 1
    return np.asarray(line[kept])


def _allowed(told: Floats, pair: tuple[int, int]) -> float:
    return float(told[pair[1]] - told[pair[0]]) + 1e-6


def stepped_way(ground: Ground, down: bool, band: tuple[float, float]) -> Floats:
    """The cheapest way of straight lengths and square steps aside in a band, with a step at least where one has room.

    Dynamic programming over lengths of `_RUN`: each goes straight on, or a
    step aside first; a step holds parts from sliding along each other.
    """
    axis = 0 if down else 1
    low, high = ((edge - ground.origin[axis]) / ground.cell for edge in band)
    first = math.ceil(low)
    cost = (ground.cost if down else ground.cost.T)[:, first : max(first + 1, math.floor(high))]
    rows, columns = cost.shape
    at = np.arange(columns)
    too_near = np.abs(at[:, None] - at) < max(1.0, _STEP / ground.cell)
    starts = np.arange(0, rows, max(1, round(_RUN / ground.cell)))
    straight = np.add.reduceat(cost, starts, axis=0)
    plain, stepped = straight[0], np.full(columns, np.inf)  # what it costs so far without a step, and with
    came: list[tuple[Ints, Bools]] = []  # from which column, and whether without a step so far
    for row, price in zip(starts[1:].tolist(), straight[1:], strict=True):
        across = np.cumsum(cost[row])
        step = np.where(too_near, np.inf, np.abs(across[:, None] - across) + _STEP_COST)
        told = np.minimum(plain, stepped)[:, None] + step
        source = told.argmin(0)
        stays = stepped <= told[source, at]
        came.append((np.where(stays, at, source), ~stays & (plain <= stepped)[source]))
        plain, stepped = plain + price, np.minimum(stepped, told[source, at]) + price
    is_stepped = bool(np.isfinite(stepped).any())
    column = int((stepped if is_stepped else plain).argmin())
    corners = [(rows - 1, column)]
    for row, (froms, fresh) in zip(starts[:0:-1].tolist(), came[::-1], strict=True):
        if is_stepped and int(froms[column]) != column:
            corners += [(row, column), (row, int(froms[column]))]
        is_stepped, column = is_stepped and not fresh[column], int(froms[column]) if is_stepped else column
    corners.append((0, column))
    cells = np.array(corners[::-1]) + np.array([0, first])
    return ground.at(cells if down else cells[:, ::-1])


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


def ends_in(bounds: Sequence[float], down: bool, band: tuple[float, float]) -> Floats:
    """Ends of all straight lines through a band, on a grid of 1 mm at both; (N, 2, 2)."""
    axis = 0 if down else 1
    many = max(2, min(_MOST_ENDS, int(band[1] - band[0]) + 1))
    places = np.linspace(band[0] + 1e-6, band[1] - 1e-6, many)
    out = np.zeros((many * many, 2, 2))
    out[:, 0, axis], out[:, 1, axis] = (each.ravel() for each in np.meshgrid(places, places))
    out[:, 0, 1 - axis], out[:, 1, 1 - axis] = bounds[1 - axis] - 1, bounds[3 - axis] + 1
    return out


def straight_lines(piece: Any, rooms: Sequence[tuple[float, float]]) -> Floats:
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
