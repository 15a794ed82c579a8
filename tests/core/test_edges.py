"""Where the edges truly run, against lines whose coverage is known exactly."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely.geometry import Point, Polygon, box

from sketchloom.core.curves import Bounds, trace_arcs
from sketchloom.core.planar import planar_map, sample_edges
from sketchloom.core.planar.coverage import coarseness, samples_of_a_pixel
from sketchloom.core.planar.stairs import GRAIN, behind_stairs
from sketchloom.core.regions import LabelMap
from tests.core.test_planar import regions_of

BLUE, WHITE = np.array([32.0, 80.0, 128.0]), np.array([255.0, 255.0, 255.0])
SIDE = 40


def covered(shape: Polygon) -> np.ndarray:
    """Share of each pixel that a shape covers, by GEOS's exact polygon overlay; (SIDE, SIDE)."""
    return np.array([[shape.intersection(box(x, y, x + 1, y + 1)).area for x in range(SIDE)] for y in range(SIDE)])


def art_of(share: np.ndarray) -> LabelMap:
    """Two-ink art with exactly that coverage."""
    rgb = np.rint(WHITE + share[..., None] * (BLUE - WHITE))
    labels = np.where(share > 0.5, 2, 1).astype(np.uint8)
    evidence = np.dstack([rgb, np.full(share.shape, 255)]).astype(np.uint8)
    return LabelMap(labels, ("#ffffff", "#205080"), evidence, labels, np.array([[0, 0, 0], WHITE, BLUE]))


def inner_samples(regions: LabelMap, margin: float = 4.0) -> np.ndarray:
    planar = planar_map(regions.labels)
    samples = sample_edges(planar, regions)
    inner = (samples.points > margin).all(1) & (samples.points < SIDE - margin).all(1)
    return samples.points[inner]


@pytest.mark.parametrize("slope", [0.0, 0.03, 1 / 7, 0.4, 0.9, 1.0])
@pytest.mark.parametrize("offset", [0.0, 0.2, 0.5, 0.77])
def test_a_straight_edge_is_found_within_a_fiftieth_of_a_pixel(slope, offset):
    middle = 20 + offset
    half_plane = Polygon(
        [(-5, middle - slope * 25), (SIDE + 5, middle + slope * (SIDE + 5 - 20)), (SIDE + 5, 999), (-5, 999)]
    )
    points = inner_samples(art_of(covered(half_plane)))
    away = (points[:, 1] - middle - slope * (points[:, 0] - 20)) / np.hypot(1, slope)
    assert len(points) > 20
    assert np.abs(away).mean() < 0.02
    assert np.abs(away).max() < 0.2 if slope > 0.5 else np.abs(away).max() < 0.05


@pytest.mark.parametrize("width", [0.9, 1.3, 1.8, 2.4])
@pytest.mark.parametrize("offset", [0.05, 0.3, 0.5])
def test_a_thin_bar_keeps_its_width(width, offset):
    top = 20 + offset
    regions = art_of(covered(box(0, top, SIDE, top + width)))
    if not (regions.labels == 2).any():
        pytest.skip("nothing of it is more than half covered")
    points = inner_samples(regions)
    upper, lower = (points[:, 1][points[:, 1] < top + width / 2], points[:, 1][points[:, 1] > top + width / 2])
    assert lower.mean() - upper.mean() == pytest.approx(width, abs=0.03)


def test_the_frame_is_where_the_picture_ends():
    labels = np.ones((6, 9), np.uint8)
    planar = planar_map(labels)
    points = sample_edges(planar, regions_of(labels, 30)).points
    on_frame = (points[:, 0] == 0) | (points[:, 0] == 9) | (points[:, 1] == 0) | (points[:, 1] == 6)
    assert on_frame.all()
    for corner in ((0, 0), (9, 0), (9, 6), (0, 6)):
        assert (points == corner).all(1).any()


def test_coverage_and_stairs_are_told_apart():
    edge = Polygon([(-5, 12), (SIDE + 5, 26), (SIDE + 5, 999), (-5, 999)])
    share = covered(edge)
    soft = sample_edges(planar_map(art_of(share).labels), art_of(share))
    hard_art = art_of((share > 0.5).astype(float))
    hard = sample_edges(planar_map(hard_art.labels), hard_art)
    assert soft.grain.max() == 0
    assert hard.grain.max() == GRAIN


