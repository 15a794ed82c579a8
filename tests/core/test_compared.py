"""Findings before and after a change, looked up by place, against a walk through all of them; and refits in a lot."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.cut import flatten, grown, refitted, refitted_apart
from sketchloom.core.inspect import Compared, Finding


def place(count: int):
    return st.integers(0, count).map(lambda at: at / 10)


@st.composite
def finding(draw):
    x, y, size = draw(place(30)), draw(place(30)), draw(place(8))
    kind, severity = draw(st.sampled_from((("neck", "spoils"), ("small", "look"), ("loose", "look"))))
    measure = draw(st.sampled_from((1.0, 1.015, 2.0)))
    layer = draw(st.sampled_from(("#102030", "#405060")))
    return Finding(kind, severity, layer, (x, y), (x, y, x + size, y + size), measure, 2.0, "mm", "")


def remains(before, after, one):
    others = [old for old in before if old.kind == one.kind and not old.is_still(one)]
    same = [other for other in after if one.is_at(other) and not any(other.is_still(old) for old in others)]
    return any(other.kind != "loose" or other.measure >= one.measure for other in same)


def come_of(before, after, one):
    return tuple(
        other
        for other in after
        if (other.severity == "spoils" or one.severity == "look") and not any(other.is_at(old) for old in before)
    )


@given(st.lists(finding(), min_size=1, max_size=12), st.lists(finding(), max_size=12))
def test_what_remains_and_what_has_come_is_what_a_walk_through_all_tells(before, after):
    came = Compared(before, after)
    for one in before:
        assert came.remains(one) == remains(before, after, one)
        assert came.come_of(one) == come_of(before, after, one)
        assert came.holds(one) == (not remains(before, after, one) and not come_of(before, after, one))


def test_shapes_fitted_in_a_lot_are_what_each_is_alone():
    ring = shapely.Point(3, 3).buffer(2).difference(shapely.Point(3, 3).buffer(1))
    rng = np.random.default_rng(5)
    angle, reach = np.linspace(0, 6, 25), rng.uniform(0.5, 2, 25)
    star = shapely.Polygon(np.stack([9 + np.cos(angle) * reach, 3 + np.sin(angle) * reach], 1))
    shapes = [ring, star, shapely.box(0, 8, 4, 12), grown(shapely.box(9, 9, 10, 10), 0.07)]
    shapes += [
        shapely.Point(20 + at, 3).buffer(2) for at in (0, 1)
    ]  # they overlap, and are none of each other's business
    for shape, path in zip(shapes, refitted_apart(shapes, 0.02), strict=True):
        assert path.nodes == refitted(shape, within=0.02).nodes
        assert shapely.hausdorff_distance(flatten(path).shape, shape, densify=0.1) < 0.03


@pytest.mark.parametrize("by", [0.03, 0.068, 0.12])
def test_a_small_square_grown_a_little_has_few_nodes_and_stays_true(by):
    shape = grown(shapely.box(6, 270, 7, 271), by)
    path = refitted(shape)
    assert path.nodes <= 12  # four sides and four corners, each of one curve or two
    assert shapely.hausdorff_distance(flatten(path).shape, shape, densify=0.1) < 0.01
