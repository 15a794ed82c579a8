"""Stocks: the shelf on disk, the nearest colour, cautions."""

import json

import msgspec
import pytest

from sketchloom.core.errors import ArgumentError, JobError
from sketchloom.core.palette import colour_of
from sketchloom.core.stock import (
    CUTTERS,
    GENERIC,
    KINDS,
    MACHINES,
    PRESETS,
    STOCKS,
    Preset,
    Stock,
    cautions_for,
    check_cutter,
    check_stock,
    find_cutter,
    find_stock,
    nearest_stock,
    preset_for,
)


def test_a_shelf_is_kept_and_read_back_whole():
    assert STOCKS.read() == GENERIC  # who has none yet has the generic one
    own = (Stock("Felt from the attic", "fabric", "#a23b45", 1.5, price=2.5, height=None), *GENERIC[:3])
    STOCKS.write(own)
    assert STOCKS.path.is_file() and STOCKS.read() == own
    assert STOCKS.decode(STOCKS.encode(own), "x") == own


def test_every_kind_is_on_the_shelf_and_every_generic_stock_can_be_used():
    assert {stock.kind for stock in GENERIC} == set(KINDS)
    for stock in GENERIC:
        check_stock(stock)
    names = [stock.name.casefold() for stock in GENERIC]
    assert len(set(names)) == len(names)


def test_a_stock_is_found_by_its_name_or_by_its_kind():
    assert find_stock(GENERIC, "black card").name == "Black card"
    assert find_stock(GENERIC, "adhesive vinyl").carrier
    assert not find_stock(GENERIC, "paper").carrier
    with pytest.raises(ArgumentError, match="There is no stock “velvet”"):
        find_stock(GENERIC, "velvet")


def test_facts_of_the_trade_stand_in_the_generic_shelf():
    # common practice: film is cut mirrored, vinyl is not; nothing is laid on glitter; film shrinks under the press
    for stock in GENERIC:
        assert stock.mirrored == (stock.kind in ("heat-transfer film", "glitter film"))
        assert stock.bears == (stock.kind != "glitter film")
        assert bool(stock.shrink) == (stock.kind in ("heat-transfer film", "glitter film"))
        assert stock.carrier == (stock.kind in ("adhesive vinyl", "heat-transfer film", "glitter film"))


def test_cautions_come_with_their_kinds():
    assert any("chlorine" in line for line in cautions_for("adhesive vinyl"))
    assert any("press burns" in line for line in cautions_for("heat-transfer film"))
    assert any("eye and ear protection" in line for line in cautions_for("wood"))
    assert all(cautions_for(kind) for kind in KINDS)


def test_the_nearest_stock_is_that_of_the_least_ciede2000():
    from skimage.color import deltaE_ciede2000, rgb2lab  # a reference that is not ours

    coloured = [stock for stock in GENERIC if stock.colour]
    for code in ("#3a2a33", "#f2e6cf", "#8e2a5b", "#4f8a4b", "#4e7f93"):
        found, away = nearest_stock(GENERIC, colour_of(code))
        own = rgb2lab([[[v / 255 for v in colour_of(code)]]])
        least = [
            float(deltaE_ciede2000(own, rgb2lab([[[v / 255 for v in colour_of(stock.colour)]]]))[0, 0])
            for stock in coloured
        ]
        assert coloured[least.index(min(least))] == found
        assert away == pytest.approx(min(least), abs=0.05)
    assert nearest_stock((), (0, 0, 0)) is None


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"name": " "}, "no name"),
        ({"colour": "beige"}, "no colour"),
        ({"width": float("nan")}, "width"),
        ({"height": 0.0}, "height"),
        ({"shrink": 90.0}, "shrink"),
        ({"price": -1.0}, "price"),
    ],
)
def test_a_stock_that_cannot_be_says_what_is_wrong(change, words):
    with pytest.raises(ArgumentError, match=words):
        check_stock(msgspec.structs.replace(Stock("Paper"), **change))


@pytest.mark.parametrize(
    "data",
    [b"", b"[]", b'{"version": 1}', b'{"version": 9, "stocks": []}', b"\xff" * 9, b"[" * 5000, b"x" * 3_000_000],
)
def test_a_damaged_shelf_is_one_sentence(data, tmp_path):
    with pytest.raises(JobError) as error:
        STOCKS.decode(data, "stocks.json")
    assert "\n" not in str(error.value)[:120]
    with pytest.raises(JobError, match="is not there"):
        STOCKS.read(tmp_path / "none.json")


def test_two_stocks_of_one_name_are_refused():
    value = json.loads(STOCKS.encode((Stock("Paper"), Stock("Card"))))
    value["stocks"][1]["name"] = "PAPER"
    with pytest.raises(ArgumentError, match="one name"):
        STOCKS.decode(json.dumps(value).encode(), "stocks.json")


@pytest.mark.parametrize("shelf", [STOCKS, MACHINES, PRESETS], ids=lambda shelf: shelf.many)
def test_every_shelf_is_kept_and_refuses_what_is_none(shelf, tmp_path):
    assert shelf.read() == shelf.generic  # who has none yet has the generic one
    new = (shelf.kind("Attic"), *shelf.generic)
    shelf.write(new)
    assert shelf.path.name == f"{shelf.many}.json" and shelf.read() == new
    assert shelf.decode(shelf.encode(new), "x") == new
    with pytest.raises(ArgumentError, match="one name"):
        shelf.decode(shelf.encode((shelf.kind("Attic"), shelf.kind("ATTIC"))), "x")
    with pytest.raises(ArgumentError, match="no name"):
        shelf.decode(shelf.encode((shelf.kind(" "),)), "x")
    with pytest.raises(JobError, match=f"no {shelf.many}"):
        shelf.decode(b'{"version": 1}', "x")
    with pytest.raises(JobError, match="newer"):
        shelf.decode(shelf.encode(()).replace(b'"version": 1', b'"version": 2'), "x")


@pytest.mark.parametrize("changes", [
    {"width": 0.0}, {"usable_width": 1000.0}, {"speed": 0.0}, {"acceleration": float("inf")}, {"tool": -1.0},
    {"overcut": 100.0}, {"height": float("nan")}, {"name": "a" * 50},
])  # fmt: skip
def test_a_cutter_that_cannot_be_is_refused(changes):
    with pytest.raises(ArgumentError):
        check_cutter(msgspec.structs.replace(CUTTERS[0], **changes))


def test_every_generic_cutter_can_be_used_and_common_mats_are_there():
    """12 x 12 and 12 x 24 in mats, of which 11.5 in can be cut (common practice)."""
    for cutter in CUTTERS:
        assert check_cutter(cutter) is cutter
    for cutter in CUTTERS[:2]:
        assert (cutter.width, cutter.usable_width) == pytest.approx((304.8, 292.1))
    laser = find_cutter(CUTTERS, "LASER")
    assert {"adhesive vinyl", "heat-transfer film", "glitter film"} <= set(laser.never)


def test_the_preset_of_both_names_goes_before_that_of_their_kinds():
    card, knife = Stock("Red card", "card"), CUTTERS[0]
    kinds, names = Preset("Kinds", "card", "knife"), Preset("Names", "red card", knife.name.upper())
    assert preset_for((kinds,), card, knife) is kinds
    assert preset_for((kinds, names), card, knife) is names
    machine = Preset("Machine", "card", knife.name)
    assert preset_for((kinds, machine), card, knife) is machine
    assert (
        preset_for((kinds, names), Stock("Felt", "fabric"), knife) is None and preset_for((kinds,), None, knife) is None
    )
