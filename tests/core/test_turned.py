"""Faces that curves turn over get an area back."""

import numpy as np

from sketchloom.core.curves import Bounds, Piece, arc_piece, faces_upright, trace_arcs
from sketchloom.core.curves.pieces import with_arcs
from sketchloom.core.planar import planar_map, sample_edges
from tests.core.test_planar import regions_of


def crossed_strip():
    """A strip of five pixels between two inks, with curves that put its two long edges in each other's place."""
    labels = np.ones((12, 16), np.uint8)
    labels[6:] = 2
    labels[5, 5:10] = 3
    planar, curves = traced_map(labels)
    face = int(np.flatnonzero(planar.faces.label == 3)[0])
    edges = np.flatnonzero((planar.left == face) | (planar.right == face))
    ways = [arc_piece(curves, int(arc)) for arc in edges]
    assert len(edges) == 2
    if planar.tail[edges[0]] != planar.tail[edges[1]]:
        ways = [way.reversed() for way in ways]
    return planar, with_arcs(curves, dict(zip(edges.tolist(), ways[::-1], strict=True))), face, edges


def traced_map(labels):
    regions = regions_of(labels)
    planar = planar_map(labels)
    return planar, trace_arcs(planar, sample_edges(planar, regions), Bounds(0.05))


def face_areas(planar, curves):
    under, count = curves.areas(), len(planar.faces.label)
    return np.bincount(planar.right, under, count) - np.bincount(planar.left, under, count)


def test_a_face_turned_over_becomes_a_hair_beside_its_longer_edge():
    planar, crossed, face, edges = crossed_strip()
    assert face_areas(planar, crossed)[face] < 0
    mended = faces_upright(planar, crossed)
    areas = face_areas(planar, mended)
    assert 0 < areas[face] < 0.5 and (areas[1:] > 0).all()
    np.testing.assert_allclose(areas[1:].sum(), planar.faces.area[1:].sum())
    long = edges[np.argmax(np.diff(planar.offset)[edges])]
    np.testing.assert_array_equal(arc_piece(mended, int(long)).control, arc_piece(crossed, int(long)).control)


def test_a_dot_turned_over_is_drawn_along_its_pixels():
    labels = np.ones((9, 9), np.uint8)
    labels[4, 3:6] = 2
    planar, curves = traced_map(labels)
    face = int(np.flatnonzero(planar.faces.label == 2)[0])
    arc = int(np.flatnonzero((planar.left == face) | (planar.right == face))[0])
    turned = with_arcs(curves, {arc: arc_piece(curves, arc).reversed()})
    assert face_areas(planar, turned)[face] < 0
    assert face_areas(planar, faces_upright(planar, turned))[face] == 3


def test_curves_that_keep_their_faces_stay_as_they_are():
    planar, curves = traced_map(np.kron([[1, 2], [3, 1]], np.ones((6, 6))).astype(np.uint8))
    assert faces_upright(planar, curves) is curves


def test_the_frame_stays_where_it_is():
    labels = np.ones((8, 16), np.uint8)
    labels[0, 5:10] = 2
    planar, curves = traced_map(labels)
    face = int(np.flatnonzero(planar.faces.label == 2)[0])
    inner = int(np.flatnonzero((planar.left > 0) & (planar.right > 0))[0])
    framed = int(
        np.flatnonzero(((planar.left == face) | (planar.right == face)) & (np.arange(len(planar.tail)) != inner))[0]
    )
    way = arc_piece(curves, framed)
    way = way if planar.tail[framed] == planar.tail[inner] else way.reversed()
    way = Piece(way.control - (0, 0.5) * ((np.arange(4) > 0) & (np.arange(4) < 3))[:, None], ~way.straight)
    turned = with_arcs(curves, {inner: way})
    assert face_areas(planar, turned)[face] < 0
    areas = face_areas(planar, faces_upright(planar, turned))[1:]
    assert (areas > 0).all()
    np.testing.assert_allclose(areas.sum(), labels.size, rtol=1e-12)
