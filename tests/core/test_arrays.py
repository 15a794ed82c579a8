from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.arrays import cycles_of, ranges, rank_chains


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
