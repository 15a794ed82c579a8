"""Faces that a hand has made: parts of one ink, and edges with exact samples of their own."""

import numpy as np
import pytest
import shapely

from sketchloom.core.curves import Bounds, trace_arcs
from sketchloom.core.layers import LayerSettings, build_layers, finish, plan_layers
from sketchloom.core.planar import planar_map, sample_edges
from sketchloom.core.regions import DrawnEdge, LabelMap, find_faces
from sketchloom.core.scale import FinishSettings, Scale
from sketchloom.core.tidy import clear_specks
from tests.conftest import palette_of

PALETTE = palette_of((200, 30, 40), (30, 120, 60))
KEYS = tuple(ink.key for ink in PALETTE)


def plate(side: int = 60, parts: np.ndarray | None = None, drawn: tuple = ()) -> LabelMap:
    """A square of one ink on ground."""
    labels = np.zeros((side, side), np.uint8)
    labels[10:50, 10:50] = 1
    mix = np.array([[255, 255, 255], [200, 30, 40], [30, 120, 60]], float)
    evidence = np.dstack([mix[labels], np.full(labels.shape, 255)]).astype(np.uint8)
    return LabelMap(labels, KEYS, evidence, labels, mix, parts, drawn)


def split_at(line: shapely.LineString, side: int = 60) -> np.ndarray:
    """Parts of pixels on the two sides of a line from top to bottom."""
    y, x = np.mgrid[0:side, 0:side] + 0.5
    edge = np.array([shapely.intersection(line, shapely.LineString([(0, v), (side, v)])).x for v in y[:, 0]])
    return (x > edge[:, None]).astype(np.uint16)


def test_a_split_between_two_pieces_of_one_ink_stands():
    parts = np.zeros((60, 60), np.uint16)
    parts[:, 30:] = 1
    regions = plate(parts=parts)
    faces, _ = find_faces(regions.cells)
    cut = faces.label == 1
    assert sorted(faces.area[cut].tolist()) == [800, 800]
    assert find_faces(plate().cells)[0].area[1:].tolist() == [60 * 60 - 1600, 1600]
    planar = planar_map(regions.cells)
    between = (planar.faces.label[planar.left] == 1) & (planar.faces.label[planar.right] == 1)
    assert between.sum() == 1


def test_the_layer_of_a_split_ink_has_no_cut_between_its_parts_but_two_faces():
    parts = np.zeros((60, 60), np.uint16)
    parts[:, 30:] = 1
    regions = plate(parts=parts)
    planar = planar_map(regions.cells)
    curves = trace_arcs(planar, sample_edges(planar, regions), Bounds(0.1))
    done = finish(planar, curves, FinishSettings(page="picture"), Scale(1.0))
    layer = build_layers(planar, done.curves, plan_layers(planar, KEYS, PALETTE, LayerSettings()), done.size).layers[0]
    assert layer.pieces == 1 and layer.faces.sum() == 2 and len(layer.path.contours) == 1


def test_specks_join_a_neighbour_with_its_part():
    parts = np.zeros((60, 60), np.uint16)
    parts[:, 30:] = 7
    regions = plate(parts=parts)
    labels = regions.labels.copy()
    labels[20:22, 40:42] = 2
    tidied = clear_specks(LabelMap(labels, KEYS, regions.evidence, labels, regions.mix, parts), 5).regions
    assert (tidied.labels == 1).sum() == 1600
    assert (tidied.parts[20:22, 40:42] == 7).all()


@pytest.mark.parametrize("slant", [0.0, 7.3, -21.0, 44.0])
def test_a_drawn_edge_is_cut_where_it_was_drawn(slant):
    """Against shapely: samples of the edge lie on the line, to a thousandth of a pixel."""
    line = shapely.LineString([(30.27 - slant / 2, -1), (30.27 + slant / 2, 61)])
    drawn = DrawnEdge(np.array(line.coords))
    regions = plate(parts=split_at(line), drawn=(drawn,))
    planar = planar_map(regions.cells)
    samples = sample_edges(planar, regions)
    faces = planar.faces.label
    inner = np.flatnonzero((faces[planar.left] == 1) & (faces[planar.right] == 1))
    assert len(inner) == 1
    own = samples.points[samples.offset[inner[0]] : samples.offset[inner[0] + 1]]
    assert shapely.distance(line, shapely.points(own)).max() < 1e-3
    curves = trace_arcs(planar, samples, Bounds(0.05))
    begin = 3 * curves.offset[inner[0]] + inner[0]
    nodes = curves.points[begin : begin + 3 * int(np.diff(curves.offset)[inner[0]]) + 1]
    assert shapely.distance(line, shapely.points(nodes)).max() < 0.05


def test_edges_that_only_cross_a_drawn_line_stay_where_the_picture_shows_them():
    line = shapely.LineString([(30.27, -1), (30.27, 61)])
    plain, drawn = plate(), plate(drawn=(DrawnEdge(np.array(line.coords)),))
    planar = planar_map(plain.cells)
    one, other = (sample_edges(planar, regions).points for regions in (plain, drawn))
    assert np.array_equal(one, other)


def test_a_closed_drawn_edge_is_met_all_round():
    turn = np.linspace(0, 2 * np.pi, 90, endpoint=False)
    circle = np.stack([30.2 + 12.4 * np.cos(turn), 29.8 + 12.4 * np.sin(turn)], 1)
    y, x = np.mgrid[0:60, 0:60] + 0.5
    parts = (np.hypot(x - 30.2, y - 29.8) < 12.4).astype(np.uint16)
    regions = plate(parts=parts, drawn=(DrawnEdge(circle, closed=True),))
    planar = planar_map(regions.cells)
    samples = sample_edges(planar, regions)
    arc = int(np.flatnonzero((planar.faces.label[planar.left] == 1) & (planar.faces.label[planar.right] == 1))[0])
    own = samples.points[samples.offset[arc] : samples.offset[arc + 1]]
    # a chord of 4 degrees lies within r (1 - cos 2 degrees) of its circle
    assert np.abs(np.hypot(*(own - [30.2, 29.8]).T) - 12.4).max() < 12.4 * (1 - np.cos(np.pi / 90)) + 1e-6
