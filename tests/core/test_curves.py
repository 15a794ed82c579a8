"""Known shapes come back: drawn by a renderer that is not ours, anti-aliased, at 400 px."""

import numpy as np
import pytest
import shapely
import shapely.affinity
from svgelements import Path as SvgPath

from sketchloom.core.curves.fit.circles import fit_arcs
from sketchloom.core.curves.fit.cubics import fit_cubics
from sketchloom.core.curves.fit.noise import measure_noise
from sketchloom.core.curves.fit.track import Track
from sketchloom.core.job import Pipeline, Recipe
from tests.conftest import draw, picture_of, svg_text

PX = 96 / 25.4


def traced(body: str, size: int = 400):
    recipe = Recipe().with_("finish", page="picture").with_("tidy", least_area=0.0)
    result = Pipeline(0).run(draw(body, size), recipe)
    assert len(result.stack.layers) == 1
    return result.stack.layers[0].path, result


def points_on(path, steps: int = 40) -> np.ndarray:
    """Points of all curves, px."""
    t = np.linspace(0, 1, steps)[:, None, None]
    out = []
    for contour in path.contours:
        p = contour[3 * np.arange((len(contour) - 1) // 3)[:, None] + np.arange(4)] * PX
        curve = (1 - t) ** 3 * p[:, 0] + 3 * t * (1 - t) ** 2 * p[:, 1] + 3 * t * t * (1 - t) * p[:, 2] + t**3 * p[:, 3]
        out.append(curve.reshape(-1, 2))
    return np.concatenate(out)


def cubic_at(p: np.ndarray, times: np.ndarray) -> np.ndarray:
    t = times[:, None]
    return (1 - t) ** 3 * p[0] + 3 * t * (1 - t) ** 2 * p[1] + 3 * t * t * (1 - t) * p[2] + t**3 * p[3]


@pytest.mark.parametrize("radius", [12.3, 40.0, 150.7])
def test_a_circle_keeps_its_radius_with_few_segments(radius):
    path, _ = traced(f'<circle cx="200.3" cy="199.6" r="{radius}" fill="#205080"/>')
    away = np.hypot(*(points_on(path) - (200.3, 199.6)).T) - radius
    assert path.nodes <= 8
    assert np.abs(away).max() < 0.10


def test_the_four_cubic_circle_has_its_known_error():
    # handbook value: k = 4/3 (sqrt 2 - 1) leaves at most 2.7e-4 of the radius
    angle = np.linspace(0, np.pi / 2, 200)
    points = np.stack([np.cos(angle), np.sin(angle)], 1) * 100
    along = np.append(0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1)))
    limit = np.full(200, 0.01)
    track = Track(points, np.ones(200), points, along, limit, limit, np.ones(200), limit)
    fit = fit_cubics(track, np.array([0]), np.array([199]))
    assert np.abs(np.hypot(*cubic_at(fit.control[0], np.linspace(0, 1, 500)).T) - 100).max() < 2.8e-2


@pytest.mark.parametrize("count", [20, 63, 700])
@pytest.mark.parametrize("scatter", [0.0, 0.1])
def test_a_cubic_comes_back_from_points_along_it(count, scatter):
    rng = np.random.default_rng(7)
    true = np.array([[10.0, 20.0], [90.0, -40.0], [160.0, 120.0], [300.0, 60.0]])
    points = cubic_at(true, np.linspace(0, 1, count)) + rng.normal(0, 1, (count, 2)) * scatter
    points[[0, -1]] = true[[0, 3]]
    along = np.append(0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1)))
    limit, ones = np.full(count, 0.3), np.ones(count)
    track = Track(points, ones, points, along, limit, limit + scatter, ones, limit + 1)
    fit = fit_cubics(track, np.array([0]), np.array([count - 1]))
    away = shapely.LineString(cubic_at(true, np.linspace(0, 1, 4000)))
    off = [away.distance(shapely.Point(p)) for p in cubic_at(fit.control[0], np.linspace(0, 1, 200))]
    assert max(off) < 0.03 + 1.5 * scatter * 4 / np.sqrt(min(count, 64))  # four numbers from so many points


@pytest.mark.parametrize("turn", [0, 7, 30, 45])
def test_a_square_is_four_lines(turn):
    path, _ = traced(
        f'<rect x="100.4" y="99.7" width="200" height="200" fill="#205080" transform="rotate({turn} 200.4 199.7)"/>'
    )
    assert path.nodes == 4
    assert all(flags.all() for flags in path.straight)
    angle = np.deg2rad(turn + 45 + 90 * np.arange(4))
    corners = np.stack([np.cos(angle), np.sin(angle)], 1) * 100 * np.sqrt(2) + (200.4, 199.7)
    nodes = path.contours[0][:-1:3] * PX
    gap = np.linalg.norm(corners[:, None] - nodes[None], axis=2).min(1)
    assert gap.max() < 0.15


