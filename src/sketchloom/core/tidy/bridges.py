"""Bridges that hold islands, laid as a letterer would: square across a stroke, away from its corners and ends."""

from collections.abc import Sequence
from typing import Literal, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, kd_tree

__all__ = ["MOST_BRIDGES", "Direction", "Ends", "proposed_bridges"]

MOST_BRIDGES = 8
"""Of one island."""
Direction = Literal["nearest", "upright", "level"]
Ends = tuple[Floats, Floats]
"""(2,) and (2,) float, px."""

_RIM = 16
"""px round an island that are looked at, and as much again as it is large."""
_INTO = 1.5
"""px that a bridge reaches into what it joins, at least."""
_DEEPEST = 4.0
"""Times its width that it reaches in at most."""
_MOST = 400
"""Places round an island that are weighed."""
_FEW = 72
"""Directions round it, of each of which the best is tried against the others."""
_BESIDE = 1.6
"""Times its width to either side of a bridge's middle, where the stroke should run on as it does there."""
_UNEVEN = 0.25
"""Of its width, or of a bridge's length, that the stroke may change there; twice as much counts as a corner."""
_CORNER = 0.5
"""Of its length that a bridge at a corner costs more."""
_ASKEW = 0.1
"""Of its length that a bridge costs more that lies neither above, below nor beside the island's middle."""
_OFF = 3.0
"""Of its length that a bridge costs more half way off its place opposite the other."""
_LIKE = 0.26
"""rad between two bridges of one direction."""
_LITTLE = 1.25
"""Times the shortest bridges' length that one direction for all may cost."""


class _Places(NamedTuple):
    """Where bridges could be laid to one island."""

    first: Floats  # (N, 2) px, on the island
    last: Floats  # (N, 2) px, on what holds it
    cost: Floats  # (N,) px: the length, more at a corner
    angle: Floats  # (N,) rad, where it lies round the island
    to: Ints  # (N,) the island that it leads to, 0 for what hangs together with the frame
    middle: Floats  # (2,) px, of the island

    def some(self, which: Bools | Ints) -> "_Places":
        """Some of them."""
        return _Places(
            self.first[which], self.last[which], self.cost[which], self.angle[which], self.to[which], self.middle
        )

    @property
    def slope(self) -> Floats:
        """Rad of each bridge from the level, upright being pi / 2."""
        way = np.abs(self.last - self.first)
        return np.arctan2(way[:, 1], way[:, 0])


def proposed_bridges(
    parts: Ints, islands: Sequence[int], count: int, width: float, direction: Direction = "nearest"
) -> list[list[Ends]]:
    """Lay bridges to islands, for each in order.

    A bridge runs square across a stroke, where the stroke goes on alike for
    the bridge's width to either side, unless that makes it half again as
    long. Bridges of an island lie on opposite sides; all islands have them in
    one direction where that costs little.

    Parameters
    ----------
    parts : (H, W) int
        As `find_islands` gives them.
    islands : sequence of int
        From 1 up.
    count : int
        Bridges an island; fewer where there is no place for so many.
    width : float
        Of a bridge, px.
    direction : {'nearest', 'upright', 'level'}
    """
    from scipy.ndimage import find_objects  # takes long to import, and only what has islands needs it

    boxes = find_objects(parts, max(islands, default=0))
    places = [_places(parts, island, boxes[island - 1], width, direction) for island in islands]
    middles = {island: one.middle for island, one in zip(islands, places, strict=True)}
    best, least = _laid(places, islands, middles, count)
    if direction == "nearest":
        full, least = sum(map(len, best)), least * _LITTLE
        for slope in (np.pi / 2, 0.0):
            alike = [_of_one_way(one, slope, count) for one in places]
            laid, cost = _laid(alike, islands, middles, count)
            if sum(map(len, laid)) == full and cost <= least:
                best, least = laid, cost
    return [[_reaching(parts, first, last, width) for first, last in bridges] for bridges in best]


def _of_one_way(places: _Places, slope: float, count: int) -> _Places:
    """The places of one direction; all, where an island has none there that are not half again as long."""
    alike = places.some(np.abs(places.slope - slope) < _LIKE)
    (few, cost), (rows, least) = (_chosen(one, count, (), True, set()) for one in (alike, places))
    return alike if len(few) == len(rows) and cost <= (1 + _CORNER) * least else places


