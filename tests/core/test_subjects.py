"""Subjects cut out by a box and by a line, against masks that are known."""

import re

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from skimage.draw import polygon2mask

from sketchloom.core.errors import Cancelled, SketchLoomError
from sketchloom.core.picture import ClearBox, ClearOutline, EdgeFollower, Stroke, on_edges, prepare
from sketchloom.core.picture.apart import run_apart
from sketchloom.core.picture.clear import box_subject
from sketchloom.core.picture.place import outline_mask
from tests.conftest import draw, picture_of, tries
from tests.subjects import PHOTOS, clicks_round, composite, overlap

BOX = ClearBox(first=(0.1, 0.1), last=(0.95, 0.92))


def test_a_box_cuts_out_subjects_on_photographs():
    """On the coffee the rim of a saucer, as red as the subject and wholly inside the box, is taken with it."""
    found = []
    for name in PHOTOS:
        rgb, truth = composite(name)
        found.append(overlap(prepare(picture_of(rgb), (BOX,)).picture.rgba[..., 3] > 127, truth))
    assert np.mean(found) >= 0.95 and min(found) >= 0.88


def land(size: int = 300) -> np.ndarray:
    """Sky, land and posts, a little grainy."""
    y, x = np.mgrid[:size, :size] / size
    rgb = np.where((y < 0.5 + 0.06 * np.sin(9 * x))[..., None], [168.0, 198, 228], [96.0, 132, 70])
    rgb[(np.abs(x % 0.4 - 0.1) < 0.02) & (y > 0.35)] = 118, 92, 70
    return np.clip(rgb + np.random.default_rng(2).normal(0, 4, rgb.shape), 0, 255)


def laid(ground: np.ndarray, body: str) -> tuple[np.ndarray, np.ndarray]:
    """Lay shapes of a view of 300 on a ground; the picture, and where they are."""
    lone = draw(body, 300).rgba[..., :3].astype(float)
    cover = 1 - draw(re.sub("#[0-9a-f]{6}", "#000000", body), 300).rgba[..., :1] / 255.0
    return np.rint(ground * (1 - cover) + lone - 255 * (1 - cover)).clip(0, 255).astype(np.uint8), cover[..., 0] > 0.5


GATE = '<path d="M70 60h160v180h-30v-130h-100v130h-30z" fill="#b0342a"/><path d="M70 60h160v24h-160z" fill="#e8c23a"/>'
IN_BOX = ClearBox(first=(0.2, 0.17), last=(0.8, 0.83))


def test_what_goes_on_across_the_edge_of_the_box_is_ground_however_large():
    rgb, truth = laid(land(), GATE)
    assert overlap(prepare(picture_of(rgb), (IN_BOX,)).picture.rgba[..., 3] > 127, truth) >= 0.97


def test_an_eye_of_the_colour_of_the_ground_stays_unless_a_stroke_drops_it():
    ground = np.clip(np.random.default_rng(3).normal(60, 5, (300, 300, 3)), 0, 255)
    ground[:, :100] = 205, 180, 150
    rgb, _ = laid(ground, GATE + '<circle cx="150" cy="95" r="5.5" fill="#3c3c3c"/>')
    drop = Stroke(((0.5, 95 / 300),), 0.01)
    stays = prepare(picture_of(rgb), (IN_BOX,)).picture.rgba[95, 150, 3]
    goes = prepare(picture_of(rgb), (ClearBox(first=IN_BOX.first, last=IN_BOX.last, drop=(drop,)),)).picture
    assert (stays, goes.rgba[95, 150, 3]) == (255, 0)


def test_a_window_that_shows_the_ground_is_cut_out():
    rgb, _ = laid(land(), '<path fill-rule="evenodd" d="M70 60h160v180h-160z M100 90h100v120h-100z" fill="#b0342a"/>')
    alpha = prepare(picture_of(rgb), (IN_BOX,)).picture.rgba[..., 3]
    assert (alpha[95:205, 105:195] == 0).mean() > 0.9 and alpha[75, 150] == 255


def test_a_crumb_beside_the_subject_goes_unless_a_stroke_keeps_it():
    ground = np.full((300, 300, 3), 230.0)
    rgb, _ = laid(ground, GATE + '<circle cx="150" cy="200" r="6" fill="#204080"/>')
    keep = Stroke(((0.5, 200 / 300),), 0.015)
    goes = prepare(picture_of(rgb), (IN_BOX,)).picture.rgba[200, 150, 3]
    stays = prepare(picture_of(rgb), (ClearBox(first=IN_BOX.first, last=IN_BOX.last, keep=(keep,)),)).picture
    assert (goes, stays.rgba[200, 150, 3]) == (0, 255)


def test_strokes_put_a_cut_right_where_the_ground_has_a_shape_of_its_own():
    # the saucer stands wholly inside the box and is a subject in its own right
    rgb, truth = composite("coffee", ("#35508c", "#dddddd", "#222222"))
    plain = prepare(picture_of(rgb), (BOX,)).picture.rgba[..., 3] > 127
    assert overlap(plain, truth) < 0.95
    drop = (
        Stroke(((0.2, 0.25), (0.15, 0.4), (0.15, 0.6), (0.2, 0.75), (0.3, 0.9)), 0.04),
        Stroke(((0.31, 0.2), (0.4, 0.08), (0.6, 0.1), (0.66, 0.17)), 0.04),
    )
    row = ClearBox(first=BOX.first, last=BOX.last, drop=drop, keep=(Stroke(((0.5, 0.3), (0.6, 0.8)), 0.05),))
    assert overlap(prepare(picture_of(rgb), (row,)).picture.rgba[..., 3] > 127, truth) >= 0.95


