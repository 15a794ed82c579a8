"""Rims, gaps, overlaps and slips, against formulas and GEOS (by way of shapely)."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from sketchloom.core.curves import Path
from sketchloom.core.cut import flatten, refitted
from sketchloom.core.cut.grow import grown, left_of, overlapped
from sketchloom.core.job import Pipeline, Recipe, report_of
from sketchloom.core.layers import LayerRule, find_slip
from sketchloom.core.stock import Stock
from tests.conftest import FOUR_INKS, draw, tries

KAPPA = 0.5522847498307936
"""Handle of a quarter circle's cubic, 4 (sqrt 2 - 1) / 3: a textbook value."""


def circle(radius: float, x: float = 0.0, y: float = 0.0) -> Path:
    k = KAPPA
    ring = [[1, 0], [1, -k], [k, -1], [0, -1], [-k, -1], [-1, -k], [-1, 0], [-1, k], [-k, 1], [0, 1], [k, 1], [1, k]]
    points = np.array([*ring, ring[0]]) * radius + (x, y)
    return Path((points,), (np.zeros(4, bool),))


def polygon(points) -> Path:
    points = np.array(points, float)
    ends = np.roll(points, -1, axis=0)
    third = (ends - points) / 3
    ring = np.vstack([np.stack([points, points + third, ends - third], 1).reshape(-1, 2), points[:1]])
    return Path((ring,), (np.ones(len(points), bool),))


def apart(one, other) -> float:
    """Hausdorff distance of two outlines, measured every 0.02 mm."""
    lines = [shapely.segmentize(shape.boundary, 0.02) for shape in (one, other)]
    return float(shapely.hausdorff_distance(*lines))


def exact(path: Path, by: float, style: str):
    """Buffer by GEOS of a much finer polygon than ours."""
    rings = []
    for contour, straight in zip(path.contours, path.straight, strict=True):
        count = len(straight)
        control = contour[3 * np.arange(count)[:, None] + np.arange(4)]
        t = np.linspace(0, 1, 400)[:-1, None, None]
        s = 1 - t
        weights = s**3, 3 * s * s * t, 3 * s * t * t, t**3
        points = sum(weight * control[:, k] for k, weight in enumerate(weights))
        rings.append(points.transpose(1, 0, 2).reshape(-1, 2))
    whole = shapely.polygons(rings[0])
    return whole.buffer(by, quad_segs=200, join_style=style, mitre_limit=4)


SQUARE = polygon([(0, 0), (0, 20), (20, 20), (20, 0)])
HOUSE = polygon([(0, 10), (0, 40), (30, 40), (30, 10), (15, 0)])
ELL = polygon([(0, 0), (0, 20), (8, 20), (8, 8), (20, 8), (20, 0)])
CONVEX = {"circle": circle(12), "small circle": circle(2), "square": SQUARE, "house": HOUSE}


@pytest.mark.parametrize("name", CONVEX)
@pytest.mark.parametrize("rim", [0.3, 1.5, 6.0])
def test_a_round_rim_follows_steiners_formula(name, rim):
    # Steiner, 1840: a convex body of area A and outline L grown by d has the area A + L d + pi d^2
    path = CONVEX[name]
    out = refitted(grown(flatten(path).shape, rim))
    area = path.areas.sum() + path.length * rim + np.pi * rim**2
    assert out.areas.sum() == pytest.approx(area, rel=2e-3)
    rounded = {"square": 4, "house": 5}.get(name, 0)
    assert out.nodes <= 1.5 * path.nodes + 2 * rounded


@pytest.mark.parametrize("style", [("round", "round"), ("mitred", "mitre"), ("bevelled", "bevel")])
@pytest.mark.parametrize("by", [1.5, 0.4, -0.8])
def test_rims_and_gaps_lie_where_geos_puts_them(style, by):
    for path in (SQUARE, HOUSE, ELL, circle(9)):
        out = refitted(grown(flatten(path).shape, by, style[0]))
        assert apart(flatten(out).shape, exact(path, by, style[1])) < 0.02
        assert out.nodes <= 1.5 * path.nodes + 2 * len(path.straight[0])


@pytest.mark.parametrize("radius", [3.0, 10.0, 60.0])
def test_a_circle_drawn_in_loses_a_ring(radius):
    for gap in (0.3, 1.0):
        out = refitted(grown(flatten(circle(radius)).shape, -gap))
        assert out.areas.sum() == pytest.approx(np.pi * (radius - gap) ** 2, rel=2e-3)


