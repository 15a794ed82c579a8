"""The best order of layers, against every order tried, on pixels counted by scipy."""

from functools import lru_cache
from itertools import permutations

import numpy as np
import pytest
from scipy import ndimage

from sketchloom.core.layers import LayerRule, LayerSettings, OrderWeights, find_order, group_faces
from sketchloom.core.planar import planar_map
from sketchloom.core.stock import GENERIC, find_stock
from tests.conftest import palette_of

COLOURS = tuple((40 * i, 250 - 30 * i, 90) for i in range(1, 7))
PALETTE = palette_of(*COLOURS)
KEYS = tuple(ink.key for ink in PALETTE)
GLITTER = find_stock(GENERIC, "glitter film")
VINYL = find_stock(GENERIC, "adhesive vinyl")
MANY = palette_of(*((12 * i, 250 - 12 * i, 90) for i in range(1, 19)))


def random_map(seed: int) -> tuple[np.ndarray, int]:
    """A map of up to six inks, in patches or in single pixels."""
    rng = np.random.default_rng(seed)
    inks = int(rng.integers(1, 7))
    side = int(rng.integers(3, 11))
    labels = rng.integers(0 if seed % 3 else 1, inks + 1, (side, side)).astype(np.uint8)
    if seed % 2:
        labels = np.kron(labels, np.ones((2, 2), np.uint8))
        labels[1::3, 1::4] = rng.integers(0, inks + 1, labels[1::3, 1::4].shape)
    labels[0, 0] = 1
    return labels, inks


def orders_of(labels, palette=PALETTE, **settings):
    settings = LayerSettings(**{"build": "carried", **settings})
    planar = planar_map(labels)
    grouping = group_faces(planar, tuple(ink.key for ink in palette), palette, settings)
    lengths = np.diff(planar.offset).astype(float)
    return find_order(planar, grouping, settings, planar.faces.area.astype(float), lengths), grouping.keys


def tried(labels, keys, settings: LayerSettings, palette=PALETTE):
    """Cost of every order that may be, worked out on pixels."""
    number = {ink.key: i for i, ink in enumerate(palette, 1)}
    weights = settings.weights

    @lru_cache(None)
    def cost(key: str, above: frozenset[str]) -> float:
        own = labels == number[key]
        mask = own
        if settings.way(key) == "carried":
            every = np.isin(labels, [number[k] for k in (key, *above)])
            parts, _ = ndimage.label(every)
            mask = every if settings.rule(key).islands else np.isin(parts, np.unique(parts[own]))
        stock = settings.stock_of(key)
        if stock is not None and not stock.bears and (mask & ~own).any():
            return np.inf
        padded = np.pad(mask, 1).astype(int)
        edge = sum(np.abs(np.diff(padded, axis=axis)).sum() for axis in (0, 1))
        loose = 0 if stock is not None and stock.carrier else ndimage.label(mask)[1] - 1
        return weights.loose * loose + weights.cut * edge / 1000 + weights.area * mask.sum() / 10_000

    def allowed(order: tuple[str, ...]) -> bool:
        place = {key: at for at, key in enumerate(order)}
        pins = [settings.rule(key).pin for key in order]
        ranks = [{"bottom": 0, "": 1, "top": 2}[pin] for pin in pins]
        held = all(place[low] < place[key] for key in order for low in settings.rule(key).above if low in place)
        return held and ranks == sorted(ranks)

    return {
        order: sum(cost(key, frozenset(order[height + 1 :])) for height, key in enumerate(order))
        for order in permutations(keys)
        if allowed(order)
    }


