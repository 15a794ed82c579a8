from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import KDTree

from sketchloom.core.arrays import (
    connected_parts,
    cycles_of,
    dots,
    looked_up,
    near_pairs,
    nearest,
    places_of,
    ranges,
    rank_chains,
)


def test_ranges_are_concatenated():
    index, offset = ranges(np.array([5, 1]), np.array([3, 2]))
    assert index.tolist() == [5, 6, 7, 1, 2]
    assert offset.tolist() == [0, 3]


def test_chains_know_their_last_link_and_the_way_to_it():
    last, steps = rank_chains(np.array([1, 2, 2, 3, 0]))
    assert last.tolist() == [2, 2, 2, 3, 2]
    assert steps.tolist() == [2, 1, 0, 0, 3]


@given(st.permutations(list(range(40))))
def test_cycles_follow_the_permutation(permutation):
    follow = np.array(permutation)
    order, offset = cycles_of(follow)
    assert sorted(order.tolist()) == list(range(40))
    for low, high in pairwise(offset):
        cycle = order[low:high]
        assert follow[cycle].tolist() == np.roll(cycle, -1).tolist()
        assert cycle[0] == cycle.min()


@given(st.permutations(list(range(60))), st.sets(st.integers(0, 59), min_size=1))
def test_chains_are_ranked_as_by_walking(permutation, tails):
    follow = np.array(permutation)
    walked = np.zeros(60, bool)
    for start in range(60):  # cut every cycle that has no tail yet
        cycle, here = [start], follow[start]
        while here != start:
            cycle.append(int(here))
            here = follow[here]
        if not walked[start] and not tails & set(cycle):
            tails = tails | {start}
        walked[cycle] = True
    follow[list(tails)] = list(tails)
    last, steps = rank_chains(follow)
    for link in range(60):
        here, count = link, 0
        while follow[here] != here:
            here, count = follow[here], count + 1
        assert (last[link], steps[link]) == (here, count)


@given(st.lists(st.tuples(*[st.floats(-9, 9)] * 6), min_size=1, max_size=20))
def test_dots_are_inner_products(rows):
    a, b = np.array(rows)[:, :3], np.array(rows)[:, 3:]
    assert np.allclose(dots(a, b), np.diag(a @ b.T))


@given(arrays(np.uint8, st.tuples(st.integers(1, 9), st.integers(1, 9)), elements=st.integers(0, 3)))
def test_places_and_tables_are_those_of_numpy(labels):
    for ours, theirs in zip(places_of(labels > 1), np.nonzero(labels > 1), strict=True):
        assert ours.tolist() == theirs.tolist()
    table = np.array([7, 0, 255, 1])
    assert looked_up(table, labels).tolist() == table[labels].tolist()
    assert looked_up(table > 5, labels.T).tolist() == (table > 5)[labels.T].tolist()


@given(st.integers(1, 40), st.data())
def test_connected_parts_are_those_of_scipy(count, data):
    edges = data.draw(st.lists(st.tuples(st.integers(0, count - 1), st.integers(0, count - 1)), max_size=60))
    one, other = np.array(edges, int).reshape(-1, 2).T
    graph = coo_array((np.ones(len(one)), (one, other)), (count, count))
    number, part = connected_components(graph, directed=False)
    found = connected_parts(count, one, other)
    assert found[0] == number and found[1].tolist() == part.tolist()


def test_long_chains_in_any_order_are_one_part():
    order = np.random.default_rng(4).permutation(5000)
    number, part = connected_parts(5000, order[:-1], order[1:])
    assert number == 1 and not part.any()


POINTS = arrays(float, st.tuples(st.integers(0, 25), st.just(2)), elements=st.integers(-40, 40).map(lambda at: at / 4))


@given(POINTS, POINTS, st.sampled_from((0.25, 1.0, 3.0, 50.0)))
def test_near_pairs_are_those_of_scipys_tree(points, others, reach):
    wanted = set()
    if len(points) and len(others):
        wanted = {(i, j) for i, near in enumerate(KDTree(others).query_ball_point(points, reach)) for j in near}
    one, other = near_pairs(points, others, reach)
    assert len(one) == len(wanted) and set(zip(one.tolist(), other.tolist(), strict=True)) == wanted


@given(
    st.integers(1, 4),
    st.sampled_from((1, 7, 300)),
    st.sampled_from((1, 40, 900)),
    st.sampled_from((0.05, 1.0, 8.0)),
    st.integers(0, 9),
)
def test_nearest_places_are_as_near_as_those_of_scipys_tree(more, places, points, reach, seed):
    rng = np.random.default_rng(seed)
    there = rng.uniform(-9, 9, (places, 1 + more))
    here = np.vstack([there[rng.integers(0, places, points)] + rng.normal(0, 0.4, (points, 1 + more)),
                      rng.uniform(-90, 90, (5, 1 + more))])  # fmt: skip
    found = nearest(there, here, reach)
    away, _ = KDTree(there).query(here)
    assert np.hypot.reduce(here - there[found], axis=1) == pytest.approx(away, abs=1e-9)
