"""Narrow places of layers, on shapes whose width is drawn, and against openings by shapely."""

import numpy as np
import pytest
import shapely

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, refitted
from sketchloom.core.inspect import Memory, Subject, limits_for, narrowest_mm
from sketchloom.core.palette import Ink
from tests.core.test_grow import circle, polygon

WIDTHS = [0.3, 0.5, 0.8, 1.5, 3.0, 5.0]

BLACK = Ink("#000000", "Black", (0, 0, 0), (0, 0, 0))


def path_of(shape) -> Path:
    return refitted(shape)


def cut_of(path: Path) -> Cut:
    return Cut(key="#000000", name="Black", ink=BLACK, path=path)


def narrow(shape, limit: float, side: str = "inside"):
    """Narrow places of a shape below a limit."""
    limits = {**limits_for(None), "neck": limit, "gap": limit}
    layer = cut_of(path_of(shape))
    found = Subject((layer,), {layer.key: limits}, (100.0, 100.0), Memory.new()).narrow(layer, side)
    return [place for place in found if place.width < limit]


def dumbbell(width: float, angle: float = 0.0):
    """Two discs of 20 mm with a neck between them."""
    neck = shapely.box(-15, -width / 2, 15, width / 2)
    whole = shapely.union_all([neck, shapely.Point(-18, 0).buffer(10, 64), shapely.Point(18, 0).buffer(10, 64)])
    return shapely.affinity.rotate(whole, angle, origin=(0, 0))


def bent(width: float):
    """Two squares of 20 mm with a neck between them that is a quarter of a ring."""
    ring = shapely.Point(0, 0).buffer(15, 256).exterior.buffer(width / 2, 64)
    quarter = ring.intersection(shapely.box(0, 0, 30, 30))
    return shapely.union_all([quarter, shapely.box(5, -20, 25, 0.1), shapely.box(-20, 5, 0.1, 25)])


def pinched(width: float):
    """A strip that two discs are cut out of from both sides."""
    strip, disc = shapely.box(-20, -10, 20, 10), shapely.Point(0, 0).buffer(6, 128)
    gone = [shapely.affinity.translate(disc, 0, way * (6 + width / 2)) for way in (-1, 1)]
    return strip.difference(shapely.union_all(gone))


@pytest.mark.parametrize("width", WIDTHS)
@pytest.mark.parametrize("angle", [0, 37])
def test_a_neck_is_as_wide_as_it_was_drawn(width, angle):
    assert narrowest_mm(cut_of(path_of(dumbbell(width, angle)))) == pytest.approx(width, rel=0.02)


@pytest.mark.parametrize("width", WIDTHS)
@pytest.mark.parametrize("drawn", [bent, pinched])
def test_a_curved_neck_is_as_wide_as_it_was_drawn(width, drawn):
    assert narrowest_mm(cut_of(path_of(drawn(width)))) == pytest.approx(width, rel=0.05)
    (place,) = narrow(drawn(width), 1.2 * width)
    assert place.width == pytest.approx(width, rel=0.05)


@pytest.mark.parametrize("width", WIDTHS)
def test_a_hole_near_an_edge_leaves_a_neck(width):
    sheet = shapely.box(0, 0, 60, 60).difference(shapely.Point(10 + width, 30).buffer(10, 256))
    (place,) = narrow(sheet, 1.3 * width)
    assert place.width == pytest.approx(width, rel=0.05)
    assert place.at == pytest.approx((width / 2, 30), abs=0.3 * width + 0.3)


@pytest.mark.parametrize("width", WIDTHS)
def test_a_gap_is_as_wide_as_it_was_drawn(width):
    two = shapely.union_all([shapely.box(0, 0, 20, 20), shapely.box(20 + width, 0, 40, 20)])
    (place,) = narrow(two, 1.1 * width, "outside")
    assert place.width == pytest.approx(width, rel=0.02)
    assert place.length == pytest.approx(20, abs=1.2 * width + 0.5)
    slot = shapely.box(0, 0, 40, 40).difference(shapely.box(15, 10, 15 + width, 30))
    (place,) = narrow(slot, 1.1 * width, "outside")
    assert place.whole and place.width == pytest.approx(width, rel=0.02)


@pytest.mark.parametrize("angle", [8, 15, 30, 45, 60, 75, 90, 120])
def test_a_pointed_tip_is_no_narrow_place_and_neither_is_a_blunt_corner(angle):
    half, long = np.radians(angle / 2), 30.0
    tip = shapely.Polygon([(0, 0), (long * np.cos(half), long * np.sin(half)), (long, 0),
                           (long * np.cos(half), -long * np.sin(half))])  # fmt: skip
    body = shapely.Point(long + 2, 0).buffer(max(6.0, 1.05 * long * np.sin(half)))
    assert narrow(shapely.union(tip, body), 0.8) == []
    notched = shapely.box(-20, -40, 50, 40).difference(tip)
    assert narrow(notched, 0.8, "outside") == []


