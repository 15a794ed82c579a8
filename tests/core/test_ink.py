"""Ink drawings: thresholds against scikit-image's, and what a maker can ask for."""

import cv2
import numpy as np
import pytest
from skimage import data
from skimage.filters import threshold_sauvola
from skimage.measure import label as pieces_of

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import Picture
from sketchloom.core.regions import SeparateSettings, find_kind, find_tones
from sketchloom.core.regions.ink.drawing import sauvola, separate_ink, silhouette
from tests.conftest import draw, picture_of


def four(plane: np.ndarray) -> np.ndarray:
    """A grey plane, or a coloured one, as evidence."""
    plane = np.clip(np.asarray(plane), 0, 255)
    if plane.ndim == 2:
        plane = np.repeat(plane[..., None], 3, 2)
    return np.dstack([plane, np.full(plane.shape[:2], 255)]).astype(np.uint8)


def ink_of(plane: np.ndarray, **settings) -> np.ndarray:
    return separate_ink(four(plane), SeparateSettings(**settings)).labels == 2


def overlap(one: np.ndarray, other: np.ndarray) -> float:
    return float((one & other).sum() / (one | other).sum())


@pytest.mark.parametrize(("name", "window"), [("page", 25), ("text", 15), ("coins", 51)])
def test_local_thresholds_are_those_of_scikit_image(name, window):
    # Sauvola and Pietikainen 2000, with its usual k = 0.2 and R = 128
    grey = getattr(data, name)()
    theirs = threshold_sauvola(grey, window, k=0.2, r=128)
    assert np.abs(sauvola(grey, window) - theirs).max() < 1e-3
    assert ((grey < sauvola(grey, window)) == (grey < theirs)).mean() > 0.99999


def test_a_printed_page_splits_much_as_sauvola_splits_it():
    # the page that ships with scikit-image: print under a light that falls off; a local threshold is its textbook
    # answer. Ours leaves a softer edge, so a pixel's width either way is let through.
    page = data.page()
    ours, theirs = ink_of(page), page < threshold_sauvola(page, 25, 0.2)
    wide = [cv2.dilate(mask.astype(np.uint8), np.ones((3, 3))) > 0 for mask in (ours, theirs)]
    assert ours[wide[1]].sum() / ours.sum() > 0.97
    assert theirs[wide[0]].sum() / theirs.sum() > 0.9
    assert 0.08 < ours.mean() < 0.3


def test_ink_in_a_cast_shadow_is_that_of_the_drawing():
    body = '<rect x="30" y="30" width="300" height="220"/><path d="M40 330 L360 300" stroke-width="5" stroke="#000"/>'
    drawn = draw(body, 400)
    true = drawn.rgba[..., 0] < 128
    y, x = np.mgrid[0:400, 0:400] / 400
    light = (1 - 0.4 * x) * (0.5 + 0.5 / (1 + np.exp((x + 0.6 * y - 0.8) / 0.02)))
    rng = np.random.default_rng(3)
    grey = (30 + drawn.rgba[..., 0] / 255 * 210) * light + rng.normal(0, 3, true.shape)
    found = ink_of(np.clip(grey, 0, 255))
    assert (found & true).sum() / (found | true).sum() > 0.985


def test_text_under_uneven_light_is_read():
    # the text picture that ships with scikit-image: letters on paper that grows darker downwards. What is asserted is
    # that it falls into letters: many pieces of the size of letters, none as large as a shadow, and that a local
    # threshold, the textbook answer, finds much the same ink.
    text = data.text()
    ours = ink_of(text)
    sizes = np.bincount(pieces_of(ours, connectivity=2).ravel())[1:]
    assert 0.03 < ours.mean() < 0.25
    theirs = text < threshold_sauvola(text, 25, 0.2)
    many = [(np.bincount(pieces_of(mask, connectivity=2).ravel())[1:] > 15).sum() for mask in (ours, theirs)]
    assert abs(many[0] - many[1]) <= 0.2 * many[1]
    assert sizes.max() < 0.02 * ours.size
    wide = cv2.dilate(theirs.astype(np.uint8), np.ones((3, 3))) > 0
    assert ours[wide].sum() / ours.sum() > 0.9


