"""What layers cost under sets of layers above them, many sets at once."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, connected_parts
from sketchloom.core.layers.grouping import Grouping
from sketchloom.core.layers.rules import LayerSettings
from sketchloom.core.planar import PlanarMap

__all__ = ["Costs", "Weigher"]

_NODES = 1_500_000
"""Faces times sets of layers that are looked at together."""


class _Nodes(NamedTuple):
    """Faces as nodes of a graph; islands of one ink in one face are one node, as they behave alike.

    Attributes
    ----------
    group : (V,) int
        Index of the layer, or -1 for enclosed ground.
    many : (V,) int
        How many faces it stands for; more than 1 only where it has one neighbour.
    area : (V,) float
    edges : (E, 2) int
        Nodes that lie beside each other; -1 for what belongs to no layer.
    length : (E,) float
        Of the arcs between them.
    """

    group: Ints
    many: Ints
    area: Floats
    edges: Ints
    length: Floats


class Costs(NamedTuple):
    """Figures of each layer under each of some sets of layers; all (B, n)."""

    loose: Ints
    cut: Floats
    area: Floats
    own: Bools  # whether it bears nothing but itself


def _nodes(planar: PlanarMap, grouping: Grouping, areas: Floats, lengths: Floats) -> _Nodes:
    inside = (grouping.of_face >= 0) | grouping.enclosed
    node = np.full(len(inside), -1)
    node[inside] = np.arange(int(inside.sum()))
    count = int(inside.sum())
    ends = np.stack([node[planar.left], node[planar.right]], 1)
    ends = np.where(ends[:, :1] < ends[:, 1:], ends, ends[:, ::-1])
    kept = (ends[:, 0] != ends[:, 1]) & (ends[:, 1] >= 0)
    pairs, row = np.unique(ends[kept], axis=0, return_inverse=True)
    length = np.bincount(row.ravel(), lengths[kept], len(pairs)).astype(np.float64)
    group, area = grouping.of_face[inside], areas[inside]
    neighbours = np.bincount(pairs.ravel() + 1, minlength=count + 1)[1:]
    other = np.full(count, -1)
    other[pairs[:, 1]] = pairs[:, 0]
    inner = pairs[pairs[:, 0] >= 0]
    other[inner[:, 0]] = inner[:, 1]
    leads_out = np.zeros(count, bool)
    leads_out[pairs[pairs[:, 0] < 0, 1]] = True
    other[leads_out] = -1
    leaf = (neighbours == 1) & (group >= 0)
    code = np.where(leaf, -1 - (other + 1) * (grouping.of_face.max() + 2) - group, np.arange(count))
    _, first, merged = np.unique(code, return_index=True, return_inverse=True)
    merged = merged.ravel()
    table = np.append(merged, -1)
    joined = table[pairs]
    joined = np.where(joined[:, :1] < joined[:, 1:], joined, joined[:, ::-1])
    pairs, row = np.unique(joined, axis=0, return_inverse=True)
    return _Nodes(
        group[first],
        np.bincount(merged),
        np.bincount(merged, area).astype(np.float64),
        pairs,
        np.bincount(row.ravel(), length, len(pairs)).astype(np.float64),
    )


class Weigher:
    """Works out what layers cost under sets of layers."""

    def __init__(self, planar: PlanarMap, grouping: Grouping, settings: LayerSettings, areas: Floats, lengths: Floats):
        self.keys = grouping.keys
        self.settings = settings
        self.nodes = _nodes(planar, grouping, areas, lengths)
        inside = (grouping.of_face >= 0) | grouping.enclosed
        self._hole = grouping.hole[inside & (grouping.of_face < 0)]
        n = len(self.keys)
        rules = [settings.rule(key) for key in self.keys]
        self.carried = np.array([settings.way(key) == "carried" for key in self.keys])
        self.islands = np.array([rule.islands for rule in rules])
        self.fills = np.array([settings.fills(key) for key in self.keys])
        stocks = [settings.stock_of(key) for key in self.keys]
        self.by_hand = np.array([stock is None or not stock.carrier for stock in stocks])
        self.bears = np.array([stock is None or stock.bears for stock in stocks])
        self.alone = self._figures(np.eye(n, dtype=bool))
        weights = settings.weights
        self._weights = weights.loose, weights.cut / 1000, weights.area / 10_000

    def costs(self, sets: Bools) -> tuple[Floats, Costs]:
        """Cost of each layer as the lowest of each set, inf where it may not be; (B, n), and the figures."""
        rows = np.arange(len(self.keys))
        if self.carried.any():
            found = self._figures(sets)
        else:  # nothing runs under anything: each layer is what it is alone
            found = Costs._make(np.broadcast_to(one[rows, rows], sets.shape).copy() for one in self.alone)
        flush = ~self.carried
        for name in ("loose", "cut", "area"):
            getattr(found, name)[:, flush] = getattr(self.alone, name)[rows, rows][flush]
        found.own[:, flush] = True
        a, b, c = self._weights
        cost = a * found.loose * self.by_hand + b * found.cut + c * found.area
        cost = np.where(found.own | self.bears, cost, np.inf)
        return np.where(sets & ~self._pinned(sets), cost, np.inf), found

    def _pinned(self, sets: Bools) -> Bools:
        """Which layers may not be the lowest of a set; (B, n)."""
        rules = [self.settings.rule(key) for key in self.keys]
        place = {key: at for at, key in enumerate(self.keys)}
        bottom = np.array([rule.pin == "bottom" for rule in rules])
        top = np.array([rule.pin == "top" for rule in rules])
        out = (sets & bottom).any(1)[:, None] & ~bottom
        out |= (sets & ~top).any(1)[:, None] & top
        for at, rule in enumerate(rules):
            for key in rule.above:
                if key in place and place[key] != at:
                    out[:, at] |= sets[:, place[key]]
        return np.asarray(out)

    def _figures(self, sets: Bools) -> Costs:
        n = len(self.keys)
        out = Costs(
            np.zeros((len(sets), n), np.int64), np.zeros((len(sets), n)), np.zeros((len(sets), n)),
            np.ones((len(sets), n), bool),
        )  # fmt: skip
        portion = max(1, _NODES // max(1, len(self.nodes.group)))
        for low in range(0, len(sets), portion):
            some = sets[low : low + portion]
            filled = (True, False) if len(self._hole) and self.fills.any() != self.fills.all() else (self.fills.any(),)
            for fills in filled:
                of = self.fills == fills
                for whole, part in zip(out, self._some(some, bool(fills)), strict=True):
                    whole[low : low + portion, of] = part[:, of]
        return out

    def _some(self, sets: Bools, fills: bool) -> Costs:
        nodes, many = self.nodes, len(sets)
        count, n = len(nodes.group), len(self.keys)
        ground = nodes.group < 0
        within = np.zeros((many, count + 1), bool)  # the last stands for what is in no layer
        within[:, :count] = sets[:, nodes.group] & ~ground
        one, other = nodes.edges.T
        if ground.any():
            held = np.where(self._hole >= 0, self._hole == 1, fills)
            wanted = np.zeros(count, bool)
            wanted[ground] = held
            stays = np.broadcast_to(wanted, (many, count)).copy()
            for here, there in ((one, other), (other, one)):
                lies = here[(here >= 0)]
                open_side = ~within[:, there[here >= 0]]
                row, column = np.nonzero(open_side)
                stays[row, lies[column]] = False
            within[:, :count] |= stays & ground
        in_one, in_other = within[:, one], within[:, other]
        row, edge = np.nonzero(in_one & in_other)
        total = many * count
        _, part = connected_parts(total, row * count + one[edge], row * count + other[edge])
        at_row, at_node = np.nonzero(within[:, :count])
        flat = part[at_row * count + at_node]
        used, part_of = np.unique(flat, return_inverse=True)
        parts = len(used)
        row_of = np.zeros(parts, np.int64)
        row_of[part_of] = at_row
        number = np.full(total, -1)
        number[at_row * count + at_node] = part_of
        area = np.bincount(part_of, nodes.area[at_node], parts)
        row, edge = np.nonzero(in_one != in_other)
        side = np.where(in_one[row, edge], one[edge], other[edge])
        cut = np.bincount(number[row * count + side], nodes.length[edge], parts)
        nodes_in = np.bincount(part_of, minlength=parts)
        repeat = np.ones(parts, np.int64)
        repeat[part_of] = np.where(nodes_in[part_of] == 1, nodes.many[at_node], 1)
        own_group = nodes.group[at_node]
        inked = own_group >= 0
        pair = np.unique(part_of[inked] * n + own_group[inked])
        of_part, of_group = np.divmod(pair, n)
        groups_in = np.bincount(of_part, minlength=parts)
        flat = row_of[of_part] * n + of_group

        def summed(values: Floats | Ints, kept: Bools | slice = slice(None)) -> Floats:
            return np.bincount(flat[kept], values[of_part][kept], many * n).reshape(many, n).astype(np.float64)

        loose = summed(repeat)
        mixed = summed(np.ones(parts), groups_in[of_part] > 1) > 0
        cuts, areas = summed(cut), summed(area)
        if self.islands.any():
            every = np.bincount(row_of, repeat, many), np.bincount(row_of, cut, many), np.bincount(row_of, area, many)
            for value, whole in zip((loose, cuts, areas), every, strict=True):
                value[:, self.islands] = whole[:, None]
            mixed[:, self.islands] = sets.sum(1)[:, None] > 1
        return Costs(np.maximum(loose.astype(np.int64) - 1, 0), cuts, areas, ~mixed)
