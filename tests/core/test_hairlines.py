"""Inks drawn a pixel wide only: told from thinner lines of inks that are there already."""

import numpy as np
import pytest

from sketchloom.core.regions import SeparateSettings, find_tones, lab_of
from tests.conftest import draw

FACE, HAIR, BROW = "#f2c69a", "#402218", "#a06a50"
HEAD = f'<rect width="200" height="200" fill="{HAIR}"/><circle cx="100" cy="100" r="80" fill="{FACE}"/>'
BLEND = (160, 106, 80)
"""BROW lies between FACE and HAIR: an edge of the two shows it as well."""


def shown(body: str) -> np.ndarray:
    return np.array(find_tones(draw(HEAD + body, 200), SeparateSettings(mode="flat", ground="keep")).found, float)


def nearest(colours: np.ndarray) -> float:
    return float(np.linalg.norm(lab_of(colours) - lab_of(np.array(BLEND, float)), axis=1).min())


def curve(colour: str, width: float) -> str:
    return f'<path d="M60 90C75 70 95 72 110 88S140 110 150 96" fill="none" stroke="{colour}" stroke-width="{width}"/>'


def test_the_brow_is_a_blend_of_the_others():
    face, hair = (np.array(list(bytes.fromhex(code[1:])), float) for code in (FACE, HAIR))
    along = hair - face
    share = (np.array(BLEND) - face) @ along / (along @ along)
    assert 0.2 < share < 0.8
    assert np.abs(np.array(BLEND) - face - share * along).max() < 12


@pytest.mark.parametrize("width", [2.0, 2.6])
def test_a_curved_line_of_an_ink_found_nowhere_else_is_an_ink(width):
    colours = shown(curve(BROW, width))
    assert len(colours) == 3
    assert nearest(colours) < 1


@pytest.mark.parametrize("width", [0.4, 0.7, 1.0])
def test_a_thinner_line_of_an_ink_that_is_there_makes_none(width):
    assert len(shown(curve(HAIR, width))) == 2


@pytest.mark.parametrize("width", [0.5, 1.5])
def test_a_straight_frame_of_hairlines_makes_no_ink(width):
    frame = f'<rect x="70.2" y="80.2" width="60" height="40" fill="none" stroke="{HAIR}" stroke-width="{width}"/>'
    assert len(shown(frame)) == 2


def test_shares_that_a_mirrored_shape_repeats_make_no_ink():
    for radius in (10, 20, 30.5):
        assert len(shown(f'<circle cx="100" cy="100" r="{radius}" fill="{HAIR}"/>')) == 2


EYE = (
    '<circle cx="{x}" cy="100" r="9" fill="#ffffff"/><circle cx="{x}" cy="100" r="5.4" fill="#7d4533"/>'
    '<circle cx="{x}" cy="100" r="3.4" fill="#000000"/>'
)


def test_an_iris_between_black_and_white_is_an_ink_of_its_own():
    """A ring two px wide: hardly a square of it, but its own colour wherever it fills a pixel."""
    colours = shown(EYE.format(x=70) + EYE.format(x=130))
    away = np.linalg.norm(lab_of(colours) - lab_of(np.array([0x7D, 0x45, 0x33], float)), axis=1)
    assert away.min() < 1 and len(colours) == 5


def test_the_seam_of_two_shapes_that_abut_makes_no_ink():
    """Where two edges meet a renderer lets the ground shine through (conflation); by how much changes all along."""
    for turn in (0, 7, 15, 45):
        seam = f'<g transform="rotate({turn} 100 100)"><rect x="60" y="60" width="40.3" height="80" fill="#b3275f"/>'
        seam += '<rect x="100.3" y="60" width="40" height="80" fill="#2a6fdb"/></g>'
        assert len(shown(seam)) == 4


def test_a_far_thin_part_of_an_ink_is_no_second_ink_of_its_colour():
    body = '<g transform="rotate(15 100 100)"><rect x="60" y="60" width="60" height="60" fill="#b3275f"/>'
    body += '<rect x="120" y="98.8" width="40" height="2.4" fill="#b3275f"/></g>'
    assert len(shown(body)) == 3


def test_a_near_shade_of_few_pixels_stays():
    """A shade between two others that both touch it, five px high: a square of it shows that it is no edge."""
    body = '<rect x="60" y="60" width="60" height="30" fill="#c68d7b"/><rect x="60" y="90" width="60" height="30" '
    body += 'fill="#ab6a55"/><rect x="80" y="88" width="12" height="5" fill="#b97c68"/>'
    colours = shown(body)
    away = np.linalg.norm(lab_of(colours) - lab_of(np.array([0xB9, 0x7C, 0x68], float)), axis=1)
    assert away.min() < 1


@pytest.mark.parametrize("seed", [9, 21, 24])
def test_bent_lines_of_eight_tenths_of_a_pixel_make_no_more_inks(seed):
    """The same shares come again and again; each line's ink is one that is drawn wide elsewhere."""
    rng, inks = np.random.default_rng(seed), ("#20242c", "#b8322a", "#2a62b0")
    body = "".join(f'<circle cx="{40 + 60 * i}" cy="380" r="10" fill="{ink}"/>' for i, ink in enumerate(inks))
    for i in range(9):
        middle = np.array([70 + 130 * (i % 3), 60 + 120 * (i // 3)])
        turn = rng.uniform(0, np.pi)
        along, across = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
        bend = rng.uniform(-40, 40, 2)
        curve = [middle - 44 * along, middle - 15 * along + bend[0] * across]
        curve += [middle + 15 * along + bend[1] * across, middle + 44 * along]
        places = " ".join(f"{x:.2f},{y:.2f}" for x, y in curve).replace(" ", " C", 1)
        body += f'<path d="M{places}" fill="none" stroke="{inks[i % 3]}" stroke-width="0.8"/>'
    assert len(find_tones(draw(body, 400), SeparateSettings(mode="flat", ground="keep")).found) == 4