def test_coins_lie_on_their_ground_as_otsu_counts_them():
    # the coins picture that ships with scikit-image shows 24 coins on a darker ground whose light falls off; taken as a
    # photo in two steps, its light step holds a piece for nearly every coin
    tones = find_tones(picture_of(four(data.coins())), SeparateSettings(mode="photo", inks=2, ground="keep"))
    light = tones.labels == 2
    sizes = np.bincount(pieces_of(light, connectivity=1).ravel())[1:]
    assert 18 <= (sizes > 400).sum() <= 30
    assert 0.2 < light.mean() < 0.5


STROKES = (
    '<path d="M20 60 H380" stroke="#202020" stroke-width="8" fill="none"/>'
    '<circle cx="120" cy="220" r="70" stroke="#202020" stroke-width="8" fill="none"/>'
)
PALE = '<path d="M20 350 H380 M300 120 V320" stroke="#b4b4b4" stroke-width="7" fill="none"/>'


def test_pale_marks_are_left_out_by_their_strength():
    strong, both = draw(STROKES, 400).rgba[..., 0], draw(STROKES + PALE, 400).rgba[..., 0]
    true = strong < 143
    assert overlap(ink_of(both, threshold=0.85), true) < 0.8  # so high a threshold takes the pencil too
    assert overlap(ink_of(both, threshold=0.85, strength=0.5), ink_of(strong, threshold=0.85)) == 1
    assert overlap(ink_of(both), true) > 0.95  # and by itself it is left out


def test_what_shows_through_from_the_back_is_left_out():
    # common practice: what shows through is mirrored, blurred and at most a third as strong
    strong = draw(STROKES, 400).rgba[..., 0].astype(float)
    behind = cv2.GaussianBlur(255 - strong[:, ::-1], (0, 0), 2.5) * 0.3
    grain = np.random.default_rng(2).normal(0, 3, strong.shape)
    found = ink_of(strong - behind * (strong > 200) + grain)
    assert overlap(found, strong < 143) > 0.97
    assert pieces_of(found, connectivity=2).max() == 2


def test_faint_strokes_are_kept_where_they_hang_together_with_ink():
    tail = '<path d="M300 64 V200" stroke="#a8a8a8" stroke-width="7" fill="none"/>'
    lone = '<path d="M360 250 V380" stroke="#a8a8a8" stroke-width="7" fill="none"/>'
    seen = draw(STROKES + tail + lone, 400).rgba[..., 0]
    plain, kept = ink_of(seen, threshold=0.5), ink_of(seen, threshold=0.5, faint=0.8)
    assert not plain[120:190, 296:304].any() and kept[120:190, 298:303].all()
    assert not kept[250:380, 350:370].any()
    assert overlap(kept[:, :280], plain[:, :280]) > 0.995  # strong strokes grow no fatter


def test_a_fading_hand_is_split_where_its_own_strokes_lie():
    # strokes that fade from 215 to 60 below the paper, as a drying pen does; one threshold loses the pale ones
    lines = "".join(f'<path d="M{40 + 24 * i} 30 V370" stroke="#000" stroke-width="6"/>' for i in range(14))
    true = draw(lines, 400).rgba[..., 0]
    strength = np.linspace(235, 38, 400)[None]
    seen = 250 - (255 - true) / 255 * strength
    drawing = separate_ink(four(seen), SeparateSettings())
    assert drawing.reading.local and drawing.reading.evenness < 0.5
    assert overlap(drawing.labels == 2, true < 128) > 0.97
    assert overlap(ink_of(seen, local=False), true < 128) < 0.9
    # with even strokes one threshold does
    assert not separate_ink(four(true), SeparateSettings()).reading.local


def test_the_figure_of_confidence_falls_with_the_contrast():
    clean = draw(STROKES, 400).rgba[..., 0].astype(float)
    grain = np.random.default_rng(4).normal(0, 1, clean.shape)
    sure = [
        separate_ink(four(250 - (255 - clean) / 255 * depth + noise * grain), SeparateSettings()).reading.sure
        for depth, noise in ((230, 2), (25, 14), (30, 20))
    ]
    assert sure[0] > 0.99
    assert sure[0] > sure[1] > sure[2]


