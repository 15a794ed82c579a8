"""Pictures put right, against pages and masks that are known."""

import cv2
import numpy as np
import pytest
from skimage import data

from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe
from sketchloom.core.picture import (
    Calm,
    ClearBox,
    ClearColour,
    Crop,
    EvenLight,
    Picture,
    Straighten,
    Turn,
    prepare,
)
from sketchloom.core.picture.page import find_page, page_shape
from sketchloom.core.picture.paper import paper_surface
from tests.conftest import FOUR_INKS, draw, picture_of

DRAWING = (
    '<g fill="none" stroke="#14141a" stroke-width="7"><circle cx="100" cy="90" r="52"/>'
    '<path d="M40 160 L100 120 L165 165"/></g>'
    '<rect x="80" y="70" width="36" height="30" fill="#14141a"/>'
)
CORNERS = np.array([[112.0, 61.0], [905.0, 118.0], [838.0, 812.0], [64.0, 741.0]])


def photographed(corners: np.ndarray = CORNERS, size: tuple[int, int] = (1000, 900), ground: int = 70) -> Picture:
    """A white page with the drawing, seen at an angle on a dark table; corners in px."""
    page = cv2.resize(draw(DRAWING, 800, 200).rgba[..., :3], (800, 800))
    source = np.array([[0, 0], [800, 0], [800, 800], [0, 800]], np.float32)
    turn = cv2.getPerspectiveTransform(source, corners.astype(np.float32))
    shift = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])
    turn = np.linalg.inv(shift) @ turn @ shift
    big = cv2.warpPerspective(page, turn, size, flags=cv2.INTER_AREA, borderValue=(ground, ground - 10, ground - 20))
    soft = cv2.GaussianBlur(big, (0, 0), 0.8).astype(float)
    noise = np.random.default_rng(1).normal(0, 2, soft.shape)
    return picture_of(np.clip(soft * 0.92 + noise, 0, 255).astype(np.uint8))


def ink_of(result, size: int) -> np.ndarray:
    mask = (result.regions.labels > 0).astype(np.uint8) * 255
    return cv2.resize(mask, (size, size), interpolation=cv2.INTER_AREA) > 127


def test_the_corners_of_a_tilted_page_are_found():
    found = find_page(photographed().rgba)
    assert found is not None
    assert np.abs(found - CORNERS).max() < 0.005 * 800


def test_a_page_that_fills_the_picture_has_no_corners_to_find():
    assert find_page(draw(DRAWING, 400, 200).rgba) is None
    assert find_page(np.full((50, 50, 4), 255, np.uint8)) is None


@pytest.mark.parametrize("typed", [False, True])
def test_a_straightened_drawing_is_the_drawing(typed):
    picture = photographed()
    corners = tuple(map(tuple, (CORNERS / 1000).tolist())) if typed else None
    recipe = Recipe(prepare=(Straighten(corners=corners),)).with_("separate", mode="ink")
    got = ink_of(Pipeline(0).run(picture, recipe), 800)
    truth = draw(DRAWING, 800, 200).rgba[..., 0] < 128
    assert (got & truth).sum() / (got | truth).sum() >= 0.97


def test_the_shape_of_a_page_follows_from_its_view():
    # a pinhole camera, focal length 900 px, looks at a page of 300 x 200 turned about two axes
    ax, ay = np.deg2rad(25), np.deg2rad(-18)
    turn_x = np.array([[1, 0, 0], [0, np.cos(ax), -np.sin(ax)], [0, np.sin(ax), np.cos(ax)]])
    turn_y = np.array([[np.cos(ay), 0, np.sin(ay)], [0, 1, 0], [-np.sin(ay), 0, np.cos(ay)]])
    page = np.array([[-150, -100, 0], [150, -100, 0], [150, 100, 0], [-150, 100, 0]]) @ (turn_x @ turn_y).T
    page += np.array([10.0, -20.0, 600.0])
    corners = page[:, :2] / page[:, 2:] * 900 + [500, 400]
    width, height = page_shape(corners, 1000, 800)
    assert width / height == pytest.approx(1.5, rel=0.02)


def test_light_that_falls_to_a_fifth_is_evened():
    y, x = np.mgrid[0:600, 0:800] / 800
    light = 1 - 0.8 * (0.8 * x + 0.27 * y) / (0.8 + 0.2)
    page = draw(DRAWING, 800, 200).rgba[:600, :, :3] / 255 * 0.9 + 0.04
    shot = np.clip(page * light[..., None] * 255, 0, 255).astype(np.uint8)
    even = prepare(picture_of(shot), (EvenLight(),)).picture.rgba[..., 0].astype(float)
    bare = even[(draw(DRAWING, 800, 200).rgba[:600, :, 0] == 255)]
    assert np.percentile(bare, 99) - np.percentile(bare, 1) < 0.05 * np.median(bare)


def test_the_paper_is_told_from_large_dark_areas():
    grey = np.full((300, 300), 220.0)
    grey[60:200, 80:220] = 40
    assert np.abs(paper_surface(grey.astype(np.uint8)) - 220).max() < 5