BLOB = st.lists(st.tuples(st.floats(4, 12), st.floats(0.3, 1.0)), min_size=3, max_size=9)


@tries(40)
@given(BLOB, st.sampled_from([-0.5, 0.5, 1.5]))
def test_any_wavy_piece_grows_as_geos_says(blob, by):
    """Smooth closed curves through random points (Catmull and Rom, 1974), with bays that close when they grow."""
    angle = np.cumsum([step for _, step in blob])
    angle *= 2 * np.pi / (angle[-1] + 0.5)
    points = np.array([radius for radius, _ in blob])[:, None] * np.stack([np.cos(-angle), np.sin(-angle)], 1)
    slope = (np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)) / 6
    ends = np.roll(points, -1, axis=0)
    control = np.stack([points, points + slope, ends - np.roll(slope, -1, axis=0)], 1)
    path = Path((np.vstack([control.reshape(-1, 2), points[:1]]),), (np.zeros(len(points), bool),))
    flat = flatten(path)
    if not flat.shape.is_valid or flat.shape.geom_type != "Polygon" or path.areas[0] <= 0:
        return
    meant = exact(path, by, "round")
    if meant.is_empty:
        return
    assert apart(flatten(refitted(grown(flat.shape, by))).shape, meant) < 0.02


def test_what_an_outline_shares_with_its_source_stays_to_the_bit():
    path = circle(20)
    flat = flatten(path)
    half = shapely.intersection(flat.shape, shapely.box(-30, -30, 30, 5))
    cut = refitted(half, [flat])
    whole = {segment.tobytes() for segment in np.round(path.segments, 3) + 0.0}
    kept = [segment for segment in cut.segments if segment.tobytes() in whole]
    assert len(kept) == 2 and cut.nodes <= 6
    assert apart(flatten(cut).shape, half) < 0.01


def test_a_line_parts_the_plane_and_its_ends_run_on():
    side = left_of(np.array([[0.0, 0.0], [10.0, 0.0]]), 100.0)  # to the right, y down: the left hand is up
    assert side.contains(shapely.Point(-30, -5)) and side.contains(shapely.Point(40, -20))
    assert not side.contains(shapely.Point(5, 5))
    bent = left_of(np.array([[-10.0, 0.0], [0.0, 8.0], [10.0, 0.0]]), 100.0)
    assert bent.contains(shapely.Point(0, 5)) and not bent.contains(shapely.Point(0, 12))


MM = Recipe().with_("finish", page="picture", width=200.0).with_("tidy", least_area=0.0)


def slipped(shapes, slip: float):
    """Move each layer by the slip in 64 directions; what then shows of the ground that something should cover."""
    whole = shapely.union_all(shapes)
    shown = []
    for at, shape in enumerate(shapes):
        others = shapely.union_all([other for place, other in enumerate(shapes) if place != at])
        bare = whole.difference(others)
        for angle in 2 * np.pi * np.arange(64) / 64:
            by = slip * np.cos(angle), slip * np.sin(angle)
            moved = shapely.affinity.translate(shape, *by)
            meant = shapely.affinity.translate(whole, *by)  # along the outer edge all moves, and nothing opens
            shown.append(bare.intersection(meant).difference(moved))
    return shapely.union_all(shown)


def shapes_of(result):
    return [flatten(layer.path).shape for layer in result.stack.layers]


TILES = (
    '<rect x="20" y="20" width="160" height="160" fill="#3a2a33"/>'
    '<rect x="40" y="50" width="60" height="90" fill="#8e2a5b"/>'
    '<circle cx="130" cy="100" r="35" fill="#4f8a4b"/><path d="M130 20h50v60z" fill="#f2e6cf"/>'
)


@pytest.mark.parametrize("body", [FOUR_INKS, TILES])
@pytest.mark.parametrize("slip", [0.3, 1.0])
def test_the_gaps_of_a_slip_are_those_of_layers_moved_in_64_directions(body, slip):
    picture = draw(body)
    result = Pipeline(0).run(picture, MM.with_("layers", slip=slip))
    moved = slipped(shapes_of(result), slip)
    found = result.slip
    assert found.area == pytest.approx(moved.area, rel=0.02)
    assert found.many == len([part for part in shapely.get_parts(moved) if part.area > 0.01])
    assert found.overlap == pytest.approx(slip, abs=0.05)
    hidden = Pipeline(0).run(picture, MM.with_("layers", slip=slip, overlap=found.overlap))
    assert slipped(shapes_of(hidden), slip).area < 0.01 * moved.area
    assert hidden.slip.many == 0 and hidden.slip.overlap == 0
    auto = Pipeline(0).run(picture, MM.with_("layers", slip=slip, overlap="auto"))
    assert report_of(auto)["slip"] == {"gaps": 0, "area_mm2": 0.0, "overlap_mm": 0.0}


