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
