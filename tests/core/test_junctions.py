"""Where outlines meet, and which run on: circles and lines whose equations are known, and any label map."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from sketchloom.core.curves.fit.junctions import place_vertices, run_through
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.planar import EdgeSamples, planar_map
from tests.conftest import draw, picture_of, tries


def traced(body: str):
    recipe = Recipe().with_("finish", page="picture").with_("separate", ground="keep").with_("tidy", least_area=0.0)
    return Pipeline(0).run(draw(body, 400), recipe)


def junctions_of(result):
    """Places of all vertices of degree 3 and more that are not on the frame."""
    planar = result.planar
    height, width = planar.shape
    x, y = planar.vertices.T
    inner = (planar.degree > 2) & (x > 0) & (x < width) & (y > 0) & (y < height)
    return run_through(planar, result.samples, place_vertices(planar, result.samples)), np.flatnonzero(inner)


def leaving(curves, end: int) -> np.ndarray:
    """Unit direction in which an arc leaves one of its ends."""
    arc = end // 2
    points = curves.points[3 * curves.offset[arc] + arc : 3 * curves.offset[arc + 1] + arc + 1]
    way = points[1] - points[0] if end % 2 == 0 else points[-2] - points[-1]
    return way / np.linalg.norm(way)


def on_segments(curves, arc: int) -> np.ndarray:
    t = np.linspace(0, 1, 40)[:, None, None]
    p = curves.segments[curves.offset[arc] : curves.offset[arc + 1]]
    at = (1 - t) ** 3 * p[:, 0] + 3 * t * (1 - t) ** 2 * p[:, 1] + 3 * t * t * (1 - t) * p[:, 2] + t**3 * p[:, 3]
    return at.reshape(-1, 2)


@pytest.mark.parametrize("turn", [0, 17, 45, 80])
def test_a_circle_runs_on_where_a_bar_ends_on_it(turn):
    bar = f'<rect x="200" y="176.3" width="180" height="47.4" fill="#c04030" transform="rotate({turn} 200.3 199.8)"/>'
    result = traced(bar + '<circle cx="200.3" cy="199.8" r="90.4" fill="#205080"/>')
    found, inner = junctions_of(result)
    assert len(inner) == 2
    ends = np.flatnonzero(found.partner.ravel() >= 0)
    assert len(ends) == 4  # the circle's two arcs run on into each other at both places
    for end in ends:
        assert leaving(result.curves, end) @ -leaving(result.curves, found.partner.ravel()[end]) > np.cos(np.radians(1))
    for arc in np.unique(ends // 2):
        away = np.hypot(*(on_segments(result.curves, arc) - (200.3, 199.8)).T) - 90.4
        assert np.abs(away).max() < 0.1
    away = np.hypot(*(found.place[inner] - (200.3, 199.8)).T) - 90.4
    assert np.abs(away).max() < 0.06


INKS = np.array([(32, 80, 128), (192, 64, 48), (112, 160, 80), (224, 176, 64)], float)


def sectors(middle: tuple[float, float], turns: list[float], size: int = 200, fine: int = 16):
    """Trace sectors about a middle, each pixel the mean of `fine` by `fine` samples: exact coverage, no seams."""
    rows = []
    x = (np.arange(size * fine) + 0.5) / fine - middle[0]
    for row in range(size):
        y = (np.arange(fine) + 0.5) / fine + row - middle[1]
        angle = np.degrees(np.arctan2(y[:, None], x)) % 360
        ink = np.searchsorted(turns, angle, "right") % len(turns)
        rows.append(INKS[ink].reshape(fine, size, fine, 3).mean((0, 2)))
    recipe = Recipe().with_("finish", page="picture").with_("separate", ground="keep").with_("tidy", least_area=0.0)
    return Pipeline(0).run(picture_of(np.rint(rows).astype(np.uint8)), recipe)


@pytest.mark.parametrize("turn", [8, 30, 61])
def test_lines_that_cross_stay_straight_and_meet_at_their_crossing(turn):
    result = sectors((101.3, 98.6), [turn, turn + 75, turn + 180, turn + 255])
    found, inner = junctions_of(result)
    assert np.hypot(*(found.place[inner] - (101.3, 98.6)).T).max() < 0.3
    framed = result.planar.left * result.planar.right == 0
    straight = np.add.reduceat(~result.curves.straight, result.curves.offset[:-1]) == 0
    assert straight[~framed].all()


@pytest.mark.parametrize("turn", [3, 20, 50])
def test_three_that_part_evenly_run_on_nowhere(turn):
    result = sectors((101.3, 98.6), [turn, turn + 120, turn + 240])
    found, inner = junctions_of(result)
    assert len(inner) == 1
    assert (found.partner < 0).all()
    assert np.hypot(*(found.place[inner[0]] - (101.3, 98.6))) < 0.1


@pytest.mark.parametrize("turn", [3, 20, 50])
def test_a_line_that_ends_on_a_line_leaves_it_straight(turn):
    result = sectors((101.3, 98.6), [turn, turn + 70, turn + 180])
    found, inner = junctions_of(result)
    assert len(inner) == 1
    assert (found.partner >= 0).sum() == 2
    across = np.array([-np.sin(np.radians(turn)), np.cos(np.radians(turn))])
    assert abs((found.place[inner[0]] - (101.3, 98.6)) @ across) < 0.03


@tries(40)
@given(hnp.arrays(np.uint8, (5, 7), elements=st.integers(1, 3)), st.sampled_from([0.0, 0.3]), st.integers(0, 2**32 - 1))
def test_fellows_know_each_other_and_meet_at_one_vertex(labels, scatter, seed):
    planar = planar_map(np.kron(labels, np.ones((6, 6), np.uint8)))  # arcs long enough to run on
    points = planar.corner + 0.5 + scatter * np.random.default_rng(seed).uniform(-1, 1, (len(planar.corner), 2))
    samples = EdgeSamples(points, np.ones(len(points)), planar.offset, *np.zeros((2, len(planar.tail))), True)
    place = place_vertices(planar, samples)
    found = run_through(planar, samples, place)
    partner, vertex = found.partner.ravel(), np.stack([planar.tail, planar.head], 1).ravel()
    ends = np.flatnonzero(partner >= 0)
    assert (partner[partner[ends]] == ends).all()
    assert (vertex[partner[ends]] == vertex[ends]).all()
    assert (partner[ends] != ends).all()
    assert np.hypot(*(found.place - place).T).max(initial=0) <= 0.4 + 1e-9
