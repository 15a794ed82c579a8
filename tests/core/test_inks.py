"""Inks are known by keys: no stage that drops, names or recolours one changes which piece is whose."""

import msgspec
import numpy as np
import pytest

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, report_of
from sketchloom.core.layers import LayerRule
from sketchloom.core.palette import colour_of, hex_of, is_key, keys_of
from sketchloom.core.picture import source_points
from sketchloom.core.regions import Pick, coloured
from tests.conftest import FOUR_INKS, draw, picture_of

BEET, LEAF = "#8e2a5b", "#4f8a4b"
BANDS = {"#88c9ee": (0, 600), "#4f8a4b": (600, 1100), "#8e2a5b": (1100, 1600)}


def bands_with_a_speck():
    """Three bands of colour, and a speck of an ink of its own that is smaller than the least area."""
    rgb = np.full((900, 1600, 3), 255, np.uint8)
    for code, (left, right) in BANDS.items():
        rgb[100:800, max(left, 100) : min(right, 1500)] = colour_of(code)
    rgb[400:406, 300:306] = 245, 169, 24
    return picture_of(rgb)


def test_an_ink_that_is_a_speck_goes_and_every_other_keeps_its_piece():
    result = Pipeline(0).run(bands_with_a_speck(), Recipe().with_("finish", width=100.0))
    assert "#f5a918" in result.plan.keys and result.tidied.gone == 1
    per_mm2 = result.finished.px_per_mm**2
    areas = {layer.ink.key: layer.area for layer in result.stack.layers}
    assert areas == {
        "#88c9ee": pytest.approx(500 * 700 / per_mm2, rel=1e-3),
        "#4f8a4b": pytest.approx(500 * 700 / per_mm2, rel=1e-3),
        "#8e2a5b": pytest.approx(400 * 700 / per_mm2, rel=1e-3),
    }
    assert [row["key"] for row in report_of(result)["palette"]] == [layer.ink.key for layer in result.stack.layers]


def test_names_colours_orders_and_lines_of_a_picture_with_a_speck_go_to_their_inks():
    recipe = Recipe().with_("finish", width=100.0)
    recipe = recipe.with_("separate", names=((LEAF, "Felt"),), shown=((LEAF, (1, 2, 3)),))
    recipe = recipe.with_("layers", order=(LEAF, "#88c9ee"), rules=(LayerRule(LEAF, centre_line=True),))
    result = Pipeline(0).run(bands_with_a_speck(), recipe)
    assert [layer.ink.key for layer in result.stack.layers] == [BEET, LEAF, "#88c9ee"]
    felt = result.stack.layer(LEAF)
    assert (felt.name, felt.ink.hex, felt.ink.found) == ("Felt", "#010203", colour_of(LEAF))
    assert [line.ink.key for line in result.stack.strokes] == [LEAF]
    shown = coloured(result.regions, result.palette, 10**8)
    assert shown[450, 800].tolist() == [1, 2, 3, 255]  # Regions show the colour that was given


def test_the_order_is_by_ink_whatever_its_colour_is_shown_as():
    picture = draw(FOUR_INKS)
    plain = [layer.ink.key for layer in Pipeline(0).run(picture, Recipe()).stack.layers]
    recipe = Recipe().with_("separate", shown=((BEET, (9, 9, 9)),), names=((BEET, "Felt"),))
    moved = Pipeline(0).run(picture, recipe.with_("layers", order=(plain[0],)))
    assert [layer.ink.key for layer in moved.stack.layers] == [*plain[1:], plain[0]]


def test_a_layer_of_its_own_way_is_built_so():
    picture, recipe = draw(FOUR_INKS), Recipe().with_("layers", build="carried")
    carried = Pipeline(0).run(picture, recipe).stack
    bottom = carried.layers[0].ink.key
    one = Pipeline(0).run(picture, recipe.with_("layers", rules=(LayerRule(bottom, build="flush"),))).stack
    flush = Pipeline(0).run(picture, Recipe()).stack
    assert one.layer(bottom).area == pytest.approx(flush.layer(bottom).area)
    assert one.layers[1].area == pytest.approx(carried.layers[1].area)


