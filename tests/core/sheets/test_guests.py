"""The work of several jobs on common sheets: each piece once, apart, and found again in its own picture."""

import dataclasses

import msgspec
import numpy as np
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.curves import Path
from sketchloom.core.sheets import Design, Guest, SheetSettings, Where, Work, lay_out, tighter, with_laid
from sketchloom.core.stock import Stock
from tests.conftest import tries
from tests.core.sheets.drawn import INKS, PLACES, assert_sound, cut_of, strewn

ELSEWHERE = Design(
    lambda points: 250 - np.array(points, float) * 40,
    lambda points: [((250 - x) / 40, (250 - y) / 40) for x, y in points],
    40.0,
)
"""A design that lies upside down in its picture, at another scale."""
CARD = Stock("Card", "card")


def works(rng: np.random.Generator) -> Work:
    """Work of a job in two inks, and of two others of one name in one of them and in a third."""
    own = tuple(cut_of(strewn(rng, 5), ink, CARD) for ink in INKS[:2])
    guests = [
        Guest("Tags", (cut_of(strewn(rng, 4), INKS[1], CARD), cut_of(strewn(rng, 3), INKS[2], CARD)), ELSEWHERE, copies)
        for copies in (1, 2)
    ]
    return Work(own, PLACES, tuple(guests))


@tries(12)
@given(st.integers(0, 10**6), st.integers(1, 3), st.booleans())
def test_work_of_other_jobs_lies_beside_it_and_none_is_lost(seed, copies, nested):
    work = works(np.random.default_rng(seed))
    layout = lay_out(work, SheetSettings(copies=copies, nested=nested))
    laid = [cut for group in layout.groups for cut in group.cuts]
    assert sorted(cut.key for cut in laid) == sorted([*INKS[:2], f"Tags//{INKS[1]}", f"Tags 2//{INKS[1]}"])
    many = {cut.key: {"Tags": 1, "Tags 2": 2}.get(cut.key.rpartition("//")[0], copies) for cut in laid}
    assert_sound(layout, laid, 3.0, many, in_register=not nested)
    assert [group.name for group in layout.groups] == ["Card 8e2a5b", "Card 4f8a4b"]


def test_pieces_of_other_jobs_are_found_again_where_a_hand_or_a_search_laid_them():
    work, settings = works(np.random.default_rng(3)), SheetSettings(nested=True)
    layout = lay_out(work, settings)
    sheet, guest = next(
        (sheet, one) for sheet in layout.sheets for one in sheet.laid if one.item.body.layer.startswith("Tags 2//")
    )
    to = Where(guest.item, sheet.number + 1, 20.0, 30.0, 90.0)
    kept = with_laid((), layout, work, guest, sheet.group, to)
    assert {one.scale for one in kept} == {100.0, 40.0}  # each in its own picture
    assert all(one.scale == (40.0 if "//" in one.layer else 100.0) for one in kept)
    again = lay_out(work, msgspec.structs.replace(settings, placements=kept))
    moved = next(
        one for one in again.of_group(sheet.group.key)[-1].laid
        if one.item.copy == guest.item.copy and one.item.body.layer == guest.item.body.layer
        and shapely.equals_exact(one.item.body.largest.shape, guest.item.body.largest.shape)
    )  # fmt: skip
    assert np.allclose(moved.bounds[:2], (20, 30), atol=1e-3) and moved.turn == 90 and moved.by_hand
    assert not again.unplaced and not any(one.clashes for board in again.sheets for one in board.laid)

    alone = lay_out(Work(work.cuts, PLACES), msgspec.structs.replace(settings, placements=kept))
    assert not alone.unplaced  # those of other jobs wait for them
    assert_sound(alone, work.cuts, 3.0, 1)
    fewer = Work(work.cuts, PLACES, (work.guests[0], Guest("Tags", work.guests[1].cuts[1:], ELSEWHERE, 2)))
    assert {one.layer for one in lay_out(fewer, msgspec.structs.replace(settings, placements=kept)).unplaced} == {
        to.item.body.layer
    }


def test_drawn_lines_of_another_job_go_with_its_own_layer_though_an_ink_here_has_the_same_key():
    red, blue = Stock("Red card", "card", "#cc0000"), Stock("Blue card", "card", "#0000cc")
    rng = np.random.default_rng(5)
    own = (cut_of(strewn(rng, 1), INKS[0], red), cut_of(strewn(rng, 1), INKS[1], blue))
    layer = cut_of(strewn(rng, 1), INKS[0], blue)
    line = np.array([[5, 20], [20, 20], [35, 20], [50, 20]], float)
    pen = dataclasses.replace(
        layer, key=f"{INKS[0]} centre", kind="draw", stock=None, widths=(0.5,),
        path=Path((line,), (np.ones(1, bool),), (True,)),
    )  # fmt: skip
    layout = lay_out(Work(own, PLACES, (Guest("Tags", (layer, pen), ELSEWHERE, 1),)), SheetSettings())
    assert [[cut.key for cut in group.cuts] for group in layout.groups] == [
        [INKS[0]], [INKS[1], f"Tags//{INKS[0]}", f"Tags//{INKS[0]} centre"]
    ]  # fmt: skip


def test_what_found_no_place_stays_listed_when_another_piece_is_moved():
    work, settings = works(np.random.default_rng(4)), SheetSettings(nested=True)
    layout = lay_out(work, settings)
    sheet = layout.sheets[0]
    first, second = sheet.laid[:2]
    kept = with_laid((), layout, work, first, sheet.group, Where(first.item, 0, 20.0, 200.0, 0.0))
    gone = [msgspec.structs.replace(one, at=(90.0, 90.0)) for one in kept[:1]]  # where no piece is
    settings = msgspec.structs.replace(settings, placements=(*gone, *kept[1:]))
    again = lay_out(work, settings)
    assert again.unplaced == tuple(gone)
    moved = next(one for one in again.sheets[0].laid if one.item.body.area == second.item.body.area)
    to = Where(moved.item, 0, 150.0, 200.0, 0.0)
    after = with_laid(settings.placements, again, work, moved, again.sheets[0].group, to)
    assert lay_out(work, msgspec.structs.replace(settings, placements=after)).unplaced == tuple(gone)


def test_a_search_lays_the_work_of_all_jobs_tighter():
    rng = np.random.default_rng(12)
    own, other = cut_of(strewn(rng, 20), INKS[0], CARD), cut_of(strewn(rng, 20), INKS[0], CARD)
    work, settings = Work((own,), PLACES, (Guest("Tags", (other,), ELSEWHERE, 1),)), SheetSettings(nested=True)
    found = tighter(work, settings, 4.0)
    layout = lay_out(work, msgspec.structs.replace(settings, placements=found.placements))
    assert len(found.placements) == (40 if found.gains else 0) and not layout.unplaced
    assert_sound(layout, work.every, 3.0, 1)