@pytest.mark.parametrize("build", ["carried", "backed"])
def test_layers_that_rest_on_others_show_no_gap(build):
    result = Pipeline(0).run(draw(FOUR_INKS), MM.with_("layers", build=build, slip=1.0))
    assert result.slip.many == 0
    assert slipped(shapes_of(result), 1.0).area < 0.05


def test_film_that_shrinks_opens_seams_farther():
    one, other = shapely.box(0, 0, 50, 40), shapely.box(50, 0, 100, 40)
    still = find_slip([one, other], 0.5, [0.0, 0.0])
    shrinking = find_slip([one, other], 0.5, [1.0, 1.0])
    assert still.area == pytest.approx(2 * 0.5 * 40, rel=0.01)
    reach = 0.5 + 0.01 * np.hypot(25, 20)  # a piece shrinks to its middle
    assert shrinking.area == pytest.approx(2 * reach * 40, rel=0.01)
    assert shrinking.overlap == pytest.approx(reach, abs=0.03)


def test_an_overlap_stays_under_what_hides_it():
    under, over = shapely.box(0, 0, 10, 10), shapely.box(10, 2, 12, 8)
    out = overlapped(under, over, 3.0)
    assert out.area == pytest.approx(100 + 2 * 6)
    assert shapely.difference(out, shapely.union(under, over)).area < 1e-9


def test_a_backed_decal_has_a_rim_a_gap_and_stiffeners():
    body = '<circle cx="100" cy="100" r="60" fill="#3a2a33"/>'
    rules = (LayerRule("base", copies=2, name="Chipboard"),)
    layers = {"build": "backed", "rim": 2.0, "rim_gap": 0.5, "rules": rules, "base_colour": (250, 240, 10)}
    stack = Pipeline(0).run(draw(body), Recipe().with_("finish", width=120.0).with_("layers", **layers)).stack
    assert [layer.name for layer in stack.layers] == ["Chipboard", "Chipboard copy 1", "Chipboard copy 2", "Soot"]
    assert [layer.area / np.pi for layer in stack.layers] == pytest.approx([62**2] * 3 + [59.5**2], rel=2e-3)
    assert stack.layers[0].ink.hex == "#faf00a"
    assert stack.size == pytest.approx((124, 124), abs=0.05)  # the page holds the rim
    boxes = np.array([layer.path.bounds for layer in stack.layers])
    assert boxes[:, :2].min() >= 0 and boxes[:, 2:].max() <= 124.05
    assert (boxes[0][:2] + boxes[0][2:]) / 2 == pytest.approx((boxes[3][:2] + boxes[3][2:]) / 2, abs=0.02)


def test_a_stock_that_shrinks_asks_for_more_overlap():
    film = Stock("Film", "heat-transfer film", carrier=True, shrink=1.0)
    plain = Pipeline(0).run(draw(TILES), MM.with_("layers", slip=0.5)).slip
    shrinks = Pipeline(0).run(draw(TILES), MM.with_("layers", slip=0.5, stock=film)).slip
    assert shrinks.overlap > plain.overlap + 0.5
    auto = Pipeline(0).run(draw(TILES), MM.with_("layers", slip=0.5, stock=film, overlap="auto")).slip
    assert auto.many == 0


def test_both_sides_of_an_edge_get_the_same_points():
    """Else an overlay of two neighbours would leave slivers along their edge."""
    path = Path(tuple(np.round(c * 1.37 + 0.123, 3) for c in circle(17).contours), circle(17).straight)
    one, other = flatten(path).points, flatten(path.reversed()).points
    assert {tuple(point) for point in one.tolist()} == {tuple(point) for point in other.tolist()}


def test_a_sliver_of_what_lies_below_is_no_gap():
    below, over = shapely.box(19.9, 0, 20.0005, 10), shapely.box(0, 0, 20, 10)
    assert find_slip([below, over], 0.5, [0.0, 0.0]).many == 0
