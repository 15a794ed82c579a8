"""Layers are set algebra on faces."""

import numpy as np
import pytest
from fontTools.pens.areaPen import AreaPen
from fontTools.pens.recordingPen import RecordingPen
from shapely.affinity import scale
from shapely.geometry import Point
from shapely.geometry import box as rectangle

from sketchloom.core.curves import Path
from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.layers import extent_of, stacking
from sketchloom.core.scale import FinishSettings, find_scale
from sketchloom.core.send.svg import path_data
from tests.conftest import FOUR_INKS, draw, picture_of

PICTURE = draw(FOUR_INKS)
MM = Recipe().with_("finish", page="picture", width=200.0)  # 1 px = 1 mm


def area_of(path: Path) -> float:
    pen = AreaPen()
    path.draw(pen)
    return abs(pen.value)


def test_a_hole_runs_the_other_way_round():
    body = '<circle cx="100" cy="100" r="80" fill="#205080"/><circle cx="100" cy="100" r="40" fill="#fff"/>'
    path = Pipeline(0).run(draw(body), MM).stack.layers[0].path
    assert len(path.contours) == 2
    signs = []
    for contour, straight in zip(path.contours, path.straight, strict=True):
        pen = AreaPen()
        Path((contour,), (straight,)).draw(pen)
        signs.append(np.sign(pen.value))
    assert signs[0] != signs[1]
    # ring formula: pi (R^2 - r^2)
    assert area_of(path) == pytest.approx(np.pi * (80**2 - 40**2), rel=2e-3)


def test_areas_agree_with_geos():
    layers = {layer.ink.hex: layer for layer in Pipeline(0).run(PICTURE, MM).stack.layers}
    disc, plate = Point(100, 100).buffer(60, 64), rectangle(20, 20, 180, 180)
    leaf = scale(Point(100, 150).buffer(1, 64), 20, 8)
    hole = disc.union(leaf)
    assert layers["#3a2a33"].area == pytest.approx(plate.difference(hole).area, rel=1e-3)
    assert layers["#3a2a33"].cut_length == pytest.approx(plate.length + hole.length, rel=5e-3)
    assert layers["#4f8a4b"].area == pytest.approx(leaf.area, rel=1e-2)


def test_pieces_that_touch_at_a_corner_stay_apart():
    rgb = np.full((40, 40, 3), 255, np.uint8)
    rgb[5:20, 5:20] = rgb[20:35, 20:35] = 30, 60, 120
    layer = Pipeline(0).run(picture_of(rgb), Recipe()).stack.layers[0]
    assert layer.pieces == 2
    assert len(layer.path.contours) == 2


def test_every_contour_closes_and_every_layer_is_one_compound_path():
    for build in ("flush", "carried", "single"):
        for layer in Pipeline(0).run(PICTURE, MM.with_("layers", build=build)).stack.layers:
            for contour in layer.path.contours:
                assert np.array_equal(contour[0], contour[-1])
                assert len(contour) % 3 == 1
            data = path_data(layer.path)
            assert data.count("M") == data.count("Z") == len(layer.path.contours)


def test_a_path_speaks_the_pen_protocol():
    layer = Pipeline(0).run(PICTURE, MM).stack.layers[0]
    pen = RecordingPen()
    layer.path.draw(pen)
    verbs = [verb for verb, _ in pen.value]
    assert verbs[0] == "moveTo"
    assert verbs[-1] == "closePath"
    assert verbs.count("lineTo") + verbs.count("curveTo") == layer.path.nodes


def test_what_is_shown_leaves_no_gap():
    stack = Pipeline(0).run(PICTURE, MM).stack
    above = 0.0
    for layer, shown in zip(reversed(stack.layers), reversed(stack.shown), strict=True):
        above += layer.area
        assert area_of(shown) == pytest.approx(above, rel=1e-6)


def test_bounds_hold_the_extremes_of_curves():
    # a quarter circle cubic bulges beyond its nodes: x reaches 1 only at its end, but 0.75 between for a symmetric hump
    hump = np.array([[0.0, 0], [0, 1], [1, 1], [1, 0]])
    assert Path((hump,), (np.array([False]),)).bounds == pytest.approx((0, 0, 1, 0.75))


def test_stacking_puts_named_inks_on_top():
    keys = ("#000000", "#010101", "#020202")
    assert stacking(keys, ()) == [*keys]
    assert stacking(keys, (keys[0],)) == [keys[1], keys[2], keys[0]]
    assert stacking(keys, ("#ffffff", keys[2], keys[1])) == [keys[0], keys[2], keys[1]]


def test_the_scale_is_fixed_by_what_is_no_ground():
    labels = np.zeros((30, 50), np.uint8)
    labels[5:25, 10:40] = 1
    extent = extent_of(labels)
    assert extent == (10, 5, 40, 25)

    def scale_of(density=1.0, **settings):
        return find_scale(FinishSettings(**settings), labels.shape, extent, density).px_per_mm

    assert scale_of(width=60.0) == 0.5
    assert scale_of(height=10.0) == 2.0
    assert scale_of(page="picture", width=25.0) == 2.0
    assert scale_of() == pytest.approx(96 / 25.4)  # CSS Values 3: 96 px to the inch
    assert scale_of(2.0) == pytest.approx(2 * 96 / 25.4)  # enlarged twice it stays as large
    with pytest.raises(ArgumentError):
        scale_of(width=-1.0)
    with pytest.raises(NothingToCutError):
        extent_of(np.zeros((3, 3), np.uint8))
