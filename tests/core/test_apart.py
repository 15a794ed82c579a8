"""Outlines that cannot cross, whatever the picture; GEOS (shapely) says whether they do."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy.optimize import isotonic_regression

from sketchloom.core.curves import arc_piece, drawn_apart, face_areas, find_crossings
from sketchloom.core.curves.apart.cracks import crack_line, homes, rising
from sketchloom.core.curves.path import points_at
from sketchloom.core.curves.pieces import with_arcs
from sketchloom.core.curves.work import edit_of
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.planar import planar_map
from tests.conftest import picture_of
from tests.crossing import HARD, crossed, traced_map

SMALL = arrays(np.uint8, st.tuples(st.integers(2, 14), st.integers(2, 14)), elements=st.integers(1, 3))


def apart(planar, curves):
    """Whether no curves cross and every face has an area, together that of the picture."""
    areas = face_areas(planar, curves)[1:]
    assert (areas > 0).all() and areas.sum() == pytest.approx(planar.shape[0] * planar.shape[1])
    return not len(crossed(curves.segments))


# the search


def cubic(*points):
    return np.array(points, float)


def test_crossings_of_two_cubics_are_found_where_geos_finds_them():
    random = np.random.default_rng(5)
    segments = random.uniform(0, 10, (60, 4, 2))
    ours, theirs = find_crossings(segments).place, crossed(segments)
    assert len(theirs) > 100
    near = shapely.STRtree(shapely.points(ours)).query(shapely.points(theirs), predicate="dwithin", distance=0.05)[0]
    assert len(np.unique(near)) >= 0.99 * len(theirs) and len(ours) <= 2.05 * len(theirs)  # each is told by both steps


def test_one_cubic_that_loops_crosses_itself():
    found = find_crossings(cubic((0, 0), (9, 6), (-5, 6), (4, 0))[None])
    assert np.unique(found.segments, axis=0).tolist() == [[0, 0]]
    np.testing.assert_allclose(found.place[0, 0], 2.0, atol=0.01)  # by symmetry


def test_curves_that_share_an_end_and_lines_that_touch_do_not_cross():
    one = cubic((0, 0), (1, 2), (3, 2), (4, 0))
    smooth = cubic((4, 0), (5, -2), (7, -2), (8, 0))
    line = cubic((4, 0), (5, 1), (6, 2), (7, 3))
    assert not len(find_crossings(np.stack([one, smooth, line, one[::-1]])).place)


def test_two_arcs_of_one_junction_that_cross_again_are_found():
    one = cubic((0, 0), (2, 0), (4, 0), (6, 0))
    other = cubic((0, 0), (1, 1), (4, 1), (6, -2))
    assert np.unique(find_crossings(np.stack([one, other])).segments, axis=0).tolist() == [[0, 1]]


# the crack line


@given(SMALL)
def test_crack_lines_share_nothing_but_their_vertices(labels):
    planar = planar_map(labels)
    lines = [shapely.linestrings(crack_line(planar, arc)) for arc in range(len(planar.tail))]
    vertices = shapely.multipoints(planar.vertices.astype(float))
    for i, line in enumerate(lines):
        assert line.is_simple
        for other in lines[:i]:
            met = line.intersection(other)
            assert met.is_empty or (met.geom_type in ("Point", "MultiPoint") and vertices.covers(met))


def test_points_on_one_side_of_a_stroke_a_pixel_wide_do_not_belong_to_the_other():
    labels = np.ones((9, 40), np.uint8)
    labels[4, 5:35] = 2
    planar = planar_map(labels)
    arc = int(np.flatnonzero((planar.left > 0) & (planar.right > 0))[0])
    line = crack_line(planar, arc)
    walk = np.concatenate([np.linspace(5, 35, 60, endpoint=False), np.linspace(35, 5, 60)])
    y = np.repeat([4.7, 4.3], 60)  # each side lies nearer to the other's crack than to its own
    points = np.column_stack([walk, y])
    found = homes(line, np.vstack([points, points[:1]]), True)
    assert (np.diff(found.along) >= 0).all()
    places = found.places()
    assert (np.abs(places[4:56, 1] - 4) < 0.1).all() and (np.abs(places[64:116, 1] - 5) < 0.1).all()


# drawing apart


@given(SMALL)
def test_no_small_map_has_outlines_that_cross(labels):
    planar, curves = traced_map(labels)
    assert apart(planar, drawn_apart(planar, curves))


@given(SMALL, st.integers(0, 10_000))
def test_curves_thrown_about_are_drawn_apart_and_still_meet(labels, seed):
    planar, curves = traced_map(labels)
    random = np.random.default_rng(seed)
    thrown = {}
    for arc in range(len(planar.tail)):
        piece = arc_piece(curves, arc)
        control = piece.control.copy()
        if 0 not in (planar.left[arc], planar.right[arc]):
            control[:, 1:3] += random.normal(0, 1.5, (len(control), 2, 2))
        thrown[arc] = piece._replace(control=control, straight=np.zeros(len(control), bool))
    mended = drawn_apart(planar, with_arcs(curves, thrown))
    assert apart(planar, mended)
    ends: dict[int, set] = {}
    for arc in range(len(planar.tail)):
        control = arc_piece(mended, arc).control
        assert (control[1:, 0] == control[:-1, 3]).all()
        ends.setdefault(int(planar.tail[arc]), set()).add(tuple(control[0, 0].tolist()))
        ends.setdefault(int(planar.head[arc]), set()).add(tuple(control[-1, 3].tolist()))
    assert all(len(places) == 1 for places in ends.values())


def test_curves_that_do_not_cross_stay_as_they_are():
    planar, curves = traced_map(np.kron([[1, 2], [3, 1]], np.ones((6, 6))).astype(np.uint8))
    assert drawn_apart(planar, curves) is curves


def test_what_crosses_is_mended_where_it_is_and_nowhere_else():
    labels = np.ones((40, 120), np.uint8)
    labels[18:22] = 2  # a level band
    planar, curves = traced_map(labels)
    edges = np.flatnonzero((planar.left > 0) & (planar.right > 0))
    piece = arc_piece(curves, int(edges[0]))
    line = piece.control[0, 0], piece.control[-1, 3]
    way = (line[1] - line[0]) / 12
    bowed = np.stack([line[0] + way * k / 3 for k in range(37)])  # twelve cubics, one of which reaches over the band
    control = np.stack([bowed[3 * k : 3 * k + 4] for k in range(12)])
    off = 8.0 if control[0, 0, 1] < 20 else -8.0
    control[6, 1:3, 1] += off
    crossing = with_arcs(curves, {int(edges[0]): piece._replace(control=control, straight=np.zeros(12, bool))})
    assert len(crossed(crossing.segments)) == 2
    mended = drawn_apart(planar, crossing)
    assert apart(planar, mended)
    drawn = points_at(arc_piece(mended, int(edges[0])).control, np.linspace(0, 1, 9)).reshape(-1, 2)
    away = np.abs(drawn[:, 1] - line[0][1])
    outside = (drawn[:, 0] < 50) | (drawn[:, 0] > 80)
    assert away[outside].max() < 1e-6
    assert 2.5 < away.max() < 4.0  # hardly less than the band is wide: the first place without a crossing


def test_a_face_turned_over_gets_an_area_back():
    labels = np.ones((9, 9), np.uint8)
    labels[4, 3:6] = 2
    planar, curves = traced_map(labels)
    arc = int(np.flatnonzero((planar.left > 0) & (planar.right > 0))[0])
    turned = with_arcs(curves, {arc: arc_piece(curves, arc).reversed()})
    assert face_areas(planar, turned).min() < -2
    assert apart(planar, drawn_apart(planar, turned))


def test_the_frame_stays_where_it_is():
    labels = np.ones((8, 16), np.uint8)
    labels[0, 5:10] = 2
    planar, curves = traced_map(labels)
    inner = int(np.flatnonzero((planar.left > 0) & (planar.right > 0))[0])
    piece = arc_piece(curves, inner)
    control = piece.control.copy()
    control[..., 1] *= -1  # out of the picture
    mended = drawn_apart(planar, with_arcs(curves, {inner: piece._replace(control=control)}))
    assert apart(planar, mended)
    outer = np.flatnonzero((planar.left == 0) | (planar.right == 0))
    for arc in outer.tolist():
        own = arc_piece(mended, arc).control.reshape(-1, 2)
        assert ((own[:, 0] == 0) | (own[:, 0] == 16) | (own[:, 1] == 0) | (own[:, 1] == 8)).all()


# the road


def layers_of(result):
    return [layer.path for layer in result.stack.layers]


@pytest.mark.parametrize("name", HARD)
@pytest.mark.parametrize("width", [60.0, 0.5])
def test_no_layer_of_a_hard_picture_has_outlines_that_cross(name, width):
    recipe = Recipe().with_("finish", page="picture", width=width).with_("separate", ground="keep", mode="flat")
    result = Pipeline(0).run(picture_of(HARD[name]), recipe)
    scale = width / result.planar.shape[1]
    covered = 0.0
    for path in layers_of(result):
        assert not len(crossed(path.segments / scale))
        covered += path.areas.sum()
    size = result.stack.size
    assert covered == pytest.approx(size[0] * size[1], rel=1e-6)
    assert (face_areas(result.planar, result.finished.curves)[1:] > 0).all()


@pytest.mark.parametrize("trace", [{"mirror": 0.8}, {"square": 12.0}, {"smoothness": 0.6}, {"straightness": 0.8}])
def test_nor_do_they_after_mirroring_squaring_and_smoothing(trace):
    for name in ("lines 1", "noise 1", "stars 2"):
        recipe = Recipe().with_("finish", page="picture", width=60.0).with_("trace", **trace)
        result = Pipeline(0).run(picture_of(HARD[name]), recipe)
        for path in layers_of(result):
            assert not len(crossed(path.segments))


def test_nor_where_a_hand_draws_one_outline_over_another():
    recipe = Recipe().with_("finish", page="picture", width=60.0)
    pipeline, picture = Pipeline(), picture_of(HARD["discs 1"])
    before = pipeline.run(picture, recipe)
    planar, curves = before.planar, before.curves
    arc = int(np.argmax(np.diff(curves.offset) * (planar.left > 0) * (planar.right > 0)))
    piece = arc_piece(curves, arc)
    middle = len(piece.control) // 2
    old = piece._replace(control=piece.control[middle : middle + 1], straight=piece.straight[middle : middle + 1])
    control = old.control.copy()
    control[0, 1:3] += (15.0, -20.0)
    new = old._replace(control=control, straight=np.zeros(1, bool))
    edit = edit_of("Node moved", planar, before.regions.keys, arc, old, new, before.picture.source_of)
    after = pipeline.run(picture, recipe.with_("trace", edits=(edit,)))
    assert not after.unplaced
    assert not np.array_equal(arc_piece(after.curves, arc).control, piece.control)
    assert not any(len(crossed(path.segments)) for path in layers_of(after))


@pytest.mark.parametrize(
    "layers",
    [
        {"build": "backed", "rim": 1.5},
        {"build": "flush", "overlap": 0.6},
        {"build": "carried"},
        {"build": "backed", "rim": 1.0, "rim_gap": 0.2},
        {"build": "single", "rim": 2.0},
    ],
)
@pytest.mark.parametrize("name", ["lines 1", "noise 1", "discs 2"])
def test_nor_where_layers_run_on_are_grown_or_drawn_in(name, layers):
    recipe = Recipe().with_("finish", page="picture", width=60.0).with_("layers", **layers)
    result = Pipeline(0).run(picture_of(HARD[name]), recipe)
    for path in layers_of(result):
        assert not len(crossed(path.segments))


@given(st.lists(st.integers(-50, 50) | st.floats(-1e3, 1e3), min_size=1, max_size=40))
def test_values_that_never_fall_are_those_of_scipy(values):
    given_values = np.array(values, float)
    assert np.allclose(rising(given_values), isotonic_regression(given_values).x, rtol=1e-9, atol=1e-9)
