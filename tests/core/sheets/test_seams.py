"""Seams: what is parted fits and is whole again when put together; where it can be it is hidden."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import Phase, given
from hypothesis import strategies as st

from sketchloom.core.errors import Cancelled
from sketchloom.core.sheets import Ready, SeamLine, SheetSettings, Work, lay_out, readied, with_seam, without_seams
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
    (seam,) = (seam for seam in layout.seams if seam.layer == INKS[0])
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


def by_hand(*lines) -> tuple[SeamLine, ...]:
    """Lines in mm as a recipe keeps them."""
    return tuple(SeamLine(INKS[0], tuple((x / 100, y / 100) for x, y in line)) for line in lines)


def test_a_seam_by_hand_runs_where_it_was_laid_to_both_edges():
    """Its ends run on: one stops short of the edge, one lies beyond it."""
    layout = laid(WIDE, [], seams=by_hand([(210, 30), (240, 150), (250, 400)]))
    (seam,) = layout.seams
    assert seam.by_hand and seam.bends == 1 and layout.idle_seams == ()
    assert seam.line[1] == pytest.approx([240, 150]) and seam.line[[0, -1], 1] == pytest.approx([0, 290])
    assert seam.visible == pytest.approx(shapely.LineString(seam.line).length)
    left, right = sorted(parts_of(layout), key=lambda part: part.bounds[0])
    assert left.covers(shapely.Point(200, 100)) and right.covers(shapely.Point(260, 100))
    assert_put_together(layout, WIDE)


def test_what_a_seam_by_hand_leaves_too_large_is_parted_further():
    layout = laid(WIDE, [], seams=by_hand([(80, -5), (80, 300)]))
    assert [seam.by_hand for seam in layout.seams] == [True, False] and len(parts_of(layout)) == 3
    assert [seam.number for seam in layout.seams] == [1, 2]
    assert_put_together(layout, WIDE)


@pytest.mark.parametrize("line", [[(700, 0), (700, 300)], [(-5, 300), (600, 301)],
                                  [(100, 100), (300, 100), (300, 200), (200, 50)]])  # fmt: skip
def test_a_seam_by_hand_that_parts_nothing_is_told_and_does_no_harm(line):
    layout = laid(WIDE, [], seams=by_hand(line))
    assert len(layout.idle_seams) == 1 and not layout.seams[0].by_hand
    assert_put_together(layout, WIDE)
    whole = laid(shapely.box(0, 0, 290, 390), [], seams=by_hand([(100, -5), (100, 400)]))
    assert whole.seams == () and len(whole.idle_seams) == 1  # what fits stays whole
    assert len(laid(WIDE, [], seams=(SeamLine("gone", ((0, 0), (1, 1))),)).idle_seams) == 1


def test_a_seam_by_hand_over_a_part_that_fits_is_idle_and_the_others_hold():
    """The first parts the piece, the second lies on a part that fits by then, the third on nothing."""
    lines = [(240, -5), (240, 300)], [(100, -5), (100, 300)], [(900, 0), (900, 9)], [(-5, 100), (100, 101)]
    layout = laid(WIDE, [], seams=by_hand(*lines))
    assert [seam.by_hand for seam in layout.seams] == [True] and len(parts_of(layout)) == 2
    assert {one.line[0] for one in layout.idle_seams} == {(1.0, -0.05), (9.0, 0.0), (-0.05, 1.0)}


def test_of_several_seams_one_is_moved_and_the_others_stay():
    base, work = shapely.box(0, 0, 1000, 560), Work((cut_of([shapely.box(0, 0, 1000, 560)], INKS[0]),), PLACES)
    before = laid(base, [])
    moved = before.seams[1].line - np.array([0.0, 15.0])
    lines = with_seam((), before.seams, 1, moved, work)
    layout = laid(base, [], seams=lines)
    assert len(layout.seams) == len(before.seams) and all(seam.by_hand for seam in layout.seams)
    assert layout.seams[1].line == pytest.approx(moved, abs=1e-6)
    for now, old in zip(layout.seams[2:], before.seams[2:], strict=True):
        middle = shapely.LineString(now.line).interpolate(0.5, normalized=True)
        assert shapely.LineString(old.line).distance(middle) < 1e-6
    assert_put_together(layout, base)
    first = with_seam((), before.seams, 1, moved, work, only_before=True)
    assert len(first) == 2 and without_seams(lines, INKS[0]) == ()
    other = SeamLine("another", ((0.0, 0.0), (1.0, 1.0)))
    assert with_seam((other,), before.seams, 1, moved, work)[0] == other


@tries(15, phases=(Phase.explicit, Phase.generate))
@given(st.integers(0, 10**6))
def test_any_lines_of_a_hand_part_rightly(seed):
    rng = np.random.default_rng(seed)
    base = RING if rng.random() < 0.4 else shapely.box(0, 0, rng.uniform(400, 700), rng.uniform(250, 600))
    if base is not RING and rng.random() < 0.6:
        base = max(shapely.get_parts(base - shapely.Point(*rng.uniform(50, 350, 2)).buffer(60)), key=lambda p: p.area)
    low, high = np.array(base.bounds[:2]) - 30, np.array(base.bounds[2:]) + 30
    lines = [rng.uniform(low, high, (int(rng.integers(2, 6)), 2)) for _ in range(int(rng.integers(1, 4)))]
    layout = laid(base, [], seams=by_hand(*lines), seam_numbers=True)
    assert len(layout.idle_seams) + sum(seam.by_hand for seam in layout.seams) == len(lines)
    assert_put_together(layout, base)


def test_the_next_best_seam_lies_elsewhere_and_is_no_better():
    tops = [shapely.box(200, -10, 230, 300), shapely.box(260, -10, 275, 300)]
    (seam,) = laid(WIDE, tops).seams
    other = seam.other
    assert other is not None and other.visible >= seam.visible == 0 and other.other is None
    assert shapely.LineString(other.line).hausdorff_distance(shapely.LineString(seam.line)) > 10
    work = Work((cut_of([WIDE], INKS[0]), cut_of(tops, INKS[1])), PLACES)
    (taken,) = laid(WIDE, tops, seams=with_seam((), (seam,), 0, other.line, work)).seams
    assert taken.line == pytest.approx(other.line, abs=1e-6) and taken.visible == pytest.approx(other.visible)


def test_a_stepped_seam_goes_straight_and_square_aside_and_is_hidden_where_it_can_be():
    """Blocks that wind from side to side lie over the base; a seam of steps stays below them, no straight one does."""
    blocks = [shapely.box(190 + 80 * (n % 2), 60 * n - 5, 230 + 80 * (n % 2), 60 * n + 65) for n in range(5)]
    tops = [shapely.union_all([*blocks, *(shapely.box(190, 60 * n - 8, 310, 60 * n + 8) for n in range(1, 5))])]
    (seam,) = laid(WIDE, tops, seam="stepped").seams
    ways = np.abs(np.diff(seam.line, axis=0)) > 1e-9
    assert (ways.sum(1) == 1).all() and seam.bends >= 2 and seam.bends % 2 == 0
    assert seam.visible == pytest.approx(0, abs=1e-6)
    assert laid(WIDE, tops, seam="straight").seams[0].visible > 1
    assert_put_together(laid(WIDE, tops, seam="stepped"), WIDE)
    (plain,) = laid(WIDE, [], seam="stepped").seams  # with nothing to hide it, it has one step all the same
    assert plain.bends == 2


def test_both_sides_get_the_number_of_their_seam_where_it_is_hidden():
    tops = [shapely.box(150, 100, 330, 160)]
    layout = laid(shapely.box(0, 0, 1100, 280), tops, seam_numbers=True)
    bodies = [one.item.body for sheet in layout.sheets for one in sheet.laid if one.item.body.layer == INKS[0]]
    drawn = [part for body in bodies for part in body.parts if part.cut.kind == "draw"]
    assert len(layout.seams) == 2 and len(drawn) == 3  # the middle part has two numbers
    lines = sum(len(part.contours) for part in drawn)
    assert lines == 2 * 2 + 2 * 1  # a 1 is two strokes, a 2 is one
    for body in bodies:
        piece = shapely.union_all([part.shape for part in body.parts if part.cut.kind == "cut"])
        assert all(piece.covers(part.shape) for part in body.parts)
    near = [part.shape for part in drawn if part.shape.distance(tops[0]) == 0]
    assert near and all(tops[0].buffer(1e-6).covers(shape) for shape in near if shape.area < 20)
    pens = [run for sheet in layout.sheets for run in sheet.runs if run.group == "pens"]
    assert len(pens) == lines


def test_a_number_keeps_to_what_is_hidden_though_that_is_far_from_the_middle():
    tops = [shapely.box(200, 250, 280, 290)]
    layout = laid(WIDE, tops, seam_numbers=True, seams=by_hand([(240, -5), (240, 300)]))
    bodies = [one.item.body for sheet in layout.sheets for one in sheet.laid]
    drawn = [part.shape for body in bodies for part in body.parts if part.cut.kind == "draw"]
    assert len(drawn) == 2 and all(tops[0].buffer(0.1).covers(shape) for shape in drawn)


def test_what_is_not_to_be_parted_is_left():
    layout = laid(WIDE, [], seam="none")
    assert len(layout.too_large) == 1 and not layout.seams
    assert laid(shapely.box(0, 0, 290, 390), []).seams == ()  # what fits stays whole
    assert laid(shapely.box(0, 0, 390, 280), []).seams == () and laid(WIDE, [], turn="none", seam="none").too_large