def test_a_star_is_ten_lines():
    angle = np.deg2rad(-90 + 36 * np.arange(10))
    radius = np.where(np.arange(10) % 2, 60, 150)
    star = " ".join(f"{200 + r * np.cos(a):.3f},{200 + r * np.sin(a):.3f}" for a, r in zip(angle, radius, strict=True))
    path, _ = traced(f'<polygon points="{star}" fill="#205080"/>')
    assert path.nodes == 10
    assert all(flags.all() for flags in path.straight)


def test_a_one_in_seven_slope_is_one_line():
    path, _ = traced('<path d="M50 100 L330 140 L330 300 L50 300 Z" fill="#205080"/>')
    assert path.nodes == 4


def test_an_ellipse_keeps_to_its_equation():
    path, _ = traced('<ellipse cx="200" cy="200" rx="150" ry="70" fill="#205080"/>')
    x, y = ((points_on(path) - 200) / (150, 70)).T
    assert np.abs(np.hypot(x, y) - 1).max() * 70 < 0.15


def test_two_inks_share_one_straight_edge():
    path, result = traced('<rect x="50" y="50" width="300" height="300" fill="#205080"/>')
    assert path.nodes == 4
    body = '<rect x="50" y="50" width="150.4" height="300" fill="#205080"/>'
    body += '<rect x="200.4" y="50" width="149.6" height="300" fill="#c04030"/>'
    result = Pipeline(0).run(draw(body, 400), Recipe().with_("finish", page="picture"))
    for layer in result.stack.layers:
        assert layer.path.nodes == 4
        edge = layer.path.contours[0][:-1:3][:, 0] * PX
        assert np.abs(edge - 200.4).min() < 0.05


def test_smoother_means_fewer_nodes_and_more_deviation():
    wave = "M20 200" + "".join(f"Q{x + 10} {200 - 30 * (-1) ** (x // 20)} {x + 20} 200" for x in range(20, 360, 20))
    body = f'<path d="{wave}L360 350L20 350Z" fill="#205080"/>'
    picture = draw(body, 400)
    nodes, means = [], []
    for smoothness in (0.005, 0.1, 0.5):
        result = Pipeline(0).run(picture, Recipe().with_("trace", smoothness=smoothness))
        nodes.append(result.stack.layers[0].path.nodes)
        means.append(result.finished.curves.deviation.mean.max())
    assert nodes[0] > nodes[2]
    assert means[0] < means[2]


def test_the_reader_of_svgelements_finds_the_same_length():
    _, result = traced('<circle cx="200" cy="200" r="100" fill="#205080"/>')
    text = svg_text(result.stack)
    data = text.split(' d="')[1].split('"')[0]
    assert SvgPath(data).length(error=1e-6) == pytest.approx(result.stack.layers[0].cut_length, rel=1e-4)
    # circumference of a circle, 2 pi r
    assert result.stack.layers[0].cut_length == pytest.approx(2 * np.pi * 100 / PX, rel=1e-3)


def hard(body: str, size: int = 400):
    """Trace shapes drawn without anti-aliasing."""
    soft = draw(body, size).rgba[..., :3]
    rgb = np.where((soft[..., :1] > 140), 255, np.array([32, 80, 128])).astype(np.uint8)
    recipe = Recipe().with_("finish", page="picture").with_("tidy", least_area=0.0)
    return Pipeline(0).run(picture_of(rgb), recipe).stack.layers[0].path


@pytest.mark.parametrize("radius", [12.3, 60.0, 150.7])
def test_a_circle_without_anti_aliasing_is_round_all_the_same(radius):
    path = hard(f'<circle cx="200.3" cy="199.6" r="{radius}" fill="#205080"/>')
    away = np.hypot(*(points_on(path) - (200.3, 199.6)).T) - radius
    assert path.nodes <= 8
    assert np.abs(away).max() < 0.75  # half the diagonal of a pixel is 0.71


@pytest.mark.parametrize("turn", [0, 4, 17, 30, 45])
def test_a_square_without_anti_aliasing_has_straight_sides(turn):
    path = hard(
        f'<rect x="100.4" y="99.7" width="200" height="200" fill="#205080" transform="rotate({turn} 200.4 199.7)"/>'
    )
    assert path.nodes <= 10
    angle = np.deg2rad(turn)
    x, y = (points_on(path) - (200.4, 199.7)).T
    across, up = x * np.cos(angle) + y * np.sin(angle), y * np.cos(angle) - x * np.sin(angle)
    away = np.abs(np.maximum(np.abs(across), np.abs(up)) - 100)
    assert np.percentile(away, 90) < 0.6  # half a pixel is all that such a picture tells
    assert away.max() < 1.5  # a corner may be a pixel off


