"""Lines one pixel wide without anti-aliasing, drawn by OpenCV, come out whole."""

import cv2
import numpy as np
import pytest

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.regions.flat.touching import lines_joined
from tests.conftest import FOUR_INKS, draw, picture_of

INK, PAPER = (30, 40, 60), (255, 255, 255)
RECIPE = Recipe().with_("separate", ground="keep").with_("tidy", least_area=0.0).with_("finish", page="picture")


def fan(kind: int = cv2.LINE_8) -> np.ndarray:
    """Lines in all directions that do not meet, each a pixel wide."""
    rgb = np.full((300, 300, 3), 255, np.uint8)
    for turn in np.linspace(0, 2 * np.pi, 24, endpoint=False):
        way = np.array([np.cos(turn), np.sin(turn)])
        first, last = (np.rint(150 + reach * way).astype(int).tolist() for reach in (40, 140))
        cv2.line(rgb, first, last, INK, 1, kind)
    return rgb


def crossed(labels: np.ndarray) -> np.ndarray:
    """Squares of two by two whose corners are alike across only."""
    one, other = labels[:-1, :-1], labels[:-1, 1:]
    return (one == labels[1:, 1:]) & (other == labels[1:, :-1]) & (one != other)


@pytest.mark.parametrize("mode", ["auto", "ink"])
def test_a_line_of_pixels_that_touch_at_corners_is_one_line(mode):
    result = Pipeline(0).run(picture_of(fan()), RECIPE.with_("separate", mode=mode))
    dark = next(layer for layer in result.stack.layers if layer.name != "White")
    assert dark.pieces == 24
    assert not crossed(result.regions.labels).any()
    # a pixel more at each step: as wide as the line of steps that OpenCV draws 4-connected, about
    steps = (fan(cv2.LINE_4) != 255).any(2).sum()
    assert (result.regions.labels == result.regions.keys.index(dark.ink.key) + 1).sum() == pytest.approx(
        steps, rel=0.03
    )


def test_the_joined_line_lies_where_the_line_was_drawn():
    rgb = np.full((120, 160, 3), 255, np.uint8)
    cv2.line(rgb, (10, 20), (150, 90), INK, 1)
    cv2.circle(rgb, (130, 20), 12, INK, -1)
    result = Pipeline(0).run(picture_of(rgb), RECIPE)
    dark = next(layer for layer in result.stack.layers if layer.name != "White")
    line = max(dark.path.contours, key=lambda contour: np.ptp(contour[:, 0])) * result.scale.px_per_mm
    along = np.array([140.0, 70.0]) / np.hypot(140, 70)
    off = (line[::3] - (10.5, 20.5)) @ np.array([-along[1], along[0]])
    assert np.abs(off).max() < 1.3 and len(line) < 40


@pytest.mark.parametrize("size", [1, 2, 7])
def test_a_chessboard_is_left_as_it_is(size):
    y, x = np.mgrid[:42, :42] // size
    labels = ((y + x) % 2 + 1).astype(np.uint8)
    mix = np.array([PAPER, INK], float)
    evidence = np.dstack([mix[labels - 1], np.full(labels.shape, 255)]).astype(np.uint8)
    assert lines_joined(labels, evidence, mix)[0] is labels


def test_pixels_that_are_blends_and_a_few_dots_are_left():
    labels = np.ones((40, 40), np.uint8)
    labels[range(5, 30), range(5, 30)] = 2
    labels[range(30, 35), range(5, 10)] = 2  # five dots
    mix = np.array([PAPER, INK], float)
    evidence = np.dstack([mix[labels - 1], np.full(labels.shape, 255)]).astype(np.uint8)
    joined, drawn = lines_joined(labels, evidence, mix)
    assert not crossed(joined[:29, :]).any() and crossed(joined[30:]).sum() == 4
    assert (drawn[joined == 2, :3] == INK).all() and (evidence[labels == 1, :3] == 255).all()
    soft = evidence.copy()
    soft[labels == 2, 0] += 1
    assert lines_joined(labels, soft, mix)[0] is labels


def test_art_with_soft_edges_is_left_as_it_is():
    plain = Pipeline(0).run(draw(FOUR_INKS, 300, 200), RECIPE)
    tones = plain.tones
    assert lines_joined(tones.labels, tones.evidence, tones.mix)[0] is tones.labels
