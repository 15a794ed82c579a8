"""The best order of layers: what each order costs, and the cheapest one."""

from typing import NamedTuple

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.layers.grouping import Grouping, ways_of
from sketchloom.core.layers.rules import LayerSettings
from sketchloom.core.planar import PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["MOST_EXACT", "OrderCost", "Orders", "find_order", "order_cost", "thickest"]

MOST_EXACT = 12
"""Layers up to which every order is weighed; of more, the most promising."""
_BEAM = 64
_NODES = 1_500_000
"""Faces times sets of layers that are looked at together."""
_ALIKE = 1e-9


class OrderCost(NamedTuple):
    """What an order comes to."""

    keys: tuple[str, ...]  # bottom first
    cost: float
    loose: int  # pieces that are placed by hand
    cut: float  # mm
    area: float  # mm2
    thickest: int  # layers that lie on each other at most


class Orders(NamedTuple):
    """The order that the settings give, and the best one."""

    present: OrderCost
    best: OrderCost | None  # None where no order keeps to the pins and to the rules of the stocks
    exact: bool  # whether every order was weighed


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


class _Costs(NamedTuple):
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


class _Weigher:
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

    def costs(self, sets: Bools) -> tuple[Floats, _Costs]:
        """Cost of each layer as the lowest of each set, inf where it may not be; (B, n), and the figures."""
        found = self._figures(sets)
        rows = np.arange(len(self.keys))
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

    def _figures(self, sets: Bools) -> _Costs:
        n = len(self.keys)
        out = _Costs(
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

    def _some(self, sets: Bools, fills: bool) -> _Costs:
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
        graph = coo_array(
            (np.ones(len(row), np.int8), (row * count + one[edge], row * count + other[edge])), (total, total)
        )
        _, part = connected_components(graph, directed=False)
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
        return _Costs(np.maximum(loose.astype(np.int64) - 1, 0), cuts, areas, ~mixed)


def find_order(
    planar: PlanarMap,
    grouping: Grouping,
    settings: LayerSettings,
    areas: Floats,
    lengths: Floats,
    tick: Tick = no_tick,
) -> Orders:
    """Find the order that costs least.

    A carried layer hangs on its ink and on the set of inks above it, and on
    nothing else: so an order is a chain of sets, each one layer larger than
    the one before, and the cheapest chain is found by dynamic programming
    over all sets [1]_. Of more than `MOST_EXACT` layers the most promising
    sets of each size are followed. Of orders that cost the same the one
    nearest to the present is taken.

    Parameters
    ----------
    planar : PlanarMap
    grouping : Grouping
        In the present order.
    settings : LayerSettings
        With weights, pins and stocks.
    areas : (F,) float
        Of faces, mm2.
    lengths : (A,) float
        Of arcs, mm.

    References
    ----------
    .. [1] M. Held and R. M. Karp, "A dynamic programming approach to
       sequencing problems", Journal of the Society for Industrial and Applied
       Mathematics 10(1), 1962.
    """
    weigher = _Weigher(planar, grouping, settings, areas, lengths)
    n = len(grouping.keys)
    exact = n <= MOST_EXACT
    chain = _by_sets(weigher, tick) if exact else _by_beam(weigher, tick)
    present = _cost_of(planar, grouping, weigher, tuple(range(n)))
    best = _cost_of(planar, grouping, weigher, chain) if chain is not None else None
    if np.isfinite(present.cost) and (best is None or present.cost <= best.cost * (1 + _ALIKE)):
        best = present
    return Orders(present, best, exact)


def order_cost(
    planar: PlanarMap, grouping: Grouping, settings: LayerSettings, areas: Floats, lengths: Floats
) -> OrderCost:
    """What the order of a grouping comes to."""
    weigher = _Weigher(planar, grouping, settings, areas, lengths)
    return _cost_of(planar, grouping, weigher, tuple(range(len(grouping.keys))))


def _by_sets(weigher: _Weigher, tick: Tick) -> tuple[int, ...] | None:
    n = len(weigher.keys)
    numbers = np.arange(1, 2**n)
    sets = (numbers[:, None] >> np.arange(n) & 1).astype(bool)
    cost, _ = weigher.costs(sets)
    tick(0.9)
    least = np.full(2**n, np.inf)
    least[0] = 0.0
    lowest = np.full(2**n, -1)
    size = sets.sum(1)
    for many in range(1, n + 1):
        rows = np.flatnonzero(size == many)
        rest = numbers[rows][:, None] & ~(1 << np.arange(n))
        total = cost[rows] + least[rest]
        best = total.min(1)
        near = total <= best[:, None] + _ALIKE * np.maximum(1.0, np.abs(best[:, None]))
        least[numbers[rows]] = best
        lowest[numbers[rows]] = np.where(np.isfinite(best), near.argmax(1), -1)
    left, chain = 2**n - 1, []
    while left:
        if lowest[left] < 0:
            return None
        chain.append(int(lowest[left]))
        left &= ~(1 << chain[-1])
    return tuple(chain)


def _by_beam(weigher: _Weigher, tick: Tick) -> tuple[int, ...] | None:
    """From the top down; sets of one size are ranked by what they cost so far and what the rest would alone."""
    n = len(weigher.keys)
    alone = weigher.costs(np.eye(n, dtype=bool))[0].diagonal().copy()
    alone[~np.isfinite(alone)] = 0.0
    states: list[tuple[float, tuple[int, ...]]] = [(0.0, ())]
    for many in range(1, n + 1):
        tick(many / n)
        grown = [(cost, chain, new) for cost, chain in states for new in range(n) if new not in chain]
        sets = np.zeros((len(grown), n), bool)
        for row, (_, chain, new) in enumerate(grown):
            sets[row, [*chain, new]] = True
        step, _ = weigher.costs(sets)
        best: dict[bytes, tuple[float, tuple[int, ...]]] = {}
        for row, (cost, chain, new) in enumerate(grown):
            total, key = cost + float(step[row, new]), sets[row].tobytes()
            if np.isfinite(total) and (key not in best or total < best[key][0]):
                best[key] = total, (new, *chain)
        whole = float(alone.sum())
        ranked = sorted(
            best.values(), key=lambda state: (state[0] + whole - alone[list(state[1])].sum(), state[1][::-1])
        )
        states = ranked[:_BEAM]
    return min(states)[1] if states else None


def _cost_of(planar: PlanarMap, grouping: Grouping, weigher: _Weigher, order: tuple[int, ...]) -> OrderCost:
    n = len(order)
    sets = np.zeros((n, n), bool)
    for height, place in enumerate(order):
        sets[height:, place] = False
        sets[: height + 1, place] = True
    cost, found = weigher.costs(sets)
    rows = np.arange(n)
    own = list(order)
    return OrderCost(
        tuple(weigher.keys[place] for place in order),
        float(cost[rows, own].sum()),
        int((found.loose[rows, own] * weigher.by_hand[own]).sum()),
        float(found.cut[rows, own].sum()),
        float(found.area[rows, own].sum()),
        thickest(planar, grouping.ordered([weigher.keys[place] for place in order]), weigher.settings),
    )


def thickest(planar: PlanarMap, grouping: Grouping, settings: LayerSettings) -> int:
    """Layers that lie on each other at most."""
    sets, _ = ways_of(planar, grouping, settings)
    return int(np.sum(sets, axis=0, dtype=np.int64).max(initial=0))
