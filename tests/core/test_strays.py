"""What is drawn is found, on clean and on compressed art; what is not drawn makes no ink."""

import io

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image
from skimage.color import deltaE_ciede2000

from sketchloom.core.colour import colour_difference
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import load_picture
from sketchloom.core.regions import SeparateSettings, clear_ground, find_tones, lab_of, label_map, plan_inks
from sketchloom.core.regions.flat.patches import even_patches
from tests.conftest import FOUR_INKS, draw, picture_of, render, svg_text, tries

KEEP = SeparateSettings(ground="keep")


def as_jpeg(rgba: np.ndarray, quality: int = 80):
    held = io.BytesIO()
    Image.fromarray(rgba[..., :3]).save(held, "JPEG", quality=quality)
    return load_picture(held.getvalue(), "a.jpg")


def inks_of(picture):
    tones = find_tones(picture, KEEP)
    ground = clear_ground(tones, "keep")
    plan = plan_inks(tones, ground, KEEP)
    return np.array([ink.shown for ink in plan.palette]), label_map(tones, ground, plan).labels


def two_shades(one, other):
    rgb = np.full((160, 240, 3), 255, np.uint8)
    rgb[20:140, 20:120], rgb[20:140, 120:220] = one, other
    return picture_of(rgb)


# CIE 15: CIE76 is the distance in L*a*b*
def test_shades_a_distance_of_2_apart_are_two_inks_when_clean():
    one, other = (120, 90, 60), (126, 94, 63)
    assert np.linalg.norm(lab_of(one) - lab_of(other)) == pytest.approx(2.0, abs=0.15)
    colours, labels = inks_of(two_shades(one, other))
    assert {tuple(colour) for colour in colours.tolist()} == {(255, 255, 255), one, other}
    assert labels[80, 60] != labels[80, 180]


@pytest.mark.parametrize(("one", "other"), [((120, 90, 60), (132, 99, 67)), ((60, 110, 170), (67, 121, 181))])
def test_shades_a_distance_of_4_apart_are_two_inks_in_a_jpeg(one, other):
    assert np.linalg.norm(lab_of(one) - lab_of(other)) == pytest.approx(4.0, abs=0.4)
    colours, labels = inks_of(as_jpeg(two_shades(one, other).rgba))
    assert len(colours) == 3
    assert labels[80, 60] != labels[80, 180]
    for colour in (one, other, (255, 255, 255)):
        assert np.linalg.norm(lab_of(colours) - lab_of(colour), axis=1).min() < 1.5


LINE = '<path d="M30 40 C80 10 120 70 170 30" fill="none" stroke-width="2" stroke="{}"/>'


@pytest.mark.parametrize(("stroke", "count"), [("#8e2a5b", 5), ("#1f6fb0", 6)])
def test_a_line_2_px_wide_survives_clean(stroke, count):
    picture, bare = draw(FOUR_INKS + LINE.format(stroke)), draw(FOUR_INKS)
    colours, labels = inks_of(picture)
    assert len(colours) == count
    drawn = np.abs(picture.rgba.astype(int) - bare.rgba).max(2) > 30
    true = drawn & (picture.rgba[..., :3] == hex_of(stroke)).all(2)
    assert true.sum() > 100
    ink = 1 + int(np.linalg.norm(colours - hex_of(stroke), axis=1).argmin())
    assert (labels[true] == ink).mean() > 0.95


def test_a_line_2_px_wide_in_an_ink_found_elsewhere_survives_a_jpeg():
    clean, bare = draw(FOUR_INKS + LINE.format("#8e2a5b")), draw(FOUR_INKS)
    colours, labels = inks_of(as_jpeg(clean.rgba))
    assert len(colours) == 5
    ink = 1 + int(np.linalg.norm(lab_of(colours) - lab_of(hex_of("#8e2a5b")), axis=1).argmin())
    line = (np.abs(clean.rgba.astype(int) - bare.rgba).max(2) > 60) & (
        np.abs(clean.rgba[..., :3].astype(int) - hex_of("#8e2a5b")).max(2) < 20
    )
    assert line.sum() > 100
    assert (labels[line] == ink).mean() > 0.75


def hex_of(code: str) -> np.ndarray:
    return np.array([int(code[i : i + 2], 16) for i in (1, 3, 5)])


def test_a_dot_too_small_for_an_even_patch_is_found_in_a_jpeg():
    picture = draw(FOUR_INKS + '<circle cx="60" cy="40" r="5" fill="#1f9fd0"/>')
    colours, _ = inks_of(as_jpeg(picture.rgba))
    assert len(colours) == 6
    assert np.linalg.norm(lab_of(colours) - lab_of(hex_of("#1f9fd0")), axis=1).min() < 8


@pytest.mark.parametrize("quality", [60, 80, 95])
def test_ringing_makes_no_inks(quality):
    colours, _ = inks_of(as_jpeg(draw(FOUR_INKS, 400, 200).rgba, quality))
    assert len(colours) == 5


def test_the_ground_that_shines_through_a_seam_is_no_line():
    body = '<rect x="40" y="40" width="60.4" height="120" fill="#205080"/>'
    colours, _ = inks_of(draw(body + '<rect x="100.4" y="40" width="60" height="120" fill="#c04030"/>'))
    assert len(colours) == 3


def test_even_patches_are_those_of_the_drawing():
    patches = even_patches(draw(FOUR_INKS).rgba)
    assert {tuple(colour) for colour in patches.colours.astype(int).tolist()} == {
        (255, 255, 255),
        *(tuple(hex_of(code).tolist()) for code in ("#3a2a33", "#f2e6cf", "#8e2a5b", "#4f8a4b")),
    }


