"""Specks that only a soft edge makes, and true dots beside them."""

import numpy as np
import pytest

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.regions import LabelMap, find_faces
from sketchloom.core.tidy import clean
from sketchloom.core.tidy.blends import only_blends
from sketchloom.core.tidy.settings import TidySettings
from tests.conftest import draw

MIX = np.array([[255, 255, 255], [20, 20, 24], [130, 130, 132], [200, 30, 40]], float)


def drawn(marks):
    """White on the left, black on the right, a grey field below; with marks (y, x, label, share of black)."""
    labels = np.zeros((40, 40), np.uint8)
    labels[:, 20:] = 1
    labels[30:] = 2
    evidence = MIX[labels]
    for y, x, label, colour in marks:
        labels[y, x] = label
        evidence[y, x] = colour
    picture = np.dstack([np.rint(evidence), np.full(labels.shape, 255)]).astype(np.uint8)
    return LabelMap(labels, ("#141418", "#828284", "#c81e28"), picture, labels, MIX)


def mixed(share):
    return MIX[0] + share * (MIX[1] - MIX[0])


def gone(regions):
    faces, runs = find_faces(regions.cells)
    out = only_blends(regions, faces, runs)
    return [(int(faces.label[face]), int(faces.area[face])) for face in np.flatnonzero(out)]


def test_a_pixel_of_a_soft_edge_that_looks_like_a_third_ink_is_no_piece():
    assert gone(drawn([(10, 20, 2, mixed(0.52))])) == [(2, 1)]
    assert gone(drawn([(10, 20, 2, mixed(0.5)), (11, 20, 2, mixed(0.54))])) == [(2, 2)]


def test_a_true_dot_of_two_pixels_stays():
    assert gone(drawn([(10, 5, 2, MIX[2]), (10, 6, 2, MIX[2])])) == []  # on one ink
    assert gone(drawn([(10, 5, 3, MIX[3]), (10, 6, 3, MIX[3])])) == []
    assert gone(drawn([(10, 20, 3, MIX[3]), (11, 20, 3, MIX[3])])) == []  # of a colour that no two others mix


def test_a_larger_piece_of_the_third_ink_stays():
    assert gone(drawn([(y, x, 2, MIX[2]) for y in (10, 11) for x in (20, 21)])) == []


def test_a_colour_that_two_shapes_with_one_soft_edge_make_goes_where_it_is_alone():
    half = (MIX[1] + MIX[3]) / 2
    off = half + np.array([0, 14, 0])  # a little of what lies below both
    marks = [(y, x, 3, MIX[3]) for y in range(30) for x in range(10, 20)]
    assert gone(drawn([*marks, (10, 20, 2, off)])) == [(2, 1)]
    chain = [(10, 20, 2, off), (11, 21, 2, off)]  # as a thin slanting line has them
    assert gone(drawn([*marks, *chain])) == []


def test_it_goes_at_any_finished_size():
    regions = drawn([(10, 20, 2, mixed(0.52))])
    for px_per_mm in (0.1, 1.0, 20.0):
        cleaned = clean(regions, TidySettings(least_area=0.0), px_per_mm)
        assert cleaned.regions.labels[10, 20] in (0, 1)
        assert [taken.kind for taken in cleaned.taken] == ["speck"]


@pytest.mark.parametrize("width", [60.0, 480.0])
def test_a_word_in_two_tones_has_no_crumbs_of_a_third(width):
    shapes = (
        '<rect x="20" y="60" width="160" height="90" fill="#4a2a1a"/><circle cx="40" cy="25" r="18" fill="#c48a48"/>'
    )
    for x in (45, 75, 105, 135):
        shapes += f'<path d="M{x} 135L{x + 9} 75L{x + 18} 135Z" fill="#7fc6ea"/>'
        shapes += f'<path d="M{x + 2.25} 120L{x} 135H{x + 18}L{x + 15.75} 120Z" fill="#2f7fb8"/>'
    result = Pipeline(0).run(draw(shapes, 200), Recipe().with_("finish", width=width))
    tan = next(layer for layer in result.stack.layers if layer.key == "#c48a48")
    assert tan.pieces == 1