@pytest.mark.parametrize("portion", range(8))
def test_the_best_order_is_that_of_all_orders_tried(portion):
    for seed in range(25 * portion, 25 * portion + 25):
        labels, _ = random_map(seed)
        rng = np.random.default_rng(seed + 1000)
        weights = OrderWeights(*(float(10.0 ** rng.uniform(-1, 2)) for _ in range(3)))
        plain, keys = orders_of(labels, weights=weights)
        costs = tried(labels, keys, LayerSettings(build="carried", weights=weights))
        assert plain.exact and plain.best.cost == pytest.approx(min(costs.values()), rel=1e-9, abs=1e-9)
        assert plain.best.cost == pytest.approx(costs[plain.best.keys], rel=1e-9, abs=1e-9)
        assert plain.present.cost == pytest.approx(costs[keys], rel=1e-9, abs=1e-9)
        rules = [
            LayerRule(
                key,
                pin=str(rng.choice(["", "", "", "bottom", "top"])),
                above=tuple(str(k) for k in rng.choice(keys, int(rng.integers(0, 2)))) if rng.random() < 0.5 else (),
                build=str(rng.choice(["carried", "carried", "flush"])),
                islands=bool(rng.random() < 0.2),
                stock=GLITTER if rng.random() < 0.15 else VINYL if rng.random() < 0.2 else None,
            )
            for key in keys
        ]
        rules = tuple(
            LayerRule(rule.ink, pin=rule.pin, above=tuple(k for k in rule.above if k != rule.ink), build=rule.build,
                      islands=rule.islands, stock=rule.stock)
            for rule in rules
        )  # fmt: skip
        pinned, keys = orders_of(labels, rules=rules, weights=weights)
        costs = tried(labels, keys, LayerSettings(build="carried", rules=rules, weights=weights))
        least = min(costs.values(), default=np.inf)
        if np.isfinite(least):
            assert pinned.best.cost == pytest.approx(least, rel=1e-9, abs=1e-9)
            assert costs[pinned.best.keys] == pytest.approx(least, rel=1e-9, abs=1e-9)
        else:
            assert pinned.best is None


def test_of_orders_that_cost_the_same_the_present_stays():
    labels = np.array([[1, 0, 2, 0, 3]], np.uint8)
    orders, keys = orders_of(labels, order=(KEYS[2], KEYS[0], KEYS[1]))
    assert orders.best.keys == orders.present.keys == keys


def test_loose_pieces_of_the_best_order_are_those_beyond_the_first():
    # a frame with nine dots: under the dots' ink it is one sheet, over it the dots are windows
    labels = np.ones((7, 7), np.uint8)
    labels[1::2, 1::2] = 2
    orders, _ = orders_of(labels, order=(KEYS[0], KEYS[1]))
    assert (orders.present.loose, orders.best.loose) == (8, 0)
    assert orders.best.keys == (KEYS[1], KEYS[0])


def test_more_than_twelve_inks_are_ordered_no_worse_than_they_are():
    rng = np.random.default_rng(3)
    labels = np.kron(rng.integers(1, 19, (9, 9)), np.ones((3, 3), int)).astype(np.uint8)
    labels[1::3, 1::3] = rng.integers(1, 19, labels[1::3, 1::3].shape)
    rules = (LayerRule(MANY.inks[4].key, pin="top"), LayerRule(MANY.inks[7].key, pin="bottom"))
    orders, keys = orders_of(labels, MANY, rules=rules)
    assert len(keys) == 18 and not orders.exact
    assert orders.best.keys[-1] == MANY.inks[4].key and orders.best.keys[0] == MANY.inks[7].key
    free, _ = orders_of(labels, MANY)
    assert free.best.cost < 0.9 * free.present.cost
    assert sorted(free.best.keys) == sorted(keys)


def test_enclosed_ground_that_is_filled_counts():
    labels = np.array([[1, 1, 1], [1, 0, 1], [1, 1, 1]], np.uint8)
    kept, _ = orders_of(labels)
    filled, _ = orders_of(labels, fill_ground=True)
    assert (kept.present.cut, kept.present.area) == (16, 8)
    assert (filled.present.cut, filled.present.area) == (12, 9)
    by_layer, _ = orders_of(labels, rules=(LayerRule(KEYS[0], fill_ground=True),))
    assert (by_layer.present.cut, by_layer.present.area) == (12, 9)
