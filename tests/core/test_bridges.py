"""Bridges of a stencil as a letterer lays them (common practice: across strokes, upright in a word, off corners)."""

import numpy as np
import pytest

from sketchloom.core.inspect import narrowest_mm
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.tidy import Bridging, find_islands, proposed_bridges
from tests.conftest import draw

# two letters of straight bars, 10 units thick, and a round one: counters one above the other, one alone, one round
EIGHT = "M20 20H70V160H20Z M30 30H60V85H30Z M30 95H60V150H30Z"
PEE = "M80 20H130V100H90V160H80Z M90 30H120V90H90Z"
WORD = (
    f'<path d="{EIGHT}" fill-rule="evenodd"/><path d="{PEE}" fill-rule="evenodd"/>'
    '<path d="M165 90m-30 0a30 45 0 1 0 60 0a30 45 0 1 0 -60 0M165 90m-20 0a20 35 0 1 0 40 0a20 35 0 1 0 -40 0" '
    'fill-rule="evenodd"/>'
)
BLACK = "#000000"


def word_labels() -> np.ndarray:
    return (draw(WORD, 600, 200).rgba[..., 0] < 128).astype(np.uint8)


@pytest.fixture(scope="module")
def laid():
    """Bridges of the word's islands, 4 units wide, in units of the drawing."""
    islands, parts = find_islands(word_labels(), {1})
    assert len(islands) == 4
    found = proposed_bridges(parts, range(1, 5), 2, 12.0)
    middles = [(np.array(one.box[:2]) + np.array(one.box[2:])) / 6 for one in islands]
    return middles, [[(first / 3, last / 3) for first, last in ends] for ends in found]


def test_all_run_in_one_direction_square_across_their_strokes(laid):
    for first, last in (ends for bridges in laid[1] for ends in bridges):
        assert abs(first[0] - last[0]) < 0.12 * abs(first[1] - last[1])


def test_they_lie_off_the_corners_by_their_width(laid):
    for first, last in (ends for bridges in laid[1] for ends in bridges):
        x = (first[0] + last[0]) / 2
        assert all(
            abs(x - corner) >= 2 + 3.4 for corner in (30, 60, 90, 120)
        )  # half its own, and its width all but a px


def test_islands_one_above_the_other_share_a_bridge_and_each_has_two(laid):
    middles, bridges = laid
    assert sum(map(len, bridges)) == 7
    for middle, own in zip(middles, bridges, strict=True):
        if len(own) == 2:
            sides = [float(np.sign(last[1] - middle[1])) for _, last in own]
            assert sorted(sides) == [-1.0, 1.0]


@pytest.mark.parametrize("width", [1.0, 2.0, 3.0])
def test_the_sheet_is_as_narrow_as_its_bridges_and_no_narrower(width):
    recipe = Recipe().with_("finish", width=170.0).with_("layers", build="stencil")
    result = Pipeline().run(draw(WORD, 900, 200), recipe.with_("tidy", bridges=Bridging(width, 2, "nearest")))
    (sheet,) = result.stack.layers
    assert sheet.pieces == 1 and not result.tidied.islands
    assert narrowest_mm(sheet) == pytest.approx(width, rel=0.04)


def test_an_island_in_a_pointed_place_is_held_by_the_whole_width_of_its_bridge():
    body = '<path d="M100 10L180 190H20Z M100 60L150 170H50Z" fill-rule="evenodd"/>'
    recipe = Recipe().with_("finish", width=160.0).with_("layers", build="stencil")
    result = Pipeline().run(draw(body, 800, 200), recipe.with_("tidy", bridges=Bridging(3.0, 2, "upright")))
    assert narrowest_mm(result.stack.layers[0]) == pytest.approx(3.0, rel=0.05)


def test_enclosed_ground_is_no_part_of_what_a_stencil_cuts():
    body = (
        f'<path d="{EIGHT}" fill="#7a1f3d" fill-rule="evenodd"/>'
        '<rect x="90" y="60" width="90" height="20" fill="#c9a24b"/>'
    )
    stencil = Recipe().with_("layers", build="stencil").with_("finish", width=160.0)
    result = Pipeline().run(draw(body, 600, 200), stencil)
    assert len(result.tidied.islands) == 2
    (sheet,) = result.stack.layers
    letters = (50 * 140 - 2 * 30 * 55) + 90 * 20
    assert sheet.pieces == 3 and np.prod(result.stack.size) - sheet.area == pytest.approx(letters, rel=5e-3)
    only = Pipeline().run(draw(body, 600, 200), stencil.with_("tidy", cut_away=("#7a1f3d",))).stack
    assert np.prod(only.size) - only.layers[0].area == pytest.approx(50 * 140 - 2 * 30 * 55, rel=5e-3)
    every = Pipeline().run(draw(body, 600, 200), stencil.with_("tidy", cut_away=("#7a1f3d", "#ffffff"))).stack
    assert np.prod(every.size) - every.layers[0].area == pytest.approx(50 * 140, rel=5e-3)  # where it is asked for
