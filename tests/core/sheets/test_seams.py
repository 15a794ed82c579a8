"""Seams: what is parted fits and is whole again when put together; where it can be it is hidden."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import Phase, given
from hypothesis import strategies as st

from sketchloom.core.errors import Cancelled
from sketchloom.core.sheets import Ready, SheetSettings, Work, lay_out, readied
from sketchloom.core.units import MM_PER_INCH
from tests.conftest import tries
from tests.core.sheets.drawn import INKS, PLACES, cut_of

SHEET = (12 * MM_PER_INCH, 16 * MM_PER_INCH)
"""mm"""
SLIP = 1.0
WIDE = shapely.box(0, 0, 19 * MM_PER_INCH, 290)


def laid(base, tops, **settings):
    cuts = [cut_of([base], INKS[0]), *([cut_of(tops, INKS[1])] if tops else [])]
    return lay_out(Work(tuple(cuts), PLACES), SheetSettings(**{"size": SHEET, "border": 6.0, **settings}))


def parts_of(layout) -> list:
    return [part.shape for sheet in layout.sheets for one in sheet.laid for part in one.item.body.parts
            if part.cut.key == INKS[0]]  # fmt: skip


def assert_put_together(layout, base) -> None:
    parts = parts_of(layout)
    assert not layout.too_large and not any(one.clashes for sheet in layout.sheets for one in sheet.laid)
    assert shapely.symmetric_difference(shapely.union_all(parts), base).area <= 0.05
    assert sum(part.area for part in parts) == pytest.approx(base.area, abs=0.05)
    for sheet in layout.sheets:
        x, y, width, height = sheet.group.usable
        shapes = np.concatenate([one.shapes for one in sheet.laid])
        assert shapely.box(x, y, x + width, y + height).buffer(0.002).covers(shapely.union_all(shapes))


def seen_on(line, base, tops) -> float:
    hidden = shapely.union_all(tops) if tops else shapely.Polygon()
    return (shapely.LineString(line) & base).difference(hidden).length


def test_a_base_of_19_in_is_parted_where_upper_layers_hide_it_along_its_whole_length():
    """A winding path of discs lies over the base from edge to edge; no straight line stays below it."""
    way = [(220 + 30 * math.sin(y / 45), y) for y in range(-10, 301, 6)]
    tops = [shapely.union_all([shapely.Point(*at).buffer(14) for at in way])]
    layout = laid(WIDE, tops)
    (seam,) = layout.seams
    assert seam.layer == INKS[0] and seam.visible == 0 and seen_on(seam.line, WIDE, tops) == 0
    assert len(parts_of(layout)) == 2 and layout.apart == ()
    assert_put_together(layout, WIDE)
    tall = [one.item.body for sheet in layout.sheets for one in sheet.laid if one.item.body.layer == INKS[1]]
    assert len(tall) == 1  # only the base is parted
    straight = laid(WIDE, tops, seam="straight").seams[0]
    assert len(straight.line) == 2 and straight.visible > 1
    assert straight.visible == pytest.approx(seen_on(straight.line, WIDE, tops))


@tries(4, phases=(Phase.explicit, Phase.generate))
@given(st.integers(0, 10**6))
def test_no_straight_seam_is_seen_on_less_of_its_length(seed):
    """Every line on a grid of 1 mm and 1 degree whose two sides fit is tried, by shapely alone."""
    rng = np.random.default_rng(seed)
    tops = [shapely.union_all([shapely.Point(*rng.uniform((0, 0), (480, 290))).buffer(rng.uniform(15, 70))
                               for _ in range(int(rng.integers(1, 12)))])]  # fmt: skip
    layout = laid(WIDE, list(shapely.get_parts(tops[0])))
    (seam,) = layout.seams
    told = seen_on(seam.line, WIDE, tops)
    assert seam.visible == pytest.approx(told, abs=0.2)
    assert_put_together(layout, WIDE)
    _, _, width, height = layout.groups[0].usable
    seen = WIDE.difference(tops[0])
    best = math.inf
    middle = np.array([WIDE.centroid.x, WIDE.centroid.y])
    for degrees in range(0, 180, 3):
        along = np.array([math.cos(math.radians(degrees)), math.sin(math.radians(degrees))])
        normal = np.array([-along[1], along[0]])
        for offset in range(-280, 281, 4):
            ends = middle + offset * normal + np.array([[-400], [400]]) * along
            box = np.vstack([ends, ends[::-1] + 800 * normal])
            side = WIDE & shapely.Polygon(box)
            if not side.is_empty and all(_fits(part, width, height) for part in (side, WIDE - side)):
                best = min(best, (shapely.LineString(ends) & seen).length)
    assert told <= best + 0.2


def _fits(shape, width, height) -> bool:
    left, top, right, bottom = shape.bounds if not shape.is_empty else (0, 0, 0, 0)
    sides = right - left, bottom - top
    return (sides[0] <= width and sides[1] <= height) or (sides[1] <= width and sides[0] <= height)


RING = shapely.Point(250, 250).buffer(240, 64) - shapely.Point(250, 250).buffer(190, 64)


@pytest.mark.parametrize(("base", "parts"), [
    (shapely.box(0, 0, 1100, 280), 3), (shapely.box(0, 0, 1900, 280), 5), (shapely.box(0, 0, 560, 560), 4),
    (WIDE - shapely.box(200, 40, 280, 120) - shapely.box(190, 180, 240, 250), 2), (RING, 4),
])  # fmt: skip
def test_bases_of_several_parts_of_a_ring_and_with_windows(base, parts):
    layout = laid(base, [])
    assert len(parts_of(layout)) == parts and len(layout.seams) >= 1
    assert_put_together(layout, base)
    assert all(seam.visible == pytest.approx(seam.length) for seam in layout.seams)  # nothing lies over it


@tries(10, phases=(Phase.explicit, Phase.generate))
@given(st.integers(0, 10**6))
def test_anything_that_is_parted_fits_and_is_whole(seed):
    rng = np.random.default_rng(seed)
    angle = np.sort(rng.uniform(0, 2 * math.pi, 11))
    radius = rng.uniform(120, 420, 11)
    shape = shapely.Polygon(np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])).buffer(12).buffer(-6)
    base = max(shapely.get_parts(shape), key=lambda part: part.area)
    for _ in range(int(rng.integers(0, 3))):
        hole = shapely.Point(*rng.uniform(-200, 200, 2)).buffer(rng.uniform(10, 60))
        base = max(shapely.get_parts(base - hole), key=lambda part: part.area)
    tops = [shapely.Point(*rng.uniform(-300, 300, 2)).buffer(rng.uniform(20, 90)) for _ in range(5)]
    layout = laid(base, list(shapely.get_parts(shapely.union_all(tops))), nested=bool(rng.integers(0, 2)))
    assert_put_together(layout, base)


def test_parts_run_on_under_each_other():
    layout = laid(WIDE, [], seam_overlap=5.0)
    (seam,) = layout.seams
    one, other = parts_of(layout)
    shared = shapely.intersection(one, other)
    assert shared.area == pytest.approx(5.0 * seam.length, rel=0.02)
    assert shapely.symmetric_difference(shapely.union_all([one, other]), WIDE).area < 0.05


def test_a_base_that_is_covered_whole_is_parted_unseen():
    (seam,) = laid(WIDE, [WIDE.buffer(20)], seam="hidden").seams[:1]
    assert seam.layer == INKS[0] and seam.visible == 0 and len(seam.line) == 2


def test_parts_of_a_piece_cut_with_a_kerf_are_the_piece_again():
    """The tool takes its width along the seam as well."""
    ready = Ready(kerf=0.4)
    (cut,), _ = readied((cut_of([WIDE], INKS[0]),), ready)
    settings = SheetSettings(size=SHEET, ready=ready)
    parts = parts_of(lay_out(Work((cut,), PLACES), settings))
    left = [part.buffer(-0.2, join_style="mitre") for part in parts]
    assert len(parts) == 2 and sum(part.area for part in left) == pytest.approx(WIDE.area, abs=0.1)


def test_a_sheet_much_too_small_is_told_at_once_and_parting_is_called_off():
    assert len(laid(WIDE, [], size=(30.0, 30.0)).too_large) == 1

    def stop(_: float) -> None:
        raise Cancelled

    with pytest.raises(Cancelled):
        lay_out(Work((cut_of([shapely.box(0, 0, 700, 500)]),), PLACES), SheetSettings(size=SHEET), stop)


def test_what_is_not_to_be_parted_is_left():
    layout = laid(WIDE, [], seam="none")
    assert len(layout.too_large) == 1 and not layout.seams
    assert laid(shapely.box(0, 0, 290, 390), []).seams == ()  # what fits stays whole
    assert laid(shapely.box(0, 0, 390, 280), []).seams == () and laid(WIDE, [], turn="none", seam="none").too_large
