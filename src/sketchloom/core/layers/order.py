"""The best order of layers: what each order costs, and the cheapest one."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.layers.costs import Weigher
from sketchloom.core.layers.drawn import on_others
from sketchloom.core.layers.grouping import Grouping, ways_of
from sketchloom.core.layers.rules import LayerSettings
from sketchloom.core.planar import PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["MOST_EXACT", "OrderCost", "Orders", "find_order", "order_cost", "thickest"]

MOST_EXACT = 12
"""Layers up to which every order is weighed; of more, the most promising."""
_BEAM = 64
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
    weigher = Weigher(planar, grouping, settings, areas, lengths)
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
    weigher = Weigher(planar, grouping, settings, areas, lengths)
    return _cost_of(planar, grouping, weigher, tuple(range(len(grouping.keys))))


def _by_sets(weigher: Weigher, tick: Tick) -> tuple[int, ...] | None:
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


def _by_beam(weigher: Weigher, tick: Tick) -> tuple[int, ...] | None:
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


def _cost_of(planar: PlanarMap, grouping: Grouping, weigher: Weigher, order: tuple[int, ...]) -> OrderCost:
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
    sets, _ = on_others(planar, grouping, settings, *ways_of(planar, grouping, settings))
    return int(np.sum(sets, axis=0, dtype=np.int64).max(initial=0))