def _laid(
    places: Sequence[_Places], islands: Sequence[int], middles: dict[int, Floats], count: int
) -> tuple[list[list[Ends]], float]:
    """Bridges of islands, one after the other, and what they cost; one between two islands is both's."""
    out: list[list[Ends]] = []
    total = 0.0
    given: dict[int, list[Floats]] = {island: [] for island in islands}
    held = {0}
    for island, one in zip(islands, places, strict=True):
        angles = [float(np.arctan2(*(at - middles[island])[::-1])) for at in given[island]]
        rows, cost = _chosen(one, count, angles, island in held, held)
        out.append([(one.first[row], one.last[row]) for row in rows])
        total += cost
        for row in rows:
            to = int(one.to[row])
            if to in given:
                given[to].append(one.last[row])
        if rows or angles:
            held.add(island)
    return out, total


def _reaching(parts: Ints, first: Floats, last: Floats, width: float) -> Ends:
    """Ends that reach into what a bridge joins, to where that is as wide as the bridge all across."""
    way = (last - first) / max(1e-9, float(np.hypot(*(last - first))))
    return _into(parts, first, -way, width), _into(parts, last, way, width)


def _into(parts: Ints, at: Floats, way: Floats, width: float) -> Floats:
    height, across = parts.shape
    side = np.linspace(-0.5, 0.5, 2 * int(np.ceil(width)) + 1)[:, None] * width * np.array([-way[1], way[0]])
    deep = np.arange(0.0, _DEEPEST * width + 1.0, 0.5)
    column, row = np.floor(at + deep[:, None, None] * way + side).astype(int).transpose(2, 0, 1)
    out = (column < 0) | (row < 0) | (column >= across) | (row >= height)  # the sheet goes on beyond the picture
    sheet = out | (parts[np.clip(row, 0, height - 1), np.clip(column, 0, across - 1)] >= 0)
    whole = np.flatnonzero(sheet.all(1))
    into = max(_INTO, width / 2, float(deep[whole[0]]) + 0.5 if len(whole) else 0.0)
    return at + way * into


def _chosen(
    places: _Places, count: int, given: Sequence[float], is_held: bool, held: set[int]
) -> tuple[list[int], float]:
    """The best places for bridges that lie round an island evenly, and what they cost.

    Parameters
    ----------
    places : _Places
    count : int
    given : sequence of float
        Where bridges of other islands reach this one, rad.
    is_held : bool
        Whether one of these holds it already.
    held : set of int
        Islands that something holds, and 0.
    """
    wanted = count - len(given)
    if not len(places.cost) or wanted <= 0:
        return [], 0.0
    few = _apart(places, np.argsort(places.cost, kind="stable"))
    angle, cost = places.angle[few], places.cost[few]
    total: Floats
    if given:
        rows, total = np.zeros((1, 0), np.int64), np.zeros(1, float)
        begins = np.array(given[:1])
    else:
        sure = np.flatnonzero(np.isin(places.to[few], sorted(held)) | is_held)
        rows, begins = sure[:, None], angle[sure]
        total = cost[sure]
    laid = np.full(len(rows), rows.shape[1])
    for number in range(max(1, len(given)), count):  # each start has its own places over against it
        aim = begins[:, None] + 2 * np.pi * number / count
        off = np.abs(np.angle(np.exp(1j * (angle[None] - aim)))) / (np.pi / count)
        price = np.where(off < 1, cost[None] * (1 + _OFF * off**2), np.inf)
        best = price.argmin(1)
        least = price[np.arange(len(price)), best]
        there = np.isfinite(least)
        rows = np.column_stack([rows, np.where(there, best, -1)])
        total, laid = total + np.where(there, least, 0.0), laid + there
    if not len(rows) or not laid.max():
        return [], 0.0
    start = int(np.lexsort((total, -laid))[0])
    return [int(few[row]) for row in rows[start].tolist() if row >= 0], float(total[start])


def _apart(places: _Places, order: Ints) -> Ints:
    """The best places of each direction round an island, best first."""
    sector = np.floor((places.angle + np.pi) / (2 * np.pi / _FEW)).astype(int)
    _, first = np.unique(sector[order], return_index=True)
    return order[np.sort(first)]


def _places(parts: Ints, island: int, box: tuple[slice, slice], width: float, direction: Direction) -> _Places:
    own, shift = _window(parts, island, box, direction)
    x0, y0 = shift.astype(int).tolist()
    window = parts[y0 : y0 + own.shape[0], x0 : x0 + own.shape[1]]
    other = (window >= 0) & ~own
    first, last = _nearest(own, other) if direction == "nearest" else _rays(own, other, direction)
    if len(first) > _MOST:
        some = np.linspace(0, len(first) - 1, _MOST).astype(int)
        first, last = first[some], last[some]
    middle = np.argwhere(own).mean(0)[::-1] + 0.5
    angle = np.arctan2(*(first - middle).T[::-1])
    length = np.hypot(*(last - first).T)
    cost = length * (1 + _CORNER * _unlike(first, last, length, width) + _ASKEW * np.abs(np.sin(2 * angle)))
    at = np.floor(last).astype(int)
    inside = ((at >= 0) & (at < window.shape[::-1])).all(1)
    to = np.where(inside, window[np.minimum(at[:, 1], len(window) - 1), np.minimum(at[:, 0], window.shape[1] - 1)], 0)
    return _Places(first + shift, last + shift, cost, angle, to, middle + shift)