def test_rounded_tips_leaves_and_stars_have_no_narrow_place():
    thorn = shapely.Polygon([(0, 2), (8, 0.05), (8, -0.05), (0, -2)])
    assert narrow(shapely.union(thorn, shapely.box(-10, -5, 0.1, 5)), 0.8) == []
    leaf = shapely.Point(0, 0).buffer(10, 64).intersection(shapely.Point(14, 0).buffer(10, 64))
    assert narrow(leaf, 0.8) == []
    star = polygon([(20 * r * np.cos(a), -20 * r * np.sin(a)) for a, r in zip(
        2 * np.pi * np.arange(10) / 10, [1, 0.55] * 5, strict=True)])  # fmt: skip
    assert narrowest_mm(cut_of(star)) > 5


@pytest.mark.parametrize("width", [0.6, 2.0])
def test_a_tail_counts_and_a_short_stub_does_not(width):
    disc = shapely.Point(0, 0).buffer(15, 64)
    tail = shapely.union(disc, shapely.box(10, -width / 2, 30, width / 2))
    assert narrowest_mm(cut_of(path_of(tail))) == pytest.approx(width, rel=0.03)
    stub = shapely.union(shapely.box(-20, -20, 0, 20), shapely.box(-1, -width / 2, 0.8 * width, width / 2))
    assert narrow(stub, 1.2 * width) == []


def test_a_ring_a_thin_piece_and_a_dot_are_as_wide_as_they_are():
    outer, inner = circle(20), circle(18.8).reversed()
    ring = Path(outer.contours + inner.contours, outer.straight + inner.straight)
    assert narrowest_mm(cut_of(ring)) == pytest.approx(1.2, rel=0.03)
    two = shapely.union(shapely.box(0, 0, 30, 30), shapely.box(50, 0, 50.9, 30))
    assert narrowest_mm(cut_of(path_of(two))) == pytest.approx(0.9, rel=0.02)
    (place,) = narrow(shapely.union(shapely.box(0, 0, 30, 30), shapely.Point(50, 5).buffer(0.35, 32)), 0.8)
    assert place.whole and place.width == pytest.approx(0.7, rel=0.02)
    assert narrowest_mm(cut_of(Path((), ()))) == 0.0
    assert narrowest_mm(cut_of(circle(30))) == pytest.approx(60, rel=0.02)


def blobs(seed: int):
    """Discs, bars and slits, laid over each other."""
    rng = np.random.default_rng(seed)
    shape = shapely.Polygon()
    for _ in range(int(rng.integers(3, 9))):
        x, y = rng.uniform(0, 30, 2)
        if rng.random() < 0.5:
            part = shapely.Point(x, y).buffer(rng.uniform(2, 7), 32)
        else:
            part = shapely.affinity.rotate(shapely.box(x, y, x + rng.uniform(3, 20), y + rng.uniform(0.4, 5)),
                                           rng.uniform(0, 180))  # fmt: skip
        shape = shapely.difference(shape, part) if rng.random() < 0.3 else shapely.union(shape, part)
    parts = [part for part in shapely.get_parts(shape.buffer(-0.02).buffer(0.02)) if part.area > 0.5]
    return shapely.union_all(parts)


def parted_by_opening(shape, width: float) -> list:
    """Pieces that an opening by a disc parts, or takes away whole: shapely's own measure of what is too narrow."""
    out = []
    for piece in shapely.get_parts(shape):
        opened = piece.buffer(-width / 2, 48).buffer(width / 2 * 0.999, 48)
        if len([part for part in shapely.get_parts(opened) if part.area > 1e-3]) != 1:
            out.append(piece)
    return out


def test_what_an_opening_parts_has_a_narrow_place_there_and_what_stays_whole_as_thick_has_none():
    """The outside reference is shapely's buffer (GEOS): an opening by a disc parts a piece at its necks [J. Serra,
    "Image Analysis and Mathematical Morphology", 1982], on 80 random drawings."""
    parted = sound = 0
    for seed in range(80):
        shape = blobs(seed)
        if shape.is_empty:
            continue
        found = narrow(shape, 0.8)
        for piece in parted_by_opening(shape, 0.78):
            parted += 1
            assert any(piece.distance(shapely.Point(place.at)) < 0.05 for place in found), seed
        for piece in shapely.get_parts(shape):
            eroded = piece.buffer(-0.41, 48)
            thick = eroded.buffer(0.42, 48).covers(piece.buffer(-0.001)) and len(shapely.get_parts(eroded)) == 1
            if thick:  # every point lies in a disc of the limit's width inside it
                sound += 1
                assert not any(piece.distance(shapely.Point(place.at)) < 0.05 for place in found), seed
    assert parted > 12 and sound > 4