# G. Sharma, W. Wu and E. N. Dalal 2005, table 1; typed from memory, and checked against scikit-image below
SHARMA = """
50 2.6772 -79.7751 50 0 -82.7485 2.0425
50 3.1571 -77.2803 50 0 -82.7485 2.8615
50 2.8361 -74.0200 50 0 -82.7485 3.4412
50 -1.3802 -84.2814 50 0 -82.7485 1.0000
50 -1.1848 -84.8006 50 0 -82.7485 1.0000
50 -0.9009 -85.5211 50 0 -82.7485 1.0000
50 0 0 50 -1 2 2.3669
50 -1 2 50 0 0 2.3669
50 2.4900 -0.0010 50 -2.4900 0.0009 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0010 7.1792
50 2.4900 -0.0010 50 -2.4900 0.0011 7.2195
50 2.4900 -0.0010 50 -2.4900 0.0012 7.2195
50 -0.0010 2.4900 50 0.0009 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0010 -2.4900 4.8045
50 -0.0010 2.4900 50 0.0011 -2.4900 4.7461
50 2.5 0 50 0 -2.5 4.3065
50 2.5 0 73 25 -18 27.1492
50 2.5 0 61 -5 29 22.8977
50 2.5 0 56 -27 -3 31.9030
50 2.5 0 58 24 15 19.4535
50 2.5 0 50 3.1736 0.5854 1.0000
50 2.5 0 50 3.2972 0 1.0000
50 2.5 0 50 1.8634 0.5757 1.0000
50 2.5 0 50 3.2592 0.3350 1.0000
60.2574 -34.0099 36.2677 60.4626 -34.1751 39.4387 1.2644
63.0109 -31.0961 -5.8663 62.8187 -29.7946 -4.0864 1.2630
61.2901 3.7196 -5.3901 61.4292 2.2480 -4.9620 1.8731
35.0831 -44.1164 3.7933 35.0232 -40.0716 1.5901 1.8645
22.7233 20.0904 -46.6940 23.0331 14.9730 -42.5619 2.0373
36.4612 47.8580 18.3852 36.2715 50.5065 21.2231 1.4146
90.8027 -2.0831 1.4410 91.1528 -1.6435 0.0447 1.4441
90.9257 -0.5406 -0.9208 88.6381 -0.8985 -0.7239 1.5381
6.7747 -0.2908 -2.4247 5.8714 -0.0985 -2.2286 0.6377
2.0776 0.0795 -1.1350 0.9033 -0.0636 -0.5514 0.9082
"""


def test_colour_differences_are_those_published():
    table = np.array([line.split() for line in SHARMA.strip().splitlines()], float)
    one, other, published = table[:, :3], table[:, 3:6], table[:, 6]
    assert np.abs(colour_difference(one, other) - published).max() < 6e-5
    assert np.abs(colour_difference(other, one) - published).max() < 6e-5


def test_colour_differences_agree_with_scikit_image():
    one, other = (lab_of(np.random.default_rng(seed).integers(0, 256, (2000, 3))) for seed in (1, 2))
    assert np.abs(colour_difference(one, other) - deltaE_ciede2000(one, other)).max() < 1e-6


@pytest.mark.parametrize("quality", [None, 80])
def test_separating_twice_gives_the_same(quality):
    picture = draw(FOUR_INKS + LINE.format("#1f6fb0"))
    if quality:
        picture = as_jpeg(picture.rgba, quality)
    first, second = inks_of(picture), inks_of(picture)
    assert np.array_equal(first[0], second[0])
    assert np.array_equal(first[1], second[1])


@tries(40)
@given(st.integers(1, 70), st.integers(1, 70), st.integers(1, 12), st.sampled_from([None, 30, 80]), st.integers(0, 999))
def test_any_patchwork_is_separated(width, height, patch, quality, seed):
    rng = np.random.default_rng(seed)
    tiles = rng.integers(0, 256, (height // patch + 1, width // patch + 1, 3)).astype(np.uint8)
    picture = picture_of(np.repeat(np.repeat(tiles, patch, 0), patch, 1)[:height, :width])
    if quality:
        picture = as_jpeg(picture.rgba, quality)
    colours, labels = inks_of(picture)
    assert labels.shape == (height, width)
    assert labels.min() >= 1
    assert labels.max() <= len(colours)


@pytest.mark.parametrize("width", [0.6, 0.8, 1.0, 1.25])
@pytest.mark.parametrize("path", ["M30 60C70 20 120 120 170 70", "M20 20L150 132", "M25 130C80 20 110 150 170 40"])
def test_a_line_thinner_than_a_pixel_is_whole_and_as_wide_as_it_was_drawn(width, path):
    """Where its ink is known from elsewhere; what it covers is what the renderer (resvg) gave its pixels."""
    drawn = draw(
        f'<circle cx="30" cy="170" r="12" fill="#20242c"/>'
        f'<path d="{path}" fill="none" stroke="#20242c" stroke-width="{width}"/>',
        200,
    )
    done = Pipeline(0).run(drawn, Recipe().with_("separate", ground="keep").with_("finish", page="picture"))
    line = next(layer for layer in done.stack.layers if layer.name != "White")
    assert line.pieces == 2
    seen = render(svg_text(done.stack), 800, 1)[:560, :, 0].astype(float)
    covered = ((255 - drawn.rgba[:140, :, 0].astype(float)) / (255 - 0x20)).sum()
    assert ((255 - seen) / (255 - 0x20)).sum() / 16 == pytest.approx(covered, rel=0.1)
