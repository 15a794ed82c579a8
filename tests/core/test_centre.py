"""Centre lines against the true lines of strokes drawn by a renderer that is not ours."""

import io

import numpy as np
import pytest
import shapely
from svgelements import SVG, Move
from svgelements import Path as SvgPath

from sketchloom.core.curves.centre import centre_lines
from sketchloom.core.job import Pipeline, Recipe, report_of
from sketchloom.core.layers import LayerRule, double_edges, join_ends
from tests.conftest import draw, svg_text

WIDTH = 16
ROUND = f'fill="none" stroke="#205080" stroke-width="{WIDTH}" stroke-linecap="round" stroke-linejoin="round"'


def strokes_of(body: str):
    result = Pipeline(0).run(draw(body, 400), Recipe().with_("finish", page="picture"))
    return centre_lines(result.regions.labels == 1, result.samples.points, 0.1)


def points_on(control: np.ndarray) -> np.ndarray:
    t = np.linspace(0, 1, 30)[None, :, None]
    s, p = 1 - t, control[:, :, None]
    return (s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3]).reshape(-1, 2)


def true_lines(data: str) -> shapely.Geometry:
    lines = []
    for part in SvgPath(data).as_subpaths():
        segments = [segment for segment in SvgPath(part) if not isinstance(segment, Move)]
        points = [segment.point(t) for segment in segments for t in np.linspace(0, 1, 100)]
        lines.append(shapely.LineString([(p.x, p.y) for p in points]))
    return shapely.union_all(lines)


SHAPES = {
    "line": ("M60 80 L330 110", 1),
    "bend": ("M60 80 L330 110 L200 330", 1),
    "cross": ("M60 200 L340 200 M200 60 L200 340", 2),
    "slanting cross": ("M60 180 L340 230 M150 60 L250 340", 2),
    "branch": ("M60 200 L340 200 M200 200 L230 340", 2),
    "wave": ("M60 300 C100 20 300 380 340 100", 1),
    "ring": ("M320 200 A120 120 0 1 1 80 200 A120 120 0 1 1 320 200 Z", 1),
    "arrow": ("M60 200 L340 200 M240 100 L340 200 L240 300", 3),
    "triangle": ("M200 70 L340 320 L60 320 Z", 1),
    "tick": ("M60 210 L160 310 L340 110", 1),
    "crossbar": ("M100 100 L100 140 M100 120 L300 120", 2),
}


@pytest.mark.parametrize("name", SHAPES)
def test_lines_lie_on_the_true_ones_with_no_spur(name):
    data, count = SHAPES[name]
    found = strokes_of(f'<path d="{data}" {ROUND}/>')
    true = true_lines(data)
    assert len(found) == count
    assert [stroke.closed for stroke in found] == [name in ("ring", "triangle")] * count
    points = np.concatenate([points_on(stroke.piece.control) for stroke in found])
    assert shapely.distance(shapely.points(points), true).max() < 0.3
    everywhere = shapely.MultiLineString([points_on(stroke.piece.control) for stroke in found])
    along = shapely.points(shapely.get_coordinates(true))
    assert shapely.distance(along, everywhere).max() < WIDTH / 2  # to the middle of the round ends
    for stroke in found:
        assert stroke.width == pytest.approx(WIDTH, abs=0.2)
        assert stroke.widths == pytest.approx(np.full(len(stroke.widths), WIDTH), abs=1.5)
        assert len(stroke.piece.control) <= 6


def test_a_blunt_stroke_is_followed_to_its_end():
    found = strokes_of('<rect x="60" y="190" width="280" height="20" fill="#205080"/>')
    assert len(found) == 1
    points = points_on(found[0].piece.control)
    assert np.abs(points[:, 1] - 200).max() < 0.3
    assert points[:, 0].min() < 64
    assert points[:, 0].max() > 336


