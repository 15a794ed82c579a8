"""Layouts of drawn pieces, held against shapely's distances, rectpack's boxes and each other."""

import dataclasses
from itertools import pairwise

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely import affinity

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut
from sketchloom.core.errors import ArgumentError, Cancelled
from sketchloom.core.sheets import (
    Placement,
    SheetSettings,
    Where,
    Work,
    check_sheets,
    figures_of,
    lay_out,
    tighter,
    with_laid,
)
from sketchloom.core.sheets.board import Board
from sketchloom.core.sheets.bodies import items_of
from sketchloom.core.sheets.boxes import lay_boxes
from sketchloom.core.sheets.cells import rings_of, touched
from sketchloom.core.sheets.filling import Filling
from sketchloom.core.sheets.groups import groups_of
from sketchloom.core.sheets.strip import packed_strip
from sketchloom.core.stock import CUTTERS, Stock, find_cutter, refusal
from tests.conftest import tries
from tests.core.sheets.drawn import (
    INKS,
    PLACES,
    assert_sound,
    boxes_length,
    cut_of,
    odd_piece,
    strewn,
    used_length,
    work_of,
)

NESTED = SheetSettings(nested=True)
SHEET = (304.0, 304.0)
"""mm; 292 x 292 of it can be used."""


def lay(cuts, **settings):
    return lay_out(work_of(cuts), SheetSettings(**{"size": SHEET, "nested": True, **settings}))


@tries(60)
@given(st.integers(0, 10**6), st.floats(0.3, 30))
def test_cells_that_a_polygon_touches_are_all_told(seed, size):
    """A cell is touched where shapely says that they share area; besides, only some within half a cell."""
    piece = odd_piece(np.random.default_rng(seed), size, size)
    left, top, right, bottom = piece.bounds
    piece = affinity.translate(piece, -left, -top)
    columns, rows = int(right - left) + 2, int(bottom - top) + 2
    mask = touched(rings_of([piece]), columns, rows)
    x, y = np.meshgrid(np.arange(columns), np.arange(rows))
    cells = shapely.box(x, y, x + 1, y + 1)
    assert mask[shapely.area(shapely.intersection(cells, piece)) > 1e-9].all()
    assert (shapely.distance(cells[mask], piece) < 0.5).all()


@tries(24)
@given(st.data())
def test_any_layout_is_sound(data):
    rng = np.random.default_rng(data.draw(st.integers(0, 10**6)))
    stock = data.draw(
        st.sampled_from([None, Stock("Film", "heat-transfer film", mirrored=True, width=280.0, height=None)])
    )
    cuts = [cut_of(strewn(rng, int(rng.integers(1, 9))), ink, stock) for ink in INKS[: data.draw(st.integers(1, 3))]]
    copies, distance = data.draw(st.integers(1, 3)), data.draw(st.sampled_from([0.0, 0.7, 3.0, 8.0]))
    settings = SheetSettings(
        size=data.draw(st.sampled_from([None, (200.0, 150.0), SHEET])),
        border=data.draw(st.sampled_from([0.0, 6.0, 20.0])),
        distance=distance,
        turn=data.draw(st.sampled_from(["none", "quarter", "any"])),
        copies=copies,
        nested=data.draw(st.booleans()),
        flip=data.draw(st.sampled_from(["auto", "on", "off"])),
        cutter=data.draw(st.sampled_from([None, CUTTERS[0]])),
    )
    layout = lay_out(work_of(cuts), settings)
    assert not layout.too_large
    assert_sound(layout, cuts, distance, copies, in_register=not settings.nested)
    flipped = settings.flip == "on" or (settings.flip == "auto" and stock is not None)
    assert all(one.flipped is flipped for sheet in layout.sheets for one in sheet.laid)
    again = lay_out(work_of(cuts), settings)
    assert [one.at for sheet in again.sheets for one in sheet.laid] == [
        one.at for sheet in layout.sheets for one in sheet.laid
    ]
    figures = figures_of(layout, settings.cutter)
    length = sum(cut.path.length for cut in cuts) * copies
    assert figures.timing.cut == pytest.approx(length, rel=1e-6)
    assert figures.sheets == len(layout.sheets)


