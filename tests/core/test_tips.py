"""Junctions whose arcs cross beside them move to where they cross; GEOS counts the crossings."""

import cv2
import numpy as np
import pytest
import shapely

from sketchloom.core.curves import face_areas, tips_uncrossed
from sketchloom.core.curves.arcs import arc_piece
from sketchloom.core.curves.path import points_at
from sketchloom.core.job import Pipeline, Recipe
from tests.conftest import picture_of
from tests.crossing import traced_map

THIN = [103, 113, 116, 124, 135, 151, 174, 204, 222, 256, 302, 304, 339, 358, 380]
"""Seeds of maps in which two arcs cross beside a junction."""


def thin_tips(seed):
    """Two grounds and a triangle of a third ink over their border, coarse: its tips are thin."""
    return traced_map(thin_labels(seed))


def thin_labels(seed):
    rng = np.random.default_rng(seed)
    labels = np.ones((24, 24), np.uint8)
    labels[int(rng.integers(8, 16)) :] = 2
    corners = [[4, rng.integers(8, 16)], [20, rng.integers(8, 16)], [rng.integers(8, 22), rng.integers(4, 20)]]
    return cv2.fillPoly(labels, [np.array(corners, np.int32)], 3)


def lines_of(curves):
    pieces = [arc_piece(curves, arc) for arc in range(len(curves.offset) - 1)]
    return [shapely.linestrings(points_at(piece.control, np.linspace(0, 1, 33)).reshape(-1, 2)) for piece in pieces]


def crossings(planar, curves):
    """Places within 2 px of a junction where two of its arcs cross, by GEOS."""
    lines, out = lines_of(curves), []
    for one in range(len(lines)):
        for other in range(one):
            ends = {*lines[one].boundary.geoms} & {*lines[other].boundary.geoms}
            met = shapely.get_parts(lines[one].intersection(lines[other]))
            out += [at for at in met if any(0.02 < at.distance(end) < 2 for end in ends)]
    return out


@pytest.mark.parametrize("seed", THIN)
def test_arcs_no_longer_cross_beside_their_junctions(seed):
    planar, curves = thin_tips(seed)
    assert crossings(planar, curves)
    mended = tips_uncrossed(planar, curves)
    assert not crossings(planar, mended)
    before, after = face_areas(planar, curves), face_areas(planar, mended)
    assert np.abs(after - before)[1:].max() < 2.5 and (after[1:] > 0).all()
    assert after[1:].sum() == pytest.approx(24 * 24)


@pytest.mark.parametrize("turn", [np.fliplr, np.flipud, np.transpose])
@pytest.mark.parametrize("seed", THIN[::5])
def test_it_is_the_same_whichever_way_the_tips_point(seed, turn):
    planar, curves = traced_map(np.ascontiguousarray(turn(thin_labels(seed))))
    assert not crossings(planar, tips_uncrossed(planar, curves))


@pytest.mark.parametrize("seed", [103, 256, 339])
def test_a_picture_is_traced_without_crossings_beside_junctions(seed):
    colours = np.array([(0, 0, 0), (240, 235, 225), (40, 60, 150), (190, 40, 40)], np.uint8)
    result = Pipeline(0).run(picture_of(colours[thin_labels(seed)]), Recipe())
    assert len(result.palette.inks) == 3 and not crossings(result.planar, result.curves)


@pytest.mark.parametrize("seed", [88, 122, 165])
def test_no_face_loses_half_of_what_it_has(seed):
    planar, curves = thin_tips(seed)
    before, after = face_areas(planar, curves)[1:], face_areas(planar, tips_uncrossed(planar, curves))[1:]
    assert (after > before / 2).all()


