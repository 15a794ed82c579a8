"""The narrowest place of a layer, on shapes whose width is drawn."""

import numpy as np
import pytest
import shapely

from sketchloom.core.curves import Path
from sketchloom.core.layers import narrowest_mm, refitted
from tests.core.test_grow import circle, polygon


def path_of(shape) -> Path:
    return refitted(shape)


def dumbbell(width: float, angle: float = 0.0):
    """Two discs of 20 mm with a neck between them."""
    neck = shapely.box(-15, -width / 2, 15, width / 2)
    whole = shapely.union_all([neck, shapely.Point(-18, 0).buffer(10, 64), shapely.Point(18, 0).buffer(10, 64)])
    return shapely.affinity.rotate(whole, angle, origin=(0, 0))


@pytest.mark.parametrize("width", [0.5, 0.8, 1.5, 3.0, 5.0])
@pytest.mark.parametrize("angle", [0, 37])
def test_a_neck_is_as_wide_as_it_was_drawn(width, angle):
    assert narrowest_mm(path_of(dumbbell(width, angle))) == pytest.approx(width, rel=0.05, abs=0.04)


@pytest.mark.parametrize("width", [0.6, 2.0])
def test_a_tail_counts_and_a_pointed_tip_does_not(width):
    disc = shapely.Point(0, 0).buffer(15, 64)
    tail = shapely.union(disc, shapely.box(10, -width / 2, 30, width / 2))
    assert narrowest_mm(path_of(tail)) == pytest.approx(width, rel=0.06, abs=0.06)
    tip = shapely.union(disc, shapely.Polygon([(10, -6), (10, 6), (36, 0)]))
    assert narrowest_mm(path_of(tip)) > 8
    star = polygon([(20 * r * np.cos(a), -20 * r * np.sin(a)) for a, r in zip(
        2 * np.pi * np.arange(10) / 10, [1, 0.55] * 5, strict=True)])  # fmt: skip
    assert narrowest_mm(star) > 8


def test_a_ring_and_a_thin_piece_are_as_wide_as_they_are():
    outer, inner = circle(20), circle(18.8).reversed()
    ring = Path(outer.contours + inner.contours, outer.straight + inner.straight)
    assert narrowest_mm(ring) == pytest.approx(1.2, abs=0.12)
    two = shapely.union(shapely.box(0, 0, 30, 30), shapely.box(50, 0, 50.9, 30))
    assert narrowest_mm(path_of(two)) == pytest.approx(0.9, abs=0.12)
    assert narrowest_mm(Path((), ())) == 0.0
    assert narrowest_mm(circle(30)) == pytest.approx(60, rel=0.02)