@pytest.mark.parametrize("seed", range(3))
def test_sixty_odd_pieces_take_at_most_0_72_of_the_length_of_boxes(seed):
    pieces = strewn(np.random.default_rng(seed), 60)
    layout = lay([cut_of(pieces)])
    assert_sound(layout, [cut_of(pieces)], 3.0, 1)
    assert used_length(layout, 292.0) <= 0.72 * boxes_length(pieces, 292.0, 292.0, 3.0)


@tries(20)
@given(st.integers(0, 10**6))
def test_no_set_takes_more_than_its_boxes(seed):
    """Boxes laid side by side by rectpack are never better, not for boxes either."""
    rng = np.random.default_rng(seed)
    many = int(rng.integers(2, 40))
    pieces = strewn(rng, many, 5, 90) if seed % 2 else [
        affinity.translate(shapely.box(0, 0, *rng.uniform(5, 90, 2)), 100 * place, 0) for place in range(many)
    ]  # fmt: skip
    layout = lay([cut_of(pieces)])
    ours, theirs = used_length(layout, 292.0), boxes_length(pieces, 292.0, 292.0, 3.0)
    assert ours <= theirs + 0.15  # rectpack is asked in tenths of a mm


def test_a_piece_lies_in_the_hole_of_a_large_one():
    ring = shapely.Point(140, 140).buffer(140, 64).difference(shapely.Point(140, 140).buffer(60, 64))
    disc = shapely.Point(400, 400).buffer(50, 64)
    layout = lay([cut_of([ring, disc])])
    assert len(layout.sheets) == 1
    assert layout.sheets[0].used == pytest.approx(280, abs=0.1)


def knot() -> Cut:
    """Two squares that hang together by a point, as one outline that runs through it twice."""
    nodes = np.array([[0, 0], [40, 0], [40, 40], [80, 40], [80, 80], [40, 80], [40, 40], [0, 40], [0, 0]], float)
    contour = np.vstack([nodes[:1], *(np.vstack([a + (b - a) / 3, b - (b - a) / 3, b]) for a, b in pairwise(nodes))])
    path = Path((contour,), (np.ones(8, bool),))
    return dataclasses.replace(cut_of([shapely.box(0, 0, 1, 1)]), path=path)


def test_pieces_that_hang_together_by_a_point_are_parted_and_none_is_lost():
    layout = lay([knot()])
    (sheet,) = layout.sheets
    assert [part.shape.area for one in sheet.laid for part in one.item.body.parts] == [1600, 1600]
    one, other = (laid.shapes[0] for laid in sheet.laid)
    assert one.distance(other) >= 3.0
    ((_, _, path),) = sheet.strokes
    assert sorted(np.abs(path.areas)) == pytest.approx([1600, 1600])
    kept_together = lay([knot()], nested=False).sheets[0].laid
    assert len(kept_together) == 1 and len(kept_together[0].item.body.parts) == 2


def test_an_outline_that_crosses_itself_loses_nothing():
    """A figure of eight, as hostile files have: what it encloses moves as one."""
    nodes = np.array([[0, 0], [60, 60], [60, 0], [0, 60], [0, 0]], float)
    contour = np.vstack([nodes[:1], *(np.vstack([a + (b - a) / 3, b - (b - a) / 3, b]) for a, b in pairwise(nodes))])
    cut = dataclasses.replace(cut_of([shapely.box(0, 0, 1, 1)]), path=Path((contour,), (np.ones(4, bool),)))
    layout = lay([cut, cut_of([shapely.box(0, 0, 50, 50)], INKS[1])])
    parts = [
        part for sheet in layout.sheets for one in sheet.laid for part in one.item.body.parts if part.cut.key == cut.key
    ]
    assert sum(part.shape.area for part in parts) == pytest.approx(1800)


def test_layers_of_one_stock_and_colour_share_sheets_and_others_do_not():
    rng = np.random.default_rng(4)
    card, red = (
        Stock("Card", "card", width=300.0, height=300.0),
        Stock("Red card", "card", "#cc0000", width=300.0, height=300.0),
    )
    cuts = [
        cut_of(strewn(rng, 2), INKS[0], red),
        cut_of(strewn(rng, 2), INKS[1], red),
        cut_of(strewn(rng, 2), INKS[2], card),
    ]
    layout = lay_out(work_of(cuts), SheetSettings(nested=True))
    assert [group.name for group in layout.groups] == ["Red card", f"Card {INKS[2][1:]}"]
    keys = [tuple(stroke.cut.key for stroke in sheet.strokes) for sheet in layout.sheets]
    assert keys == [(INKS[0], INKS[1]), (INKS[2],)]