def test_two_inks_of_one_colour_have_two_keys():
    assert keys_of([(1, 2, 3), (4, 5, 6), (1, 2, 3)]) == ("#010203", "#040506", "#010203-2")
    assert keys_of([(1, 2, 3)], ["#010203", "#010203-2"]) == ("#010203-3",)
    assert hex_of(colour_of("#0aFf10")) == "#0aff10"
    assert all(is_key(key) for key in ("#010203", "#010203-2"))
    assert not any(is_key(key) for key in ("010203", "#01020", "#010203-0", "#010203-", "#01020G", "#010203\n"))


def test_a_pick_keeps_its_key_when_another_goes():
    picture = draw(FOUR_INKS, 400, 200)
    places = source_points(picture, np.array([[100.0, 60.0], [60.0, 300.0]]))
    first, second = (Pick(at, 0.1, key=key) for at, key in zip(places, ("#3a2a33-2", "#3a2a33-3"), strict=True))
    named = Recipe().with_("separate", picks=(first, second), names=(("#3a2a33-3", "Second"),))
    both = Pipeline(0).run(picture, named)
    assert both.tones.picked == ("#3a2a33-2", "#3a2a33-3")
    alone = Pipeline(0).run(picture, named.with_("separate", picks=(second,)))
    assert alone.tones.picked == ("#3a2a33-3",)
    assert alone.palette["#3a2a33-3"].name == "Second"


VERSION_1 = {
    "version": 1,
    "recipe": {
        "separate": {
            "names": [[[142, 42, 91], "Felt"]],
            "shown": [[[142, 42, 91], [0, 80, 160]]],
            "grounded": [[79, 138, 75]],
            "joined": [[[1, 2, 3], [4, 5, 6]]],
            "locked": [[7, 8, 9]],
            "picks": [{"at": [0.5, 0.5], "to": [142, 42, 91]}],
        },
        "layers": {
            "order": ["#0050a0", "#3a2a33"],
            "strokes": ["#8e2a5b"],
            "edges": [["#8e2a5b", "outer"]],
            "joins": [],
        },
    },
}


def test_a_recipe_of_version_1_opens_with_its_inks_by_key():
    recipe = decode_recipe(msgspec.json.encode(VERSION_1), "old.json")
    assert recipe.separate.names == ((BEET, "Felt"),)
    assert recipe.separate.shown == ((BEET, (0, 80, 160)),)
    assert (recipe.separate.grounded, recipe.separate.locked) == ((LEAF,), ("#070809",))
    assert recipe.separate.joined == (("#010203", "#040506"),)
    assert recipe.separate.picks[0].to == BEET
    assert recipe.layers.order == (BEET, "#3a2a33")  # it was written in the colour shown
    assert recipe.layers.rules == (LayerRule(BEET, None, True, "outer"),)
    result = Pipeline(0).run(draw(FOUR_INKS), recipe)
    assert "Felt" in [layer.name for layer in result.stack.layers]


@pytest.mark.parametrize(
    ("part", "change"),
    [
        ("separate", {"names": (("#8e2a5b", "a\x00b"),)}),
        ("separate", {"names": (("8e2a5b", "a"),)}),
        ("separate", {"picks": tuple(Pick((0.5, 0.5)) for _ in range(255))}),
        ("separate", {"picks": (Pick((float("nan"), 0.5)),)}),
        ("separate", {"layers": tuple(((i, 0, 0), f"L{i}") for i in range(256))}),
        ("layers", {"order": ("beet",)}),
        ("layers", {"rules": (LayerRule(BEET), LayerRule(BEET))}),
    ],
)
def test_what_no_ink_can_be_is_refused_in_one_sentence(part, change):
    with pytest.raises(ArgumentError) as told:
        Recipe().with_(part, **change).check()
    assert str(told.value).endswith(".") and "\n" not in str(told.value)