def test_the_silhouette_is_the_outline_filled():
    drawing = separate_ink(four(draw(STROKES, 400).rgba[..., 0]), SeparateSettings())
    filled = silhouette(drawing)
    ink = filled.labels == 2
    assert ink[220, 120] and not (drawing.labels == 2)[220, 120]
    y, x = np.mgrid[0:400, 0:400] + 0.5
    disc = np.hypot(x - 120, y - 220) < 74
    near = np.s_[130:310, 30:210]
    assert overlap(ink[near], disc[near]) > 0.995
    outer = np.hypot(x - 120, y - 220) > 78  # the outer edge keeps its soft pixels, to lie where it lay
    assert (filled.even[near][outer[near]] == drawing.even[near][outer[near]]).all()


INKS = (
    '<path d="M20 60 H380" stroke="#1a1a1c" stroke-width="8"/>'
    '<path d="M20 120 H380" stroke="#2a50b0" stroke-width="8"/>'
    '<path d="M20 180 H380" stroke="#c0392f" stroke-width="8"/>'
    '<path d="M200 20 V230" stroke="#2a50b0" stroke-width="8"/>'
)


@pytest.mark.parametrize(("colour", "row"), [((26, 26, 28), 60), ((42, 80, 176), 120), ((192, 57, 47), 180)])
def test_ink_is_taken_by_its_colour(colour, row):
    seen = draw(INKS, 400).rgba[..., :3]
    light = np.linspace(1.0, 0.75, 400)[:, None, None]
    found = ink_of(seen * light * (0.98, 0.96, 0.9), ink_colour=colour)
    for other in (60, 120, 180):
        line = found[other, np.r_[30:190, 210:370]]
        assert line.all() if other == row else not line.any()
    assert found[30:50, 200].all() == (row == 120)
    width = found[:, 100].sum()
    assert abs(width - 8) <= 1


def test_a_kind_is_proposed_with_its_reason():
    grey = np.random.default_rng(1).normal(0, 2, (400, 400))
    sketch = picture_of(four(draw(STROKES, 400).rgba[..., 0] * np.linspace(1, 0.7, 400) + grey))
    assert find_kind(sketch).kind == "ink"
    for name in ("astronaut", "coffee", "chelsea"):  # photographs that ship with scikit-image
        found = find_kind(picture_of(four(getattr(data, name)())))
        assert found.kind == "photo" and "shades" in found.why


def test_a_picture_of_one_pixel_is_no_trouble():
    for settings in (
        {},
        {"silhouette": True},
        {"local": True},
        {"faint": 0.9},
        {"strength": 0.3},
        {"ink_colour": (9, 9, 9)},
    ):
        tones = find_tones(Picture(np.full((1, 1, 4), 255, np.uint8)), SeparateSettings(mode="ink", **settings))
        assert tones.labels.shape == (1, 1)


def test_corners_of_a_soft_grainy_scan_lie_where_the_sides_meet():
    """A blur of 1.2 px rounds every corner; the sides away from it still say where they meet."""
    boxes = [(20 + 60 * i, 22 + 55 * j, 24 + 5 * (i % 3), 20 + 4 * (j % 3)) for i in range(6) for j in range(6)]
    rects = [f'<rect x="{x}" y="{y}" width="{w}" height="{h}"/>' for x, y, w, h in boxes]
    body = f'<g transform="rotate(4 200 200)">{"".join(rects)}</g>'
    rng = np.random.default_rng(6)
    grey = cv2.GaussianBlur(draw(body, 400).rgba[..., 0].astype(float) / 255 * 210 + 30, (0, 0), 1.2)
    picture = picture_of(four(grey + cv2.GaussianBlur(rng.normal(0, 12, grey.shape), (0, 0), 1.2)))
    recipe = Recipe().with_("separate", mode="ink").with_("finish", page="picture", width=400.0)
    (layer,) = Pipeline(0).run(picture, recipe).stack.layers
    assert layer.area == pytest.approx(sum(w * h for _, _, w, h in boxes), rel=2e-2)
    turn = np.deg2rad(4)
    rotate = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    corners = np.array([(x + a * w, y + b * h) for x, y, w, h in boxes for a in (0, 1) for b in (0, 1)], float)
    nodes = np.concatenate([contour[::3] for contour in layer.path.contours])
    away = np.linalg.norm(nodes[:, None] - ((corners - 200) @ rotate + 200)[None], axis=2).min(0)
    assert np.median(away) < 0.35 and np.percentile(away, 90) < 0.8
