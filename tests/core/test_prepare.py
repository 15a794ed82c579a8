"""Pictures put right, against pages and masks that are known."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe
from sketchloom.core.picture import (
    Calm,
    ClearBox,
    ClearColour,
    ClearOutline,
    ClearPale,
    Crop,
    Enlarge,
    EvenLight,
    MirrorHalf,
    Paint,
    Picture,
    Sharpen,
    Straighten,
    Stroke,
    Turn,
    do_row,
    load_picture,
    prepare,
)
from sketchloom.core.picture.paper import paper_light
from sketchloom.core.picture.sharpen import blur_of
from sketchloom.core.picture.straighten import find_page, page_shape
from tests.conftest import FOUR_INKS, draw, picture_of

DRAWING = (
    '<g fill="none" stroke="#14141a" stroke-width="7"><circle cx="100" cy="90" r="52"/>'
    '<path d="M40 160 L100 120 L165 165"/></g>'
    '<rect x="80" y="70" width="36" height="30" fill="#14141a"/>'
)
CORNERS = np.array([[112.0, 61.0], [905.0, 118.0], [838.0, 812.0], [64.0, 741.0]])


def photographed(
    corners: np.ndarray = CORNERS,
    size: tuple[int, int] = (1000, 900),
    ground: int = 70,
    drawing: np.ndarray | None = None,
) -> Picture:
    """A white page with the drawing, seen at an angle on a dark table; corners in px."""
    page = draw(DRAWING, 800, 200).rgba[..., :3] if drawing is None else drawing
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
    assert np.abs(paper_light(grey.astype(np.uint8)) - 220).max() < 5


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


def test_an_edge_beside_cleared_ground_keeps_its_own_colour():
    # the rule of alpha compositing: an edge pixel is share * ink + (1 - share) * ground
    picture = draw('<circle cx="100" cy="100" r="70.3" fill="#205080"/>')
    done = prepare(picture, (ClearColour(),)).picture.rgba
    soft = (done[..., 3] > 0) & (done[..., 3] < 255)
    assert soft.sum() > 200
    assert np.abs(done[soft, :3].astype(int) - [0x20, 0x50, 0x80]).max() <= 0.03 * 223
    share = done[..., 3:] / 255.0
    again = done[..., :3] * share + 255 * (1 - share)
    assert np.abs(again - picture.rgba[..., :3]).max() <= 0.03 * 223


def test_a_cleared_scan_leaves_no_specks_of_paper():
    shot = photographed(np.array([[0.0, 0.0], [1000, 0], [1000, 900], [0, 900]]))
    rows = (EvenLight(), Calm(radius=0.002), ClearColour(reach=40, everywhere=True))
    result = Pipeline(0).run(shot, Recipe(prepare=rows))
    assert len(result.stack.layers) == 1
    assert result.stack.layers[0].pieces <= 4


def test_one_area_is_cleared_where_it_was_clicked():
    rings = '<circle cx="60" cy="100" r="40" fill="#205080"/><circle cx="150" cy="100" r="40" fill="#205080"/>'
    done = prepare(draw(rings), (ClearColour(at=(0.3, 0.5)),)).picture.rgba[..., 3]
    assert done[100, 60] == 0
    assert done[100, 150] == done[2, 2] == 255
    assert prepare(draw(rings), (ClearColour(at=(1.5, 0.5)),)).unplaced == (0,)


def test_a_pale_watermark_goes_and_the_soft_edges_of_the_drawing_stay():
    mark = '<text x="20" y="120" font-size="60" fill="#d8d8e8">fair</text><path d="M0 150H200" stroke="#cfcfcf"/>'
    drawing = '<circle cx="100" cy="100" r="50.4" fill="none" stroke="#101014" stroke-width="6"/>'
    both = prepare(draw(mark + drawing, 400, 200), (ClearPale(),)).picture.rgba
    alone = draw(drawing, 400, 200).rgba[..., :3].astype(float)
    share = both[..., 3:] / 255.0
    shown = both[..., :3] * share + 255 * (1 - share)
    assert np.abs(shown - alone).mean() < 0.5
    # common practice: two tones with a tolerance near 60 of 255 clear a pale watermark
    far = cv2.erode(alone.min(2), np.ones((7, 7))) == 255
    assert both[far, 3].max() == 0


def test_sharpening_undoes_a_blur_and_makes_no_new_colour():
    sharp = draw(FOUR_INKS, 400, 200).rgba[..., :3]
    blurred = cv2.GaussianBlur(sharp, (0, 0), 2.5)
    done = prepare(picture_of(blurred), (Sharpen(),)).picture.rgba[..., :3]
    assert blur_of(done[..., 1]) < 0.75 * blur_of(blurred[..., 1])
    assert np.abs(done.astype(int) - sharp).mean() < 0.65 * np.abs(blurred.astype(int) - sharp).mean()
    low, high = (edge(blurred, np.ones((15, 15))) for edge in (cv2.erode, cv2.dilate))
    assert ((done >= low) & (done <= high)).all()


def test_a_sharp_picture_is_left_as_it_is():
    picture = draw(FOUR_INKS, 400, 200)
    assert np.array_equal(prepare(picture, (Sharpen(),)).picture.rgba, picture.rgba)


def test_an_enlarged_picture_traces_as_the_small_one_and_as_large():
    small = prepare(draw(FOUR_INKS, 200), (Enlarge(times=2),))
    assert (small.picture.width, small.picture.height) == (400, 400)
    assert small.picture.source_of @ [400, 400, 1] == pytest.approx([1, 1, 1])
    got = Pipeline(0).run(small.opened, Recipe(prepare=(Enlarge(times=2),)))
    plain = Pipeline(0).run(small.opened, Recipe())
    np.testing.assert_array_equal(got.regions.labels, plain.regions.labels)  # no more is known than was there
    assert got.stack.size == plain.stack.size and got.reduction == pytest.approx(1 / 2)
    truth = Pipeline(0).run(draw(FOUR_INKS, 400, 200), Recipe()).regions
    assert got.regions.keys == truth.keys
    assert (np.kron(got.regions.labels, np.ones((2, 2), int)) == truth.labels).mean() > 0.99
    assert prepare(draw(FOUR_INKS, 1400, 200), (Enlarge(times=8),)).unplaced == (0,)


@pytest.mark.parametrize("axis", [0.5, 0.4, 0.6125, 0.30125])
@pytest.mark.parametrize("left", [True, False])
@pytest.mark.parametrize("upright", [True, False])
def test_a_half_is_mirrored_onto_the_other(axis, left, upright):
    picture = draw(FOUR_INKS + '<path d="M20 60L90 20L60 130Z" fill="#123456"/>', 400, 200)
    ends = ((axis, 0.0), (axis, 1.0), (axis + (-0.1 if left else 0.1), 0.5))
    first, last, keep = ends if upright else tuple((y, x) for x, y in ends)
    done = prepare(picture, (MirrorHalf(first=first, last=last, keep=keep),)).picture
    rgba = done.rgba if upright else done.rgba.swapaxes(0, 1)
    source = picture.rgba if upright else picture.rgba.swapaxes(0, 1)
    assert np.array_equal(rgba, rgba[:, ::-1])
    kept = np.ceil(round((axis if left else 1 - axis) * 400, 6))
    assert rgba.shape[1] == pytest.approx(2 * kept, abs=1)
    half = rgba[:, : int(kept)] if left else rgba[:, -int(kept) :]
    assert np.array_equal(half, source[:, : int(kept)] if left else source[:, -int(kept) :])
    corner = done.source_of @ [0.0, 0.0, 1.0]
    assert corner[0 if upright else 1] == pytest.approx(0 if left else 1 - rgba.shape[1] / 400, abs=1e-9)


def test_strokes_rub_out_and_paint_in():
    picture = draw(FOUR_INKS, 400, 200)
    line = Stroke(((0.2, 0.5), (0.8, 0.5)), 0.05)
    rubbed = prepare(picture, (Paint(strokes=(line,)),)).picture.rgba
    assert rubbed[200, 100:300, 3].max() == 0
    assert rubbed[215, 100:300, 3].min() == 255
    painted = prepare(picture, (Paint(strokes=(line,), colour=(1, 2, 3)),)).picture.rgba
    assert (painted[191:209, 90:310] == [1, 2, 3, 255]).all()
    assert np.array_equal(painted[:185], picture.rgba[:185])
    dot = prepare(picture, (Paint(strokes=(Stroke(((0.5, 0.5),), 0.1),), colour=(1, 2, 3)),)).picture.rgba
    area = (dot[..., :3] == [1, 2, 3]).all(2).sum()
    assert area == pytest.approx(np.pi * 20**2, rel=0.06)


def test_an_unusable_value_is_refused_in_one_sentence():
    for row in (
        Calm(radius=2.0),
        ClearPale(level=1.5),
        Paint(strokes=(Stroke((), 0.1),)),
        Paint(strokes=(Stroke(((0.1, 1e6),), 0.1),)),
        Paint(strokes=(Stroke(((0.1, 0.1),), 0.1),), colour=(1, 2, 300)),
    ):
        with pytest.raises(ArgumentError, match="cannot be used in Prepare; take"):
            Recipe(prepare=(row,)).check()


STROKES = (Stroke(((0.45, 0.42), (0.55, 0.46)), 0.03), Stroke(((0.62, 0.6),), 0.04))


@pytest.mark.parametrize(
    "earlier",
    [
        (Crop(first=(0.2, 0.15), last=(0.9, 0.85)),),
        (Crop(first=(0.3, 0.3), last=(0.8, 0.8)), Turn(quarters=3)),
        (Turn(quarters=1, mirror=True),),
        (Straighten(corners=((0.1, 0.05), (0.9, 0.12), (0.86, 0.93), (0.07, 0.88))),),
        (Enlarge(times=2),),
    ],
    ids=["crop", "crop and turn", "turn and mirror", "straighten", "enlarge"],
)
def test_strokes_and_outlines_keep_their_place_when_earlier_rows_change(earlier):
    picture = draw(FOUR_INKS, 400, 200)
    outline = ((0.35, 0.3), (0.7, 0.32), (0.75, 0.72), (0.33, 0.7))
    rows = (ClearOutline(points=outline), Paint(strokes=STROKES, colour=(250, 0, 250)))
    plain = prepare(picture, rows).picture
    done = prepare(picture, (*earlier, *rows))
    assert done.unplaced == ()
    # laid back over the opened picture, the same pixels are painted and kept
    longer = np.diag([400, 400, 1.0])
    shift = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])
    home = np.linalg.inv(shift) @ longer @ done.picture.source_of @ shift
    for part in (lambda rgba: rgba[..., 3] > 127, lambda rgba: (rgba[..., 0] > 200) & (rgba[..., 1] < 60)):
        mask = part(done.picture.rgba).astype(np.float32)
        laid = cv2.warpPerspective(mask, home, (400, 400)) > 0.5
        truth = part(plain.rgba)
        assert (laid & truth).sum() / (laid | truth).sum() > 0.9


def test_strokes_that_lie_outside_are_counted_and_their_row_is_listed():
    outside = Stroke(((0.05, 0.05), (0.1, 0.02)), 0.01)
    rows = (Crop(first=(0.3, 0.3), last=(0.8, 0.8)), Paint(strokes=(*STROKES, outside), colour=(9, 9, 9)))
    done = prepare(draw(FOUR_INKS, 400, 200), rows)
    assert [one.unplaced for one in done.done] == [0, 1]
    assert done.unplaced == (1,)
    assert (done.picture.rgba == [9, 9, 9, 255]).all(2).any()


def test_a_recipe_keeps_its_strokes_on_another_format_and_at_twice_the_size():
    outline = ((0.2, 0.2), (0.8, 0.25), (0.7, 0.8), (0.25, 0.75))
    rows = (Turn(quarters=1), ClearOutline(points=outline), Paint(strokes=STROKES, colour=(250, 0, 250)))
    small, large = draw(FOUR_INKS, 400, 200), draw(FOUR_INKS, 800, 200)
    buffer = io.BytesIO()
    Image.fromarray(small.rgba[..., :3]).save(buffer, "JPEG", quality=90)
    pictures = [prepare(one, rows).picture.rgba for one in (small, load_picture(buffer.getvalue()), large)]
    pictures[2] = cv2.resize(pictures[2], (400, 400), interpolation=cv2.INTER_AREA)
    kept = [rgba[..., 3] > 127 for rgba in pictures]
    painted = [(rgba[..., 0] > 200) & (rgba[..., 1] < 60) for rgba in pictures]
    for masks, least in ((kept, 0.99), (painted, 0.95)):  # of a brush 12 px wide, half a pixel is much
        for other in masks[1:]:
            assert (masks[0] & other).sum() / (masks[0] | other).sum() > least


def test_only_rows_that_changed_are_done_again(monkeypatch):
    done = []

    def counted(picture, row, tick):
        done.append(type(row).__name__)
        return do_row(picture, row, tick)

    monkeypatch.setattr("sketchloom.core.job.stages.prepare.do_row", counted)
    pipeline, picture = Pipeline(), draw(FOUR_INKS)
    rows = (EvenLight(), Calm(radius=0.005))
    pipeline.run(picture, Recipe(prepare=rows))
    pipeline.run(picture, Recipe(prepare=(*rows, Turn(quarters=1))))
    pipeline.run(picture, Recipe(prepare=(rows[0], Calm(radius=0.004))))
    assert done == ["EvenLight", "Calm", "Turn", "Calm"]
