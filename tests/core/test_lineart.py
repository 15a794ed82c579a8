"""Line art: what strokes enclose, where they leak, and a first colouring."""

import numpy as np
import pytest

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import source_points
from sketchloom.core.regions import Closing, Fill, SeparateSettings, find_leaks, find_tones
from sketchloom.core.regions.ink.lineart import FILLS, _alike, enclosed_areas, proposed_fills
from tests.conftest import draw, picture_of

STROKE = 'stroke="#111" stroke-width="6" stroke-linecap="round" fill="none"'
LINES = SeparateSettings(mode="lineart")


def arc(x: float, y: float, radius: float, gap: float, at: float = 0.0) -> str:
    """A circle that is open over `gap` px at an angle."""
    half = gap / radius / 2
    (x0, y0), (x1, y1) = ((x + radius * np.cos(at + a), y + radius * np.sin(at + a)) for a in (half, 2 * np.pi - half))
    return f'<path d="M{x0} {y0}A{radius} {radius} 0 1 1 {x1} {y1}" {STROKE}/>'


def ink(body: str, size: int = 400) -> np.ndarray:
    return draw(body, size).rgba[..., 0] < 128


def test_every_enclosed_area_becomes_a_face_and_the_outside_is_ground():
    picture = draw(
        f'<circle cx="130" cy="200" r="80" {STROKE}/><rect x="240" y="120" width="120" height="160" {STROKE}/>', 400
    )
    result = Pipeline().run(picture, Recipe().with_("separate", mode="lineart").with_("tidy", least_area=0.0))
    assert result.tones.mode == "lineart" and not result.tones.leaks
    fills = [layer for layer in result.stack.layers if layer.ink.shown in FILLS]
    assert sum(layer.pieces for layer in fills) == 2
    assert result.stack.layers[-1].ink.shown not in FILLS  # the strokes lie on top
    # the disc within the stroke has a radius of 77, the rectangle within measures 114 x 154
    square_mm = sum(layer.area for layer in fills)
    assert square_mm == pytest.approx((np.pi * 77**2 + 114 * 154) / result.finished.px_per_mm**2, rel=2e-3)
    labels = result.regions.labels
    assert labels[5, 5] == 0 and labels[200, 130] and labels[200, 300]


@pytest.mark.parametrize("gap", [14.0, 24.0])
@pytest.mark.parametrize("at", [0.3, 2.0])
def test_a_gap_is_found_with_a_bridge_across_it(gap, at):
    leaks = find_leaks(ink(arc(200, 200, 120, gap, at)))
    assert len(leaks) == 1
    ends = {tuple(end) for end in (leaks[0].first, leaks[0].last)}
    half = gap / 240
    for sign in (1, -1):
        true = np.array([200 + 120 * np.cos(at + sign * half), 200 + 120 * np.sin(at + sign * half)])
        assert min(np.hypot(*(np.array(end) - true)) for end in ends) < 5  # a skeleton stops about half a width short
    assert leaks[0].width == pytest.approx(6, abs=1.5)


def test_an_end_that_stops_before_a_stroke_leaks():
    leaks = find_leaks(ink(f'<path d="M60 60H340V340H60V84" {STROKE}/>'))
    assert len(leaks) == 1 and leaks[0].length < 26


def test_what_is_closed_or_only_ends_somewhere_is_no_leak():
    closed = f'<circle cx="200" cy="200" r="120" {STROKE}/>'
    whiskers = f'<path d="M150 190L90 170M150 210L100 220" {STROKE}/>'
    eyes = f'<path d="M170 150L190 170M190 150L170 170" {STROKE}/>'
    smile = f'<path d="M150 250C170 280 230 280 250 250" {STROKE}/>'
    assert find_leaks(ink(closed)) == ()
    assert find_leaks(ink(closed + whiskers + eyes + smile)) == ()
    assert find_leaks(np.zeros((40, 40), bool)) == ()
    assert find_leaks(np.ones((1, 1), bool)) == ()


def test_a_gap_wider_than_was_set_is_left():
    open_circle = ink(arc(200, 200, 120, 24))
    assert len(find_leaks(open_circle, 40)) == 1
    assert find_leaks(open_circle, 10) == ()


def test_closing_leaks_makes_faces_of_what_lay_open():
    picture = draw(arc(120, 200, 80, 16) + arc(290, 200, 70, 16, 2.0), 400)
    recipe = Recipe().with_("separate", mode="lineart")
    before = Pipeline().run(picture, recipe)
    leaks = before.tones.leaks
    assert len(leaks) == 2 and len(before.stack.layers) == 1
    one = Pipeline().run(picture, recipe.with_("separate", closings=leaks[:1]))
    assert len(one.tones.leaks) == 1 and sum(layer.ink.shown in FILLS for layer in one.stack.layers) == 1
    both = Pipeline().run(picture, recipe.with_("separate", close_gaps=True))
    pieces = sum(layer.pieces for layer in both.stack.layers if layer.ink.shown in FILLS)
    assert pieces == 2


def test_bridges_lie_where_they_were_put_after_a_turn():
    picture = draw(arc(200, 200, 120, 16), 400)
    leaks = find_tones(picture, LINES).leaks
    small = picture_of(np.ascontiguousarray(picture.rgba[::2, ::2, :3]))
    tones = find_tones(small, SeparateSettings(mode="lineart", closings=leaks))
    assert tones.leaks == () and tones.labels[100, 100] > 2


