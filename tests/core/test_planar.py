"""The planar map is valid on any label map, and flush layers are watertight."""

import numpy as np
from fontTools.pens.areaPen import AreaPen
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from scipy import ndimage
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from sketchloom.core.curves import Bounds, drawn_apart, trace_arcs
from sketchloom.core.layers import LayerSettings, build_layers, finish, plan_layers
from sketchloom.core.layers.build import outline_path
from sketchloom.core.planar import planar_map, sample_edges
from sketchloom.core.planar.planarmap import EAST
from sketchloom.core.regions import LabelMap
from sketchloom.core.scale import FinishSettings, Scale
from tests.conftest import palette_of

PALETTE = palette_of((200, 30, 40), (30, 120, 60), (20, 40, 160))
SMALL = arrays(np.uint8, st.tuples(st.integers(1, 12), st.integers(1, 12)), elements=st.integers(0, 3))


def regions_of(labels: np.ndarray, noise: int = 0) -> LabelMap:
    """A label map with evidence of its own, spoilt by seeded noise."""
    mix = np.array([[255, 255, 255], [200, 30, 40], [30, 120, 60], [20, 40, 160]], float)
    rng = np.random.default_rng(labels.size)
    evidence = mix[labels] + rng.integers(-noise, noise + 1, (*labels.shape, 3))
    evidence = np.dstack([np.clip(evidence, 0, 255), np.full(labels.shape, 255)]).astype(np.uint8)
    return LabelMap(labels, tuple(ink.key for ink in PALETTE), evidence, labels, mix)


@given(SMALL)
def test_eulers_formula_holds(labels):
    # V - E + F = 1 + C for a plane graph with C components (Euler; any textbook of graph theory)
    planar = planar_map(labels)
    vertices, arcs = len(planar.vertices), len(planar.tail)
    graph = coo_array((np.ones(arcs), (planar.tail, planar.head)), (vertices, vertices))
    components = connected_components(graph, directed=False)[0]
    assert vertices - arcs + len(planar.faces.label) == 1 + components


@given(SMALL)
def test_faces_are_the_four_connected_regions(labels):
    planar = planar_map(labels)
    count = 0
    for label in np.unique(labels):
        parts, found = ndimage.label(labels == label)
        count += found
        sizes = sorted(np.bincount(parts.ravel())[1:].tolist())
        ours = planar.faces.area[1:][planar.faces.label[1:] == label]
        assert sizes == sorted(ours.tolist())
    assert count == len(planar.faces.label) - 1
    for face in range(1, count + 1):
        x, y = planar.faces.inside[face]
        assert labels[int(y), int(x)] == planar.faces.label[face]


@given(SMALL)
def test_junctions_have_three_or_four_arcs_and_loops_one_vertex(labels):
    planar = planar_map(labels)
    ends = np.bincount(np.concatenate([planar.tail, planar.head]), minlength=len(planar.vertices))
    assert (ends == planar.degree).all()
    assert ((planar.degree >= 2) & (planar.degree <= 4)).all()
    assert (planar.tail == planar.head)[planar.loops].all()


@given(SMALL)
def test_loops_begin_in_their_first_row_and_set_out_to_the_east(labels):
    # a convention of ours: what does not hang on a junction needs a place and a way to begin, the same each time
    planar = planar_map(labels)
    for arc in np.flatnonzero(planar.loops):
        own = slice(planar.offset[arc], planar.offset[arc + 1])
        first = planar.corner[own][0]
        assert planar.heading[own][0] == EAST
        assert tuple(first[::-1]) == min(tuple(corner[::-1]) for corner in planar.corner[own])


@given(SMALL, st.integers(0, 60))
def test_flush_layers_are_watertight(labels, noise):
    regions = regions_of(labels, noise)
    planar = planar_map(labels)
    curves = drawn_apart(planar, trace_arcs(planar, sample_edges(planar, regions), Bounds(0.3)))
    total = 0.0
    used: dict[int, list[np.ndarray]] = {}
    for label in range(4):
        half_edges, offset = planar.outline(np.append(False, planar.faces.label[1:] == label))
        pen = AreaPen()
        outline_path(curves, half_edges, offset).draw(pen)
        total += abs(pen.value)
        for half in half_edges.tolist():
            begin = 3 * curves.offset[half // 2] + half // 2
            points = curves.points[begin : begin + 3 * int(np.diff(curves.offset)[half // 2]) + 1]
            used.setdefault(half // 2, []).append(points if half % 2 == 0 else points[::-1])
    # fontTools' AreaPen, before rounding, against the picture's area
    assert abs(total - labels.size) <= 1e-6 * labels.size
    for arc, drawn in used.items():
        if len(drawn) == 2:
            assert np.array_equal(drawn[0], drawn[1][::-1])
        else:
            assert len(drawn) == 1
            assert 0 in (planar.left[arc], planar.right[arc])


def test_a_notch_at_the_frame_keeps_its_area_where_its_handles_lean_out():
    # its curve leaves and arrives along the notch's sides, against the short chord: no spur
    labels = np.ones((3, 11), np.uint8)
    labels[1:, 2] = 0
    planar = planar_map(labels)
    curves = trace_arcs(planar, sample_edges(planar, regions_of(labels, 34)), Bounds(0.3))
    half_edges, offset = planar.outline(np.append(False, planar.faces.label[1:] == 0))
    assert outline_path(curves, half_edges, offset).areas.sum() > 1.0


@given(SMALL)
def test_neighbouring_layers_share_their_arcs_to_the_bit_in_mm(labels):
    labels = labels.copy()
    labels[0, 0] = 1
    regions = regions_of(labels, 20)
    planar = planar_map(labels)
    curves = trace_arcs(planar, sample_edges(planar, regions), Bounds(0.3))
    done = finish(planar, curves, FinishSettings(page="picture", width=100.0), Scale(1.0))
    stack = build_layers(planar, done.curves, plan_layers(planar, regions.keys, PALETTE, LayerSettings()), done.size)
    sides: dict[bytes, int] = {}
    for layer in stack.layers:
        for contour in layer.path.contours:
            for i in range(0, len(contour) - 1, 3):
                segment = contour[i : i + 4]
                ends = segment[[0, 3]]
                assert np.array_equal(ends, np.round(ends, 3))
                one, other = segment.tobytes(), np.ascontiguousarray(segment[::-1]).tobytes()
                sides[min(one, other)] = sides.get(min(one, other), 0) + 1
    segment_of_arc = np.repeat(np.arange(len(planar.left)), np.diff(done.curves.offset))
    inks_beside = (planar.faces.label[planar.left] > 0).astype(int) + (planar.faces.label[planar.right] > 0)
    written = sum(len(c) // 3 for layer in stack.layers for c in layer.path.contours)
    assert written == int(inks_beside[segment_of_arc].sum()) - _same_ink_twice(planar, segment_of_arc)


def _same_ink_twice(planar, segment_of_arc) -> int:
    same = (planar.faces.label[planar.left] == planar.faces.label[planar.right]) & (planar.faces.label[planar.left] > 0)
    return int(2 * same[segment_of_arc].sum())