def _unlike(first: Floats, last: Floats, length: Floats, width: float) -> Floats:
    """How little a stroke goes on beside a bridge as it does there, from 0 to 1 at a corner, an end or a join; (N,)."""
    if not len(first):
        return np.zeros(0)
    way = (last - first) / np.maximum(length, 1e-9)[:, None]
    along = np.stack([-way[:, 1], way[:, 0]], 1)
    reach = _BESIDE * width
    pairs = kd_tree(first).query_pairs(reach, output_type="ndarray")
    i, j = np.concatenate([pairs, pairs[:, ::-1]]).T
    count = len(first)
    out = np.zeros(count)
    for ends in (first, last):  # an edge that ends, or turns, within reach
        at = ends[j] - ends[i]
        aside, off = (at * along[i]).sum(1), np.abs((at * way[i]).sum(1))
        for sign in (1.0, -1.0):
            farthest = np.zeros(count)
            np.maximum.at(farthest, i, sign * aside)
            out = np.maximum(out, np.clip(2 - 2 * farthest / (0.8 * reach), 0, 1))
        np.maximum.at(out, i, np.clip(off / (_UNEVEN * width) - 1, 0, 1) * (np.abs(aside) < reach))
    change = np.abs(length[j] - length[i]) / np.maximum(length[i], 1e-9)
    np.maximum.at(out, i, np.clip(change / _UNEVEN - 1, 0, 1))
    return out


def _window(parts: Ints, island: int, box: tuple[slice, slice], direction: Direction) -> tuple[Bools, Floats]:
    """An island in a window that shows the rest of the sheet on all sides; and where that begins."""
    height, width = parts.shape
    top, bottom, left, right = box[0].start, box[0].stop, box[1].start, box[1].stop
    if direction != "nearest":  # a ray goes on to the frame
        y0, y1, x0, x1 = (0, height, left, right) if direction == "upright" else (top, bottom, 0, width)
        return parts[y0:y1, x0:x1] == island, np.array([x0, y0], float)
    rim = _RIM + max(bottom - top, right - left)
    while True:
        y0, y1 = max(0, top - rim), min(height, bottom + rim)
        x0, x1 = max(0, left - rim), min(width, right + rim)
        held = parts[y0:y1, x0:x1] == 0
        sides = (held[:, : left - x0], held[:, right - x0 :], held[: top - y0], held[bottom - y0 :])
        if all(side.any() for side in sides) or (y1 - y0, x1 - x0) == (height, width):
            return parts[y0:y1, x0:x1] == island, np.array([x0, y0], float)
        rim *= 2


def _nearest(own: Bools, other: Bools) -> tuple[Floats, Floats]:
    """From each edge pixel of an island the way to the nearest of what holds it, by the island's outline."""
    edge = own & (cv2.erode(own.view(np.uint8), np.ones((3, 3), np.uint8)) == 0)
    if not other.any():
        return np.zeros((0, 2)), np.zeros((0, 2))
    _, near = cv2.distanceTransformWithLabels(
        (~other).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE, labelType=cv2.DIST_LABEL_PIXEL
    )
    places = np.argwhere(other)
    table = np.zeros((int(near.max()) + 1, 2))
    table[near[other]] = places
    at = np.argwhere(edge)
    ends = table[near[edge]]
    return at[:, ::-1] + 0.5, ends[:, ::-1] + 0.5


def _rays(own: Bools, other: Bools, direction: Direction) -> tuple[Floats, Floats]:
    """Straight ways from an island along columns or rows."""
    upright = direction == "upright"
    mine, rest = (own.T, other.T) if upright else (own, other)
    first, last = [], []
    for row in np.flatnonzero(mine.any(1)).tolist():
        columns = np.flatnonzero(mine[row])
        held = np.flatnonzero(rest[row])
        for start, ends in ((columns[-1], held[held > columns[-1]][:1]), (columns[0], held[held < columns[0]][-1:])):
            end = int(ends[0]) if len(ends) else (rest.shape[1] if start == columns[-1] else -1)
            first.append((start + 0.5, row + 0.5))
            last.append((end + 0.5, row + 0.5))
    turn = slice(None, None, -1) if upright else slice(None)
    return np.array(first).reshape(-1, 2)[:, turn], np.array(last).reshape(-1, 2)[:, turn]