def test_pieces_of_like_shape_and_mirrored_places_get_one_colour():
    wing = "M200 60C120 20 60 60 60 120C60 180 140 190 200 140Z"
    body = (
        f'<path d="{wing}" {STROKE}/><path d="{wing}" {STROKE} transform="matrix(-1 0 0 1 420 0)"/>'
        + "".join(f'<circle cx="{60 + 70 * i}" cy="300" r="26" {STROKE}/>' for i in range(5))
        + f'<rect x="170" y="210" width="70" height="40" {STROKE}/>'
    )
    mask = ink(body, 420)
    areas = enclosed_areas(mask)
    chosen = proposed_fills(areas, mask, 5)
    left, right, box = (chosen[areas.parts[y, x] - 1] for x, y in ((100, 110), (320, 110), (205, 230)))
    dots = [chosen[areas.parts[300, 60 + 70 * i] - 1] for i in range(5)]
    assert left == right
    assert len(set(dots)) == 1
    assert len({left, box, dots[0]}) == 3


def test_neighbours_get_different_colours():
    grid = "".join(f'<path d="M{40 + 80 * i} 40V360M40 {40 + 80 * i}H360" {STROKE}/>' for i in range(5))
    walls = f'<path d="M40 40H200V360H40Z M200 40H360V200H200Z M200 200H360V360H200Z" {STROKE}/>'
    mask = ink(walls)
    areas = enclosed_areas(mask)
    chosen = proposed_fills(areas, mask, 3)
    left, top, low = (chosen[areas.parts[y, x] - 1] for x, y in ((120, 200), (280, 120), (280, 280)))
    assert left not in (top, low)
    assert len(enclosed_areas(ink(grid)).size) == 16


def test_a_clicked_area_takes_its_colour_and_one_without_stays_paper():
    picture = draw(f'<circle cx="130" cy="200" r="80" {STROKE}/><circle cx="300" cy="200" r="60" {STROKE}/>', 400)
    at, other, outside = source_points(picture, np.array([[130.0, 200.0], [300.0, 200.0], [5.0, 5.0]]))
    fills = (Fill(at, (10, 120, 200)), Fill(other, None), Fill(outside, (1, 2, 3)))
    tones = find_tones(picture, SeparateSettings(mode="lineart", fills=fills))
    assert tones.found[tones.labels[200, 130] - 1] == (10, 120, 200)
    assert tones.labels[200, 300] == 1
    assert tones.unplaced == (2,)


def test_a_preview_keeps_the_colours_of_the_full_picture():
    body = "".join(f'<circle cx="{70 + 130 * i}" cy="200" r="{30 + 12 * i}" {STROKE}/>' for i in range(3))
    picture = draw(body, 400)
    full = find_tones(picture, LINES)
    small = picture_of(np.ascontiguousarray(picture.rgba[::2, ::2, :3]))
    reduced = find_tones(small, LINES, decided=full)
    for i in range(3):
        assert reduced.labels[100, 35 + 65 * i] == full.labels[200, 70 + 130 * i] > 2


def test_a_bridge_is_soft_at_its_edge_and_round_at_its_ends():
    picture = draw("", 100)
    tones = find_tones(picture, SeparateSettings(mode="lineart", closings=(Closing((0.3, 0.5), (0.7, 0.5), 0.1),)))
    mask = tones.labels == 2
    # a stadium 40 long and 10 wide
    assert mask.sum() == pytest.approx(400 + np.pi * 25, rel=0.02)


@pytest.mark.parametrize("left", [30, 75])
def test_places_that_mirror_each_other_are_alike_whatever_their_shape(left):
    # in a frame off the picture's middle, a disc and a long box of one area: pi 24^2 = 1810 = 20 x 90.5
    body = (
        f'<rect x="{left}" y="40" width="260" height="300" {STROKE}/>'
        f'<circle cx="{left + 60}" cy="120" r="24" {STROKE}/>'
        f'<rect x="{left + 190}" y="74.75" width="20" height="90.5" {STROKE}/>'
        f'<rect x="{left + 50}" y="214.75" width="20" height="90.5" {STROKE}/>'
    )
    areas = enclosed_areas(ink(body))
    group = _alike(areas, ink(body))
    disc, box, other = (group[areas.parts[y, left + x] - 1] for x, y in ((60, 120), (200, 120), (60, 260)))
    assert disc == box  # opposite each other
    assert box == other  # and of one shape
    moved = ink(body.replace(f'cx="{left + 60}" cy="120"', f'cx="{left + 60}" cy="170"'))
    areas = enclosed_areas(moved)
    group = _alike(areas, moved)
    assert group[areas.parts[170, left + 60] - 1] != group[areas.parts[120, left + 200] - 1]


DECOYS = {
    "none": "",
    "a whisker above": "M150 52L158 20",
    "a whisker that leans": "M149 53L170 20",
    "one inside": "M150 66L165 110",
    "a dash": "M148 60L156 60.1",
}


@pytest.mark.parametrize("name", DECOYS)
def test_the_true_gap_goes_before_a_nearer_end_that_parts_nothing(name):
    """A square that is open for 24 units at its top; whatever else ends there, the gap itself is closed, and once."""
    path = f"M140 60H60V220H240V60H164{DECOYS[name]}"
    rgba = draw(f'<path d="{path}" stroke="#000" stroke-width="5" fill="none"/>', 300).rgba
    (leak,) = find_leaks(rgba[..., 0] < 128, 30.0)
    left, right = sorted([leak.first, leak.last], key=lambda at: at[0])
    assert left == pytest.approx((138, 60), abs=2.5) and right == pytest.approx((166, 60), abs=2.5)