@pytest.mark.parametrize("turn", [0, 20])
@pytest.mark.parametrize("radius", [9, 40])
def test_a_rounded_rectangle_keeps_to_its_outline(radius, turn):
    body = f'<rect x="60.3" y="80.7" width="270" height="200" rx="{radius}" fill="#205080"'
    path, _ = traced(f'{body} transform="rotate({turn} 200 200)"/>')
    inner = shapely.box(60.3 + radius, 80.7 + radius, 330.3 - radius, 280.7 - radius)
    true = shapely.affinity.rotate(inner.buffer(radius, quad_segs=64), turn, origin=(200, 200)).exterior
    assert shapely.distance(shapely.points(points_on(path)), true).max() < 0.15
    assert path.nodes <= 14


def test_an_arc_has_the_four_cubic_circles_error():
    # handbook value: a quarter circle as one cubic is off by at most 2.7e-4 of the radius
    angle = np.linspace(0.3, 0.3 + np.pi / 2, 80)
    points = np.stack([np.cos(angle), np.sin(angle)], 1) * 100
    none = np.full(80, 0.1)
    fit = fit_arcs(Track(points, none, points, none, none, none, none, none), np.array([0]), np.array([79]))
    t = np.linspace(0, 1, 500)[:, None]
    p = fit.control[0]
    curve = (1 - t) ** 3 * p[0] + 3 * t * (1 - t) ** 2 * p[1] + 3 * t * t * (1 - t) * p[2] + t**3 * p[3]
    assert 2.6e-2 < np.abs(np.hypot(*curve.T) - 100).max() < 2.8e-2
    assert fit.largest[0] < 1e-9


def test_a_round_shape_is_told_as_circular_arcs():
    _, result = traced('<circle cx="200.3" cy="199.6" r="80" fill="#205080"/>')
    assert result.curves.round.sum() == 4


def test_the_noise_that_was_put_in_is_measured():
    rng = np.random.default_rng(3)
    angle = np.arange(0, 2 * np.pi, 1 / 300)
    points = np.stack([np.cos(angle), np.sin(angle)], 1) * (300 + rng.normal(0, 0.1, len(angle)))[:, None]
    noise = measure_noise(points, np.ones(len(points), bool))
    assert noise.single == pytest.approx(0.1, rel=0.15)
    assert noise.mean == pytest.approx(0.1 / np.sqrt(11), rel=0.25)  # the standard error of a mean of eleven


def test_leaning_lines_are_squared_up_when_asked():
    body = (
        '<path d="M60 81 L330 83 L331 300 L59.5 299 Z" fill="#205080"/><circle cx="200" cy="200" r="40" fill="#fff"/>'
    )
    picture = draw(body, 400)
    base = Recipe().with_("finish", page="picture")
    for square, level in ((0.0, False), (1.0, True)):
        result = Pipeline(0).run(picture, base.with_("trace", square=square))
        outer = max((c for c in result.stack.layers[0].path.contours), key=lambda c: np.ptp(c[:, 0]))
        corners = outer[:-1:3]
        assert len(corners) == 4
        step = np.abs(np.diff(outer[::3], axis=0)).min(1)
        assert (step == 0).all() == level
    assert result.finished.curves.deviation.largest.max() > 0.2  # and what it costs is told


def test_a_line_that_bows_less_than_straightness_is_straight():
    picture = draw('<path d="M40 100 Q200 104 360 100 L360 300 L40 300 Z" fill="#205080"/>', 400)
    counts = []
    for straightness in (0.0, 1.0):
        result = Pipeline(0).run(picture, Recipe().with_("trace", straightness=straightness))
        counts.append((result.stack.layers[0].path.straight[0].sum(), result.stack.layers[0].path.nodes))
    assert counts[0][0] == 3
    assert counts[1] == (4, 4)


def test_corner_sharpness_says_which_turns_are_corners():
    angle = np.deg2rad(np.arange(0, 360, 45))  # an octagon turns by 45 degrees
    ring = " ".join(f"{200 + 150 * np.cos(a):.3f},{200 + 150 * np.sin(a):.3f}" for a in angle)
    picture = draw(f'<polygon points="{ring}" fill="#205080"/>', 400)
    for corner, sharp in ((24.0, True), (90.0, False)):
        result = Pipeline(0).run(picture, Recipe().with_("trace", corner=corner))
        assert bool(result.stack.layers[0].path.straight[0].all()) == sharp