def test_calming_takes_noise_and_leaves_edges():
    rgb = np.full((120, 120, 3), 230.0)
    rgb[:, 60:] = 60
    noisy = picture_of(np.clip(rgb + np.random.default_rng(2).normal(0, 8, rgb.shape), 0, 255).astype(np.uint8))
    calm = prepare(noisy, (Calm(radius=3 / 120),)).picture.rgba[..., 0].astype(float)
    assert calm[20:100, 10:50].std() < 0.5 * noisy.rgba[20:100, 10:50, 0].std()
    assert np.abs(np.diff(calm.mean(0))).argmax() == 59


@pytest.mark.parametrize("quarters", [0, 1, 2, 3])
@pytest.mark.parametrize("mirror", [False, True])
def test_a_turned_picture_still_knows_its_source(quarters, mirror):
    picture = photographed()
    done = prepare(picture, (Turn(quarters=quarters, mirror=mirror), Crop(first=(0.2, 0.1), last=(0.6, 0.5)))).picture
    assert (done.width, done.height) == (400, 400)
    corner = done.source_of @ np.array([0.0, 0.0, 1.0])
    corners = {(0, False): (0.2, 0.1), (1, False): (0.2, 0.5), (2, False): (0.6, 0.5), (3, False): (0.6, 0.1)}
    mirrored = {(0, True): (0.6, 0.1), (1, True): (0.2, 0.1), (2, True): (0.2, 0.5), (3, True): (0.6, 0.5)}
    assert corner[:2] / corner[2] == pytest.approx((corners | mirrored)[quarters, mirror], abs=1e-9)
    expected = np.rot90(picture.rgba[100:500, 200:600], -quarters)
    assert np.array_equal(done.rgba, expected[:, ::-1] if mirror else expected)


def test_rows_are_switched_off_and_those_without_a_place_are_listed():
    picture = draw(FOUR_INKS)
    outside = Crop(first=(0.9, 0.9), last=(0.95, 0.95))
    done = prepare(
        picture, (Crop(first=(0.0, 0.0), last=(0.5, 0.5)), outside, Crop(on=False, first=(0, 0), last=(1, 1)))
    )
    assert done.unplaced == (1,)
    assert (done.picture.width, done.picture.height) == (100, 100)
    assert prepare(picture, (Straighten(),)).unplaced == (0,)
    assert prepare(picture, ()).picture is picture


def test_a_recipe_keeps_its_places_on_the_same_picture_at_twice_the_size():
    rows = (Crop(first=(0.1, 0.1), last=(0.9, 0.6)), ClearBox(first=(0.2, 0.2), last=(0.8, 0.55)))
    recipe = Recipe(prepare=rows)
    assert decode_recipe(encode_recipe(recipe), "r") == recipe
    small, large = (prepare(draw(FOUR_INKS, size, 200), rows[:1]).picture for size in (200, 400))
    assert (large.width, large.height) == (2 * small.width, 2 * small.height)
    half = cv2.resize(large.rgba, (small.width, small.height), interpolation=cv2.INTER_AREA)
    assert np.abs(half.astype(int) - small.rgba).mean() < 2


def test_ground_is_cleared_by_its_colour():
    ring = '<circle cx="100" cy="100" r="70" fill="#205080"/><circle cx="100" cy="100" r="40" fill="#fff"/>'
    picture = draw(ring)
    joined = prepare(picture, (ClearColour(),)).picture.rgba[..., 3]
    everywhere = prepare(picture, (ClearColour(everywhere=True),)).picture.rgba[..., 3]
    assert joined[2, 2] == everywhere[2, 2] == 0
    assert joined[100, 100] == 255
    assert everywhere[100, 100] == 0
    assert joined[100, 45] == 255
    result = Pipeline(0).run(picture, Recipe(prepare=(ClearColour(everywhere=True),)))
    assert [layer.ink.hex for layer in result.stack.layers] == ["#205080"]


SUBJECT = (
    '<path d="M60 170C20 120 40 40 100 30C160 40 185 110 145 170Z" fill="#c8402c"/>'
    '<circle cx="80" cy="90" r="16" fill="#f4d23c"/><rect x="105" y="100" width="34" height="40" fill="#2a57a0"/>'
)


@pytest.mark.parametrize("name", ["astronaut", "chelsea", "rocket"])
def test_a_box_cuts_out_a_subject_on_a_photograph(name):
    # photographs that ship with scikit-image, our drawn subject composited over them: the mask is known
    photo = cv2.resize(getattr(data, name)()[..., :3], (400, 400), interpolation=cv2.INTER_AREA)
    drawn = draw(SUBJECT, 400, 200).rgba[..., :3].astype(float)
    mask = draw(SUBJECT.replace("#c8402c", "#000").replace("#f4d23c", "#000").replace("#2a57a0", "#000"), 400, 200)
    cover = 1 - mask.rgba[..., :1] / 255.0
    rgb = np.rint(photo * (1 - cover) + drawn * cover).astype(np.uint8)
    row = ClearBox(first=(0.1, 0.1), last=(0.95, 0.92))
    kept = prepare(picture_of(rgb), (row,)).picture.rgba[..., 3] > 127
    truth = cover[..., 0] > 0.5
    assert (kept & truth).sum() / (kept | truth).sum() >= 0.95