def test_a_layer_in_register_keeps_its_pieces_where_they_are_to_each_other():
    pieces = strewn(np.random.default_rng(2), 4, 20, 40)
    layout = lay([cut_of(pieces)], nested=False)
    (one,) = layout.sheets[0].laid
    assert len(one.item.body.parts) == 4 and layout.apart == ()


def test_a_layer_that_fits_in_pieces_only_is_laid_so_and_told():
    far = [shapely.box(0, 0, 80, 80), shapely.box(500, 0, 580, 80)]
    layout = lay([cut_of(far)], nested=False)
    assert layout.apart == (INKS[0],) and not layout.too_large
    assert_sound(layout, [cut_of(far)], 3.0, 1)


def test_what_fits_on_no_sheet_is_told_and_the_rest_laid():
    layout = lay([cut_of([shapely.box(0, 0, 400, 20), shapely.box(0, 50, 30, 80)])], seam="none")
    (item,) = layout.too_large
    assert item.body.parts[0].shape.bounds == (0, 0, 400, 20)
    assert len(layout.sheets[0].laid) == 1


def test_grain_lets_pieces_be_turned_upside_down_only():
    wood = Stock("Plywood", "wood", width=600.0, height=300.0, grain=True)
    layout = lay_out(work_of([cut_of(strewn(np.random.default_rng(1), 12), stock=wood)]), SheetSettings(nested=True))
    assert {one.turn for sheet in layout.sheets for one in sheet.laid} <= {0.0, 180.0}


def test_a_roll_is_as_long_as_needed():
    roll = Stock("Vinyl", "adhesive vinyl", carrier=True, width=305.0, height=None, price=4.0)
    cuts = [cut_of(strewn(np.random.default_rng(1), 30), stock=roll)]
    layout = lay_out(work_of(cuts), SheetSettings(nested=True))
    (sheet,) = layout.sheets
    assert sheet.size[1] == np.ceil(sheet.used + 12)
    (used,) = figures_of(layout, None).stocks
    assert used.roll == sheet.size[1] and used.cost == pytest.approx(4.0 * sheet.size[1] / 1000)
    area = sum(shape.area for shape in cuts[0].polygons.shapes)
    assert used.waste_share == pytest.approx(1 - area / (305.0 * sheet.size[1]))


def test_weight_is_that_of_the_pieces():
    """Worked by hand: 100 x 100 mm of 0.3 mm at 0.8 g/cm3 are 2.4 g."""
    card = Stock("Card", "card", thickness=0.3, density=0.8, width=300.0, height=300.0)
    layout = lay_out(work_of([cut_of([shapely.box(0, 0, 100, 100)], stock=card)]), SheetSettings())
    assert figures_of(layout, None).stocks[0].weight == pytest.approx(2.4)


def kept(layout, sheet=0, place=0, **changes) -> Placement:
    """What a hand would keep of a piece that was laid."""
    one = layout.sheets[sheet].laid[place]
    inside = one.item.body.largest.shape.representative_point()
    given = {
        "layer": one.item.body.layer, "copy": one.item.copy, "at": PLACES.to_source([(inside.x, inside.y)])[0],
        "area": one.item.body.area / 100**2, "scale": 100.0, "group": layout.groups[0].key, "sheet": sheet,
        "x": one.bounds[0], "y": one.bounds[1], "turn": one.turn,
    }  # fmt: skip
    return Placement(**{**given, **changes})


def test_what_a_hand_laid_stays_and_the_rest_goes_round_it():
    pieces = strewn(np.random.default_rng(3), 9)
    cuts = [cut_of(pieces)]
    moved = kept(lay(cuts), place=4, x=180.0, y=170.0, turn=30.0)
    layout = lay(cuts, placements=(moved,))
    (one,) = (one for sheet in layout.sheets for one in sheet.laid if one.by_hand)
    assert one.turn == 30.0 and one.bounds[:2] == pytest.approx((180.0, 170.0), abs=0.01) and not one.clashes
    assert_sound(layout, cuts, 3.0, 1)