def test_strokes_have_the_last_word():
    rgb, _ = composite("chelsea")
    keep, drop = Stroke(((0.05, 0.05),), 0.06), Stroke(((0.5, 0.5),), 0.06)
    row = ClearBox(first=(0.02, 0.02), last=(0.95, 0.92), keep=(keep,), drop=(drop,))
    alpha = prepare(picture_of(rgb), (row,)).picture.rgba[..., 3]
    assert alpha[20, 20] == 255
    assert alpha[200, 200] == 0


def test_a_box_round_nothing_but_one_colour_does_not_fail():
    flat = picture_of(np.full((60, 80, 3), 200, np.uint8))
    for row in (ClearBox(first=(0.1, 0.1), last=(0.9, 0.6)), ClearBox(first=(0.0, 0.0), last=(1.0, 0.75))):
        done = prepare(flat, (row,))
        assert (done.picture is flat) == (done.unplaced == (0,))


@pytest.mark.parametrize("name", PHOTOS)
@pytest.mark.parametrize("size", [400, 600])
def test_a_line_along_edges_follows_a_subject(name, size):
    rgb, truth = composite(name, size=size)
    follower = EdgeFollower(rgb)
    places = [follower.snapped(at) for at in clicks_round(truth, 8, 1.5 * size / 400)]
    lines = []
    for at, to in zip(places, [*places[1:], places[0]], strict=True):
        follower.start(at)
        lines.append(follower.to(to)[:-1])
    line = on_edges(rgb, np.concatenate(lines)) / size
    kept = prepare(picture_of(rgb), (ClearOutline(points=tuple(map(tuple, line.tolist()))),)).picture
    assert overlap(kept.rgba[..., 3] > 127, truth) >= 0.98


@tries(60)
@given(st.lists(st.tuples(st.floats(-5, 45), st.floats(-5, 35)), min_size=3, max_size=12, unique=True))
def test_a_filled_line_holds_the_pixels_whose_middles_lie_inside(points):
    # against skimage.draw.polygon2mask, which asks of each place whether it lies inside; places on the line differ
    picture = picture_of(np.zeros((30, 40, 3), np.uint8))
    mask = outline_mask(picture, [(x / 40, y / 40) for x, y in points])
    ours = np.zeros((30, 40), bool) if mask is None else mask
    theirs = polygon2mask((30, 40), np.array([(y - 0.5, x - 0.5) for x, y in points]))
    where = np.argwhere(ours != theirs)
    for row, column in where:
        assert _distance(np.array([column + 0.5, row + 0.5]), np.array(points)) < 1e-3


def _distance(at: np.ndarray, line: np.ndarray) -> float:
    start, way = line, np.roll(line, -1, 0) - line
    share = np.clip(((at - start) * way).sum(1) / np.maximum((way**2).sum(1), 1e-12), 0, 1)
    return float(np.linalg.norm(start + share[:, None] * way - at, axis=1).min())


def test_an_outline_beside_the_picture_has_no_place():
    picture = picture_of(np.zeros((30, 40, 3), np.uint8))
    assert prepare(picture, (ClearOutline(points=((2, 2), (3, 2), (3, 3))),)).unplaced == (0,)


@pytest.mark.parametrize("side", (300, 900))
def test_a_box_on_bare_paper_finds_nothing_and_clears_nothing(side):
    rgb = np.full((side, side, 3), 240, np.uint8)
    rgb[side // 2 : -20, side // 2 : -20] = (40, 90, 60)
    blank = picture_of(rgb)
    done = prepare(blank, (ClearBox(first=(0.05, 0.05), last=(0.15, 0.15)),))
    assert done.unplaced == (0,)
    assert np.array_equal(done.picture.rgba, blank.rgba)


def test_work_apart_gives_the_same_as_work_here():
    rgb, _ = composite("rocket")
    here = prepare(picture_of(rgb), (BOX,)).picture.rgba
    heard = []
    apart = prepare(picture_of(rgb), (BOX,), heard.append).picture.rgba
    assert np.array_equal(here, apart)
    assert max(heard) > 0.5


def _sleeps(seconds, tick):
    import time

    tick(0.25)
    time.sleep(seconds)


def _fails(tick):
    raise SystemExit(3)


def test_work_apart_that_never_ends_can_be_ended():
    calls = []

    def tick(done):
        calls.append(done)
        if done > 0:
            raise Cancelled

    with pytest.raises(Cancelled):
        run_apart(_sleeps, 10_000, tick=tick)
    assert calls[-1] == 0.25


def test_work_apart_that_ends_by_itself_is_one_sentence():
    with pytest.raises(SketchLoomError, match="ended by itself"):
        run_apart(_fails, tick=lambda done: None)


def test_a_stroke_thinner_than_a_pixel_of_the_cut_is_seen_by_it():
    rgb = np.full((1200, 1200, 3), 120.0)
    rgb[300:900, 300:900] = (60, 140, 90)
    rgb += np.random.default_rng(1).normal(0, 6, rgb.shape)
    rgba = np.dstack([np.clip(rgb, 0, 255), np.full((1200, 1200), 255)]).astype(np.uint8)
    keep, none = np.zeros((2, 1200, 1200), bool)
    keep[360:840, 151] = True  # a px of 1200, and the cut is made on 400
    told, plain = (box_subject(rgba, (100, 100, 1000, 1000), marked, none) for marked in (keep, none))
    assert told[keep].all() and not plain[keep].any()
    assert (told[360:840, 146:157] & ~keep[360:840, 146:157]).any()