def test_the_width_is_known_everywhere():
    found = strokes_of('<path d="M60 196 L340 180 L340 220 L60 204 Z" fill="#205080"/>')  # 8 px to 40 px
    assert len(found) == 1
    widths = found[0].widths
    assert max(widths[0], widths[-1]) > 1.8 * min(widths[0], widths[-1])


def test_nothing_comes_of_nothing():
    none = np.zeros((20, 20), bool)
    assert centre_lines(none, np.zeros((0, 2)), 0.1) == ()
    none[10, 10] = True
    assert centre_lines(none, np.array([[10.0, 10], [11, 10], [11, 11], [10, 11]]), 0.1) == ()


RING = '<circle cx="200" cy="200" r="120" fill="none" stroke="#205080" stroke-width="10"/>'
FILLED = '<circle cx="200" cy="200" r="120" fill="#205080"/><circle cx="200" cy="200" r="60" fill="#fff"/>'


def test_centre_lines_are_written_beside_the_layers_as_wide_as_the_strokes():
    picture = draw(f'<path d="M60 80 L330 110 L200 330" {ROUND}/>', 400)
    base = Recipe().with_("finish", page="picture", width=100.0)
    plain = Pipeline(0).run(picture, base)
    rules = tuple(LayerRule(key, centre_line=True) for key in plain.regions.keys)
    result = Pipeline(0).run(picture, base.with_("layers", rules=rules))
    text = svg_text(result.stack)
    drawn = [e for e in SVG.parse(io.StringIO(text)).elements() if isinstance(e, SvgPath)]
    assert [e.fill.value is None for e in drawn] == [False, True]  # a reader that is not ours
    line = report_of(result)["centre_lines"][0]
    assert line["width_mm"] == pytest.approx(WIDTH / 4, abs=0.05)
    true = np.hypot(270, 30) + np.hypot(130, 220)
    assert line["length_mm"] == pytest.approx(true / 4, rel=0.01)


@pytest.mark.parametrize(("edge", "radius"), [("outer", 125), ("inner", 115), ("centre", 120)])
def test_a_ring_is_cut_once_where_it_is_asked(edge, radius):
    base = Recipe().with_("finish", page="picture", width=400.0).with_("separate", ground="auto")
    both = Pipeline(0).run(draw(RING, 400), base)
    assert both.double == ()  # 10 mm wide, it is a ring that is meant, but may be cut once
    small = Pipeline(0).run(draw(RING, 400), base.with_("finish", width=100.0))
    assert [round(width, 1) for _, width in small.double] == [2.5]
    result = Pipeline(0).run(draw(RING, 400), base.with_("layers", rules=(LayerRule(both.regions.keys[0], edge=edge),)))
    layer = result.stack.layers[0]
    assert len(layer.path.contours) == 1
    assert layer.cut_length == pytest.approx(2 * np.pi * radius, rel=0.003)
    assert layer.area == pytest.approx(np.pi * radius**2, rel=0.003)


def test_a_shape_with_a_hole_is_no_double_edge():
    result = Pipeline(0).run(draw(FILLED, 400), Recipe())
    assert double_edges(result.stack.layers) == ()


def test_open_ends_are_joined_by_a_curve_that_runs_on():
    found = strokes_of(f'<path d="M60 120 L180 120 M230 120 L340 120" {ROUND}/>')
    ends = np.array([180.0, 120.0]), np.array([230.0, 120.0])
    joined, lost = join_ends(found, [ends])
    assert (len(found), len(joined), lost) == (2, 1, 0)
    points = points_on(joined[0].piece.control)
    assert np.abs(points[:, 1] - 120).max() < 0.3
    assert len(joined[0].widths) == len(joined[0].piece.control) + 1
    closed, lost = join_ends(joined, [(np.array([60.0, 120]), np.array([340.0, 120]))])
    assert closed[0].closed
    assert lost == 0
    assert join_ends(found, [(np.array([10.0, 10]), ends[1])]) == (found, 1)