def test_a_placement_whose_piece_is_gone_or_has_outgrown_its_place_is_told_and_laid_anew():
    pieces = strewn(np.random.default_rng(3), 9)
    cuts, grown = [cut_of(pieces)], [cut_of([affinity.scale(piece, 2, 2, origin=(0, 0)) for piece in pieces])]
    last = kept(lay(cuts), place=0, x=230.0, y=230.0)
    lost = msgspec.structs.replace(last, layer=INKS[1])
    elsewhere = msgspec.structs.replace(last, at=(50.0, 50.0))
    layout = lay(cuts, placements=(lost, elsewhere))
    assert layout.unplaced == (lost, elsewhere)
    assert_sound(layout, cuts, 3.0, 1)
    larger = PLACES._replace(
        to_page=lambda points: np.array(points) * 200,
        to_source=lambda p: [(x / 200, y / 200) for x, y in p],
        scale=200.0,
    )
    settings = SheetSettings(size=SHEET, nested=True, placements=(last,))
    layout = lay_out(Work(tuple(grown), larger), settings)
    assert layout.unplaced == (last,)
    assert_sound(layout, grown, 3.0, 1)


def test_a_piece_laid_over_another_by_hand_is_told():
    cuts = [cut_of(strewn(np.random.default_rng(3), 5))]
    first = lay(cuts)
    one = kept(first, place=0, x=50.0, y=50.0)
    over = kept(first, place=1, x=52.0, y=52.0)
    off = kept(first, place=2, x=280.0, y=0.0)
    told = {one.at: one.clashes for sheet in lay(cuts, placements=(one, over, off)).sheets for one in sheet.laid}
    assert sum(told.values()) == 2


@pytest.mark.parametrize("roll", [False, True])
def test_a_tighter_layout_is_kept_and_comes_back_the_same(roll):
    stock = Stock("Film", "paper", width=304.0, height=None if roll else 304.0)
    cuts = [cut_of(strewn(np.random.default_rng(8), 14), stock=stock)]
    settings = SheetSettings(nested=True)
    quick = lay_out(work_of(cuts), settings)
    found = tighter(work_of(cuts), settings, 3.0)
    assert found.tried > 1
    layout = lay_out(work_of(cuts), msgspec.structs.replace(settings, placements=found.placements))
    assert not layout.unplaced and not any(one.clashes for sheet in layout.sheets for one in sheet.laid)
    assert_sound(layout, cuts, 3.0, 1)
    ours, before = used_length(layout, 292.0), used_length(quick, 292.0)
    if found.gains:
        (gain,) = found.gains
        assert ours < before and before - ours == pytest.approx(gain.length, abs=0.1)
        assert all(one.by_hand for sheet in layout.sheets for one in sheet.laid)
    else:
        assert ours == before


def test_a_search_leaves_alone_what_was_laid_already():
    settings = SheetSettings(nested=True)
    work = work_of([cut_of(strewn(np.random.default_rng(9), 14))])
    layout = lay_out(work, settings)
    sheet, first = layout.sheets[0], layout.sheets[0].laid[0]
    laid = with_laid((), layout, work, first, sheet.group, Where(first.item, 0, *first.bounds[:2], first.turn))
    again = tighter(work, msgspec.structs.replace(settings, placements=laid), 1.0)
    assert laid and again.placements == laid and not again.gains and not again.tried


def test_a_packed_strip_that_does_not_hold_on_the_outlines_is_not_taken(monkeypatch):
    film = Stock("Film", "heat-transfer film", width=280.0, height=None)
    (group,), settings = groups_of(work_of([cut_of(strewn(np.random.default_rng(2), 6), stock=film)]), NESTED), NESTED
    items = items_of(group, settings, work_of(group.cuts))
    filling = Filling(group, settings, items)
    assert packed_strip(filling, items, 1.5) is not None
    monkeypatch.setattr(Board, "clear", lambda *_: False)
    assert packed_strip(filling, items, 1.5) is None


def test_boxes_are_turned_only_where_they_may_be():
    assert lay_boxes([(90.0, 10.0)], (20.0, 100.0), 1.0, turns=False, roll=False) is None
    (box,) = lay_boxes([(90.0, 10.0)], (20.0, 100.0), 1.0, turns=True, roll=False)
    assert box.turned


def test_a_search_is_called_off():
    def stop(done: float) -> None:
        raise Cancelled

    with pytest.raises(Cancelled):
        tighter(work_of([cut_of(strewn(np.random.default_rng(8), 14))]), SheetSettings(nested=True), 60.0, stop)


