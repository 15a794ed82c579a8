"""Pictures as they come: cleared after they were compressed, half clear at a corner, shaded, on a table."""

import io

import cv2
import numpy as np
import pytest
from PIL import Image

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import find_page
from sketchloom.core.regions.evidence import rim_of_inside
from tests.conftest import draw, picture_of

ART = (
    '<circle cx="200" cy="200" r="160" fill="#3a2a33"/><circle cx="200" cy="200" r="130" fill="#f2e6cf"/>'
    '<path d="M120 140H280V190H120Z" fill="#8e2a5b"/><circle cx="200" cy="260" r="45" fill="#4f8a4b"/>'
)


def test_a_few_half_clear_pixels_cost_no_ink():
    rgba = draw('<path d="M60 150C60 40 240 40 240 150L200 260H100Z" fill="#000"/>', 300).rgba.copy()
    rgba[[0, 0, -1, -1], [0, -1, 0, -1], 3] = 110
    result = Pipeline(0).run(picture_of(rgba), Recipe())
    assert [layer.ink.hex for layer in result.stack.layers] == ["#000000"]
    assert result.stack.layers[0].pieces == 1


@pytest.mark.parametrize("quality", [60, 75])
def test_what_was_compressed_before_its_ground_was_cleared_keeps_its_inks(quality):
    clean = draw(ART, 400).rgba[..., :3]
    buffer = io.BytesIO()
    Image.fromarray(clean).save(buffer, "JPEG", quality=quality)
    art = np.asarray(Image.open(buffer).convert("RGB"))
    clear = (np.abs(clean.astype(int) - 255).max(2) < 12)[..., None]
    rgba = np.concatenate([art, np.where(clear, 0, 255).astype(np.uint8)], 2)
    result = Pipeline(0).run(picture_of(rgba), Recipe().with_("finish", width=300.0))
    wanted = [(0x3A, 0x2A, 0x33), (0xF2, 0xE6, 0xCF), (0x8E, 0x2A, 0x5B), (0x4F, 0x8A, 0x4B)]
    found = sorted((layer.ink.found for layer in result.stack.layers), key=sum)
    assert len(found) == len(wanted)
    assert [layer.pieces for layer in result.stack.layers] == [1] * len(wanted)  # as drawn: no crumbs along the clear
    for own, true in zip(found, sorted(wanted, key=sum), strict=True):
        assert np.abs(np.subtract(own, true)).max() <= 8


def test_a_pale_subject_is_no_ground_because_its_shadow_falls_on_the_paper():
    y, x = np.mgrid[:500, :500]
    body = ((x - 240) ** 2 + (y - 240) ** 2 < 150**2).astype(np.float32)
    shadow = cv2.GaussianBlur(np.roll(body, (18, 18), (0, 1)), (0, 0), 14) * 0.45
    grey = 255 * (1 - shadow) * (1 - body) + 224 * body
    rgb = np.repeat(np.rint(grey)[..., None], 3, 2).astype(np.uint8)
    rgb[(abs(x - 190) < 16) & (abs(y - 200) < 22)] = 40
    rgb[(abs(x - 290) < 16) & (abs(y - 200) < 22)] = 40
    result = Pipeline(0).run(picture_of(rgb), Recipe().with_("finish", page="picture"))
    at = result.regions.labels[320, 240]
    assert at > 0  # the body is cut
    assert np.mean(result.regions.labels[body > 0] > 0) > 0.98 and result.regions.labels[5, 5] == 0


def page_on_table(tilt: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A drawing on a page lit from one side, on a table as dark as its darkest corner; its corners, px; the ink."""
    side, angle = 700, np.deg2rad(tilt)
    turn = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    corners = np.array([[-300, -300], [300, -300], [300, 300], [-300, 300]]) @ turn.T + side / 2
    y, x = np.mgrid[:side, :side]
    light = 240 - 0.11 * x - 0.075 * y
    mask = np.zeros((side, side), np.uint8)
    cv2.fillConvexPoly(mask, np.rint(corners * 16).astype(np.int32), 1, shift=4)
    grey = np.where(mask > 0, light, 104.0)
    ink = np.zeros((side, side), np.uint8)
    cv2.circle(ink, (350, 330), 140, 255, 9, cv2.LINE_AA)
    cv2.line(ink, (250, 520), (450, 540), 255, 7, cv2.LINE_AA)
    grey = grey * (1 - 0.6 * ink / 255) + np.random.default_rng(3).normal(0, 1.5, grey.shape)
    return np.repeat(np.clip(np.rint(grey), 0, 255)[..., None], 3, 2).astype(np.uint8), corners, ink


@pytest.mark.parametrize("tilt", [-4.0, 3.0, 8.0])
def test_a_page_on_a_table_is_an_ink_drawing_without_its_edge(tilt):
    rgb, corners, ink = page_on_table(tilt)
    picture = picture_of(rgb)
    found = find_page(picture.rgba)
    assert found is not None
    apart = np.linalg.norm(found[:, None] - corners[None], axis=2).min(1)
    assert apart.max() < 4
    result = Pipeline(0).run(picture, Recipe().with_("finish", page="picture"))
    assert result.road.mode == "ink"
    cut = result.tones.labels == 2
    drawn = ink > 127
    assert (cut & drawn).sum() > 0.95 * drawn.sum()
    assert (cut & ~(cv2.dilate(ink, np.ones((7, 7))) > 0)).sum() < 0.02 * drawn.sum()


def test_a_field_of_the_strokes_own_ink_is_no_table():
    body = (
        '<rect width="400" height="400" fill="#000"/><path d="M200 40L360 200L200 360L40 200Z" fill="#fff"/>'
        '<circle cx="200" cy="200" r="40" fill="#000"/>'
    )
    labels = Pipeline(0).run(draw(body, 400), Recipe().with_("separate", mode="ink"), names=("tones",)).tones.labels
    assert labels[5, 5] == labels[200, 200] == 2 and labels[200, 90] == 1


def test_colours_along_a_soft_clear_stay_and_those_along_a_hard_one_come_from_inside():
    rgba = np.zeros((9, 9, 4), np.uint8)
    rgba[2:9, 2:9] = (40, 60, 80, 255)
    rgba[2, 2:9, :3], rgba[2:9, 2, :3] = 200, 200  # some of the cleared ground's colour
    alpha = rgba[..., 3]
    hard = rim_of_inside(rgba, alpha)
    assert (hard[alpha > 0][:, :3] == (40, 60, 80)).all() and (hard[8, 8] == rgba[8, 8]).all()
    soft = rgba.copy()
    soft[2, 5, 3] = 128
    assert rim_of_inside(soft, soft[..., 3]) is soft
    line = np.zeros((9, 9, 4), np.uint8)
    line[4, 1:8] = (200, 30, 30, 255)  # nothing lies inside it
    assert (rim_of_inside(line, line[..., 3]) == line).all()
