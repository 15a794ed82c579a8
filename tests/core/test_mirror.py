"""Halves that nearly are alike are made alike, exactly."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.curves.work.mirror import _Fellows
from sketchloom.core.job import Pipeline, Recipe
from tests.conftest import draw, picture_of, tries

HEART = (
    '<path d="M200 330 C90 250 60 180 90 120 C120 70 185 80 200 130 '
    'C215 79 281 71 310.6 120 C340 180 310 250 200 330Z" fill="#a03040"/>'
)
EYES = '<circle cx="150" cy="160" r="20" fill="#205080"/><circle cx="250.8" cy="160.5" r="20.3" fill="#205080"/>'
STEM = '<rect x="20" y="20" width="30" height="40" fill="#207040"/>'


def traced(body: str, mirror: float):
    recipe = Recipe().with_("finish", page="picture").with_("trace", mirror=mirror)
    return Pipeline(0).run(draw(body, 400), recipe)


def lopsided(path) -> float:
    """Largest distance of a node's mirror image from the nodes, mm."""
    nodes = np.concatenate([contour[:-1] for contour in path.contours])
    middle = (nodes[::3, 0].min() + nodes[::3, 0].max()) / 2
    image = np.column_stack([2 * middle - nodes[:, 0], nodes[:, 1]])
    return float(np.linalg.norm(image[:, None] - nodes[None], axis=2).min(1).max())


@pytest.mark.parametrize("body", [HEART, HEART + EYES])
def test_both_halves_are_mirror_images(body):
    before, after = traced(body, 0.0), traced(body, 0.5)
    for old, new in zip(before.stack.layers, after.stack.layers, strict=True):
        assert lopsided(old.path) > 0.05
        assert lopsided(new.path) < 0.0025  # rounded to a micrometre each
        assert new.area == pytest.approx(old.area, rel=0.02)
    assert after.curves.deviation.largest.max() < 0.5 * 96 / 25.4 + 0.5


def test_what_is_not_alike_stays():
    body = HEART + STEM
    before, after = traced(body, 0.0), traced(body, 0.5)
    assert np.array_equal(before.stack.layers[0].path.contours[0], after.stack.layers[0].path.contours[0])


def test_junctions_go_with_their_fellows():
    body = '<rect x="60" y="60" width="280.7" height="280" fill="#205080"/>'
    body += '<rect x="60" y="160" width="70" height="80" fill="#c04030"/>'
    body += '<rect x="270" y="160.6" width="70.7" height="79.2" fill="#c04030"/>'
    after = traced(body, 0.5)
    for layer in after.stack.layers:
        assert lopsided(layer.path) < 0.0025
    faces = after.stack.layers
    whole = sum(layer.area for layer in faces)
    outer = Pipeline(0).run(draw(body, 400), Recipe().with_("layers", build="single").with_("trace", mirror=0.5))
    assert whole == pytest.approx(outer.stack.layers[0].area, rel=1e-6)  # neighbours still meet exactly


@pytest.mark.parametrize(("off", "alike"), [((0.0, 2.0), False), ((0.0, 0.9), True), ((0.0, 1.1), False)])
@pytest.mark.parametrize("step", [0.5, 8.0])
def test_lines_are_fellows_as_far_apart_as_they_may_be(off, alike, step):
    # two level lines: each is as far from the other's mirror image as it was moved, however far their points lie
    # along them; distance of parallel lines (Euclid's Elements, book I)
    along = np.arange(0, 80 + step, step)
    left = np.stack([-100 + along, 0 * along], 1)
    right = np.stack([100 - along, 0 * along], 1) + off
    right[1:-1, 0] += step / 2 - 0.1 * step
    fellows = _Fellows({3: left, 5: right}, 0.0, 1.0)
    assert (fellows.of(3), fellows.of(5)) == ((5, 3) if alike else (None, None))


@given(st.integers(0, 10_000))
@tries(20)
def test_arcs_meet_at_their_junctions_on_the_frame_too(seed):
    """What is mirrored reaches the picture's edge, where the frame's own arcs stay."""
    rng = np.random.default_rng(seed)
    half = np.kron(rng.integers(0, 4, (7, 4)), np.ones((9, 9), int))
    cells = np.hstack([half, np.roll(half[:, ::-1], int(rng.integers(-2, 3)), 0)])
    rgb = np.array([[255, 255, 255], [192, 48, 48], [32, 96, 160], [48, 160, 80]], np.uint8)[cells]
    recipe = Recipe().with_("separate", ground="keep").with_("finish", page="picture").with_("trace", mirror=2.0)
    result = Pipeline(0).run(picture_of(rgb), recipe, names=("finish",))
    curves, planar = result.finished.curves, result.planar
    arcs = np.arange(len(curves.offset) - 1)
    ends = {0: planar.tail, 1: planar.head}
    at: dict[int, np.ndarray] = {}
    for side, names in ends.items():
        places = curves.points[3 * curves.offset[arcs + side] + arcs]
        for name, place in zip(names.tolist(), places, strict=True):
            assert np.array_equal(at.setdefault(name, place), place), name