def test_what_must_not_be_cut_on_a_machine_is_refused_with_its_reason():
    """Vinyl and laser: it gives off chlorine (common practice)."""
    assert "chlorine" in refusal(find_cutter(CUTTERS, "laser"), "adhesive vinyl")
    assert refusal(find_cutter(CUTTERS, "knife"), "paper") == ""


@pytest.mark.parametrize("changes", [
    {"sheet": 10**9}, {"sheet": -1}, {"copy": 0}, {"scale": 0.0}, {"x": float("nan")}, {"at": (float("inf"), 0.0)},
])  # fmt: skip
def test_a_placement_of_a_hostile_job_is_refused(changes):
    good = Placement(INKS[0], 1, (0.1, 0.1), 0.01, 100.0, "any", 0, 10.0, 10.0, 0.0)
    check_sheets(SheetSettings(placements=(good,)))
    with pytest.raises(ArgumentError):
        check_sheets(SheetSettings(placements=(msgspec.structs.replace(good, **changes),)))


@pytest.mark.parametrize("changes", [
    {"border": -1.0}, {"distance": float("nan")}, {"copies": 0}, {"copies": 1001}, {"size": (0.0, 10.0)},
    {"size": (10.0, float("inf"))}, {"border": 1e6},
])  # fmt: skip
def test_settings_that_cannot_be_are_refused(changes):
    with pytest.raises(ArgumentError):
        check_sheets(SheetSettings(**changes))


def test_more_pieces_than_can_be_laid_are_one_sentence():
    squares = [shapely.box(6 * (i % 12), 6 * (i // 12), 6 * (i % 12) + 3, 6 * (i // 12) + 3) for i in range(144)]
    with pytest.raises(ArgumentError, match="fewer copies"):
        lay([cut_of(squares)], copies=1000)


def test_what_a_cutter_can_reach_bounds_every_sheet():
    """A mat of 12 x 12 in of which 11.5 in can be cut (common practice): 6.35 mm stay free without any border."""
    (group,) = lay([cut_of([shapely.box(0, 0, 40, 40)])], cutter=CUTTERS[0], size=None, border=0.0).groups
    assert group.usable == pytest.approx((6.35, 6.35, 292.1, 292.1))
    roll = Stock("Vinyl", "adhesive vinyl", width=250.0, height=None)
    cut = cut_of([shapely.box(0, 0, 40, 40)], stock=roll)
    (group,) = lay([cut], cutter=CUTTERS[0], size=None).groups
    assert group.size == pytest.approx((250.0, 304.8)) and group.roll  # a piece of the roll as long as the mat
    assert group.usable == pytest.approx((6.35, 6.35, 237.65, 292.1))


def test_drawn_lines_lie_on_the_sheets_of_their_layer_and_in_register_move_with_it():
    card = Stock("Card", "card", width=300.0, height=300.0)
    layer = cut_of([shapely.box(0, 0, 60, 40)], stock=card)
    line = np.array([[5, 20], [20, 20], [35, 20], [50, 20]], float)
    pen = dataclasses.replace(
        layer, key=f"{INKS[0]} centre", kind="draw", stock=None, widths=(0.5,),
        path=Path((line,), (np.ones(1, bool),), (True,)),
    )  # fmt: skip
    together = lay([layer, pen], nested=False, size=None)
    assert len(together.groups) == len(together.sheets) == 1 and len(together.sheets[0].laid) == 1
    (drawn, _, path), (own, _, _) = together.sheets[0].strokes  # drawn while the piece is held
    assert (drawn.key, own.key) == (pen.key, INKS[0])
    (one,) = together.sheets[0].laid
    assert np.allclose(path.contours[0], one.lay(line))
    apart = lay([layer, pen], nested=True, size=None)
    assert len(apart.groups) == 1 and len(apart.sheets[0].laid) == 2


def test_a_placement_whose_piece_has_become_another_is_told():
    pieces = strewn(np.random.default_rng(3), 5)
    one = kept(lay([cut_of(pieces)]), x=50.0, y=50.0)
    other = msgspec.structs.replace(one, area=one.area * 1.5)
    layout = lay([cut_of(pieces)], placements=(other,))
    assert layout.unplaced == (other,)
    assert not any(laid.by_hand for sheet in layout.sheets for laid in sheet.laid)