@pytest.mark.parametrize("slope", [0.02, 0.11, 0.3, 0.5, 0.77, 0.97])
def test_the_line_behind_stairs_is_found(slope):
    edge = Polygon([(-5, 18 - slope * 25), (SIDE + 5, 18 + slope * (SIDE - 15)), (SIDE + 5, 999), (-5, 999)])
    regions = art_of((covered(edge) > 0.5).astype(float))
    planar = planar_map(regions.labels)
    inner = (planar.left > 0) & (planar.right > 0)
    points, arc = behind_stairs(planar, inner)
    points = points[inner[arc] & (points > 5).all(1) & (points < SIDE - 5).all(1)]
    away = (points[:, 1] - 18 - slope * (points[:, 0] - 20)) / np.hypot(1, slope)
    assert np.abs(away).max() < 0.5
    assert np.sqrt((away**2).mean()) < 0.3


def test_samples_lie_about_a_pixel_apart():
    regions = art_of(covered(Polygon([(5, 5), (35, 9), (30, 33), (8, 30)])))
    planar = planar_map(regions.labels)
    samples = sample_edges(planar, regions)
    for low, high in zip(samples.offset[:-1], samples.offset[1:], strict=True):
        step = np.linalg.norm(np.diff(samples.points[low:high], axis=0), axis=1)
        assert np.percentile(step, 95) < 2.1


def test_the_line_behind_the_stairs_of_a_disc_runs_all_round():
    """A loop is closed: points a pixel apart, on the circle, also across the place where it begins."""
    y, x = np.mgrid[0:SIDE, 0:SIDE] + 0.5
    regions = art_of((np.hypot(x - 20, y - 20) <= 12).astype(float))
    planar = planar_map(regions.labels)
    ring = (planar.left > 0) & (planar.right > 0)
    points, arc = behind_stairs(planar, ring)
    assert ring.sum() == 1 and (arc == np.flatnonzero(ring)[0]).all()
    assert np.abs(np.hypot(*(points - 20).T) - 12).max() < 0.6
    step = np.linalg.norm(points - np.roll(points, 1, axis=0), axis=1)
    assert step.min() > 0.7 and step.max() < 1.3


@pytest.mark.parametrize("soft", [0.3, 5.0])
def test_a_small_outline_is_followed_more_closely_than_a_soft_picture_asks(soft):
    radius = 6.0
    regions = replace(art_of(covered(Point(20, 20).buffer(radius, 64))), soft=soft)
    planar = planar_map(regions.labels)
    grain = sample_edges(planar, regions).grain[planar.loops]
    # twice the area of a disc over its circumference is its radius
    assert grain.min() == pytest.approx(min(soft, 0.15 * radius), rel=0.1)


def test_a_line_thinner_than_a_pixel_keeps_its_width_beside_the_frame():
    """Its shortfall is shared by both edges, also where but one pixel lies beyond it."""
    share = covered(box(38.1, -1, 38.9, SIDE + 1))
    regions = art_of(share)
    planar = planar_map(regions.labels)
    samples = sample_edges(planar, regions)
    upright = samples.points[(np.abs(samples.points[:, 0] - 38.5) < 1) & (samples.points[:, 1] % 1 == 0.5)]
    left, right = upright[upright[:, 0] < 38.5, 0], upright[upright[:, 0] > 38.5, 0]
    assert len(left) >= 30 and len(right) >= 30
    assert left == pytest.approx(38.1, abs=0.02) and right == pytest.approx(38.9, abs=0.02)


def sampled(shape: Polygon, side: int) -> np.ndarray:
    """Share of each pixel by side x side samples on a grid, as renderers without exact coverage take; (SIDE, SIDE)."""
    at = (np.arange(SIDE * side) + 0.5) / side
    x, y = np.meshgrid(at, at)
    inside = shapely.contains_xy(shape, x, y)
    return inside.reshape(SIDE, side, SIDE, side).mean((1, 3))


@pytest.mark.parametrize(("side", "samples"), [(2, 4), (4, 16)])
def test_coverage_by_few_samples_is_told(side, samples):
    disc = Point(20.3, 19.8).buffer(15, quad_segs=64)
    assert samples_of_a_pixel(art_of(sampled(disc, side))) == samples
    assert coarseness(art_of(sampled(disc, side))) > 0.09


def test_exact_coverage_and_a_level_edge_are_not_taken_for_few_samples():
    for shape in (
        Point(20.3, 19.8).buffer(15, quad_segs=64),
        box(7.25, 7.5, 30.25, 30.75),
        Polygon([(3, 5), (36, 9), (20, 37)]),
    ):
        assert coarseness(art_of(covered(shape))) == 0


def test_coarse_coverage_makes_few_more_nodes():
    disc = Point(20.3, 19.8).buffer(15, quad_segs=64)
    nodes = []
    for share in (covered(disc), sampled(disc, 4)):
        regions = art_of(share)
        planar = planar_map(regions.labels)
        nodes.append(len(trace_arcs(planar, sample_edges(planar, regions), Bounds(0.01)).straight))
    assert nodes[1] <= nodes[0] + 4