@pytest.mark.parametrize("seed", [25, 112, 164, 182])
def test_junctions_on_the_frame_stay_on_it(seed):
    rng = np.random.default_rng(seed)
    labels = np.ones((24, 24), np.uint8)
    x = int(rng.integers(3, 14))
    tip = [[x, 0], [x + rng.integers(1, 5), 0], [x + rng.integers(0, 6), rng.integers(6, 20)]]
    planar, curves = traced_map(cv2.fillPoly(labels, [np.array(tip, np.int32)], 3))
    mended = tips_uncrossed(planar, curves)
    for arc in range(len(planar.tail)):
        control = arc_piece(mended, arc).control
        for vertex, at in ((planar.tail[arc], control[0, 0]), (planar.head[arc], control[-1, 3])):
            assert planar.vertices[vertex, 1] > 0 or at[1] == 0


@pytest.mark.parametrize("seed", THIN[::4])
def test_all_arcs_of_a_junction_still_meet_there_and_the_frame_stays(seed):
    planar, curves = thin_tips(seed)
    mended = tips_uncrossed(planar, curves)
    ends: dict[int, set] = {}
    for arc in range(len(planar.tail)):
        control = arc_piece(mended, arc).control
        assert (control[1:, 0] == control[:-1, 3]).all()
        ends.setdefault(int(planar.tail[arc]), set()).add(tuple(control[0, 0].tolist()))
        ends.setdefault(int(planar.head[arc]), set()).add(tuple(control[-1, 3].tolist()))
    assert all(len(places) == 1 for places in ends.values())
    framed = ((planar.vertices == 0) | (planar.vertices == 24)).any(1)
    for vertex in np.flatnonzero(framed).tolist():
        ((x, y),) = ends[vertex]
        assert x in (0, 24) or y in (0, 24)


@pytest.mark.parametrize("seed", [256, 339])
def test_samples_at_a_junction_go_with_it_and_the_others_are_measured_to_what_runs_there_now(seed):
    planar, curves = thin_tips(seed)
    mended = tips_uncrossed(planar, curves)
    deviation = mended.deviation
    changed = nearer = 0
    lines = lines_of(mended)
    for arc in range(len(planar.tail)):
        low, high = int(deviation.offset[arc]), int(deviation.offset[arc + 1])
        control = arc_piece(mended, arc).control
        if np.array_equal(control, arc_piece(curves, arc).control):
            continue
        changed += 1
        np.testing.assert_array_equal(deviation.place[[low, high - 1]], [control[0, 0], control[-1, 3]])
        away = [min(line.distance(shapely.Point(at)) for line in lines) for at in deviation.place[low:high]]
        own = [lines[arc].distance(shapely.Point(at)) for at in deviation.place[low:high]]
        assert (deviation.away[low:high] >= np.array(away) - 0.01).all()
        assert (deviation.away[low:high] <= np.array(own) + 0.01).all()
        nearer += (deviation.away[low:high] < np.array(own) - 0.1).sum()
    assert changed >= 3 and nearer


@pytest.mark.parametrize("seed", [52, 63, 209, 349])
def test_a_long_straight_edge_is_not_slanted_to_reach_where_others_cross(seed):
    """Beside a level line of about 190 px; slanted to its end, the faces change by 6 to 9 px."""
    rng = np.random.default_rng(seed)
    labels = np.ones((40, 220), np.uint8)
    labels[20:] = 2
    x = int(rng.integers(180, 205))
    corners = [[x, rng.integers(15, 20)], [x + rng.integers(0, 6), rng.integers(21, 26)]]
    corners.append([x + rng.integers(8, 14), rng.integers(18, 23)])
    cv2.fillPoly(labels, [np.array(corners, np.int32)], 3)
    planar, curves = traced_map(labels)
    mended = tips_uncrossed(planar, curves)
    assert mended is not curves
    assert np.abs(face_areas(planar, mended) - face_areas(planar, curves))[1:].max() < 1


def test_curves_that_do_not_cross_stay_as_they_are():
    planar, curves = traced_map(np.kron([[1, 2], [3, 1]], np.ones((6, 6))).astype(np.uint8))
    assert tips_uncrossed(planar, curves) is curves
