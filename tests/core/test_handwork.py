"""Work by hand on curves: it is kept in the source, survives a new fit, or is listed as without a place."""

import numpy as np
import pytest

from sketchloom.core.curves import CurveEdit, arc_piece, edit_of, nearest_spot
from sketchloom.core.curves import work as hand
from sketchloom.core.curves.path import points_at
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, Recipe, decode_recipe, encode_recipe
from sketchloom.core.picture import on_picture, source_points
from tests.conftest import draw

SQUARE = '<rect x="100.4" y="99.7" width="200" height="200" fill="#205080"/>'
BEAN = '<path d="M100 200 C100 80 180 120 200 150 C220 180 300 60 310 200 C320 320 120 330 100 200Z" fill="#205080"/>'


@pytest.fixture
def run():
    pipeline = Pipeline()

    def trace(body, edits=(), **changes):
        recipe = Recipe().with_("finish", page="picture").with_("trace", edits=tuple(edits), **changes)
        return pipeline.run(draw(body, 400), recipe)

    return trace


def loop_of(result) -> int:
    """The one arc that is not the frame."""
    planar = result.planar
    return int(np.flatnonzero((planar.left > 0) & (planar.right > 0))[0])


def edit(result, what, change) -> CurveEdit:
    return edit_of(
        what, result.planar, result.regions.keys, change.arc, change.old, change.new, result.picture.source_of
    )


def nodes_of(result, arc) -> np.ndarray:
    return arc_piece(result.curves, arc).control[:, 0]


@pytest.mark.parametrize("place", [0, 1, 2, 3])
def test_a_corner_of_a_square_is_moved_and_the_rest_stays(run, place):
    before = run(SQUARE)
    arc = loop_of(before)
    old = nodes_of(before, arc)
    change = hand.node_moved(before.curves, hand.Node(arc, place), True, np.array([-12.0, 7.0]))
    after = run(SQUARE, [edit(before, "Node moved", change)])
    new = nodes_of(after, arc)
    assert after.unplaced == ()
    assert len(new) == 4
    gap = np.linalg.norm(new[:, None] - old[None], axis=2).min(0)
    assert sorted(np.round(gap, 3))[:3] == [0, 0, 0]
    wanted = old[place] + (-12, 7)
    assert np.linalg.norm(new - wanted, axis=1).min() < 0.01
    assert arc_piece(after.curves, arc).straight.all()
    assert after.curves.deviation.largest[arc] > 5  # what it costs is measured anew


def test_an_edit_survives_a_new_fit(run):
    before = run(BEAN)
    arc = loop_of(before)
    change = hand.node_moved(before.curves, hand.Node(arc, 1), True, np.array([9.0, 0.0]))
    kept = [edit(before, "Node moved", change)]
    moved = nodes_of(before, arc)[1] + (9, 0)
    for smoothness in (0.008, 0.05, 0.1):
        after = run(BEAN, kept, smoothness=smoothness)
        assert after.unplaced == ()
        assert np.linalg.norm(nodes_of(after, loop_of(after)) - moved, axis=1).min() < 0.01


def test_an_edit_is_told_by_the_middle_of_its_stretch(run):
    """Half way along in segments: inside the one of an odd number, at the node between two of an even one."""
    before = run(BEAN)
    spot = nearest_spot(before.curves, np.array([310.0, 200.0]), np.array([loop_of(before)]))
    for change in (
        hand.node_added(before.curves, spot),
        hand.node_moved(before.curves, hand.Node(loop_of(before), 1), True, np.array([9.0, 0.0])),
    ):
        told = on_picture(before.picture, [edit(before, "x", change).through])[0]
        count = len(change.old.control)
        middle = points_at(change.old.control[count // 2][None], np.array([0.5 * (count % 2)])).reshape(2)
        assert told == pytest.approx(middle, abs=1e-3)
        assert np.linalg.norm(told - change.old.control[[0, -1], [0, 3]], axis=1).min() > 1


def test_an_edit_whose_edge_is_gone_is_listed(run):
    before = run(BEAN)
    change = hand.node_deleted(before.curves, hand.Node(loop_of(before), 1), True)
    kept = [edit(before, "Node deleted", change)]
    assert run(SQUARE, kept).unplaced == (0,)
    other = BEAN.replace("#205080", "#a03020")  # another pair of inks
    assert run(other, kept).unplaced == (0,)


def test_a_node_added_changes_no_shape_and_one_deleted_hardly_any(run):
    before = run(BEAN)
    arc = loop_of(before)
    spot = nearest_spot(before.curves, np.array([310.0, 200.0]), np.array([arc]))
    after = run(BEAN, [edit(before, "Node added", hand.node_added(before.curves, spot))])
    count = len(nodes_of(before, arc))
    assert len(nodes_of(after, arc)) == count + 1
    assert after.curves.areas()[arc] == pytest.approx(before.curves.areas()[arc], abs=1e-3)
    added = int(np.argmin(np.linalg.norm(nodes_of(after, arc) - (310, 200), axis=1)))
    change = hand.node_deleted(after.curves, hand.Node(arc, added), True)
    again = run(BEAN, [edit(before, "Node added", hand.node_added(before.curves, spot)), edit(after, "x", change)])
    assert len(nodes_of(again, arc)) == count
    assert again.curves.areas()[arc] == pytest.approx(before.curves.areas()[arc], rel=2e-3)


def test_corners_and_smooth_nodes(run):
    before = run(BEAN)
    arc = loop_of(before)
    node = hand.Node(arc, 2)
    corner = hand.made_corner(before.curves, node, True)
    assert turn_at_middle(corner.new) > 0.05
    after = run(BEAN, [edit(before, "Corner made", corner)])
    place = int(np.argmin(np.linalg.norm(nodes_of(after, arc) - nodes_of(before, arc)[2], axis=1)))
    smooth = hand.made_smooth(after.curves, hand.Node(arc, place), True)
    assert turn_at_middle(smooth.new) < 1e-6


def turn_at_middle(piece) -> float:
    before, after = piece.control[0, 3] - piece.control[0, 2], piece.control[1, 1] - piece.control[1, 0]
    return abs(float(np.arctan2(before[0] * after[1] - before[1] * after[0], before @ after)))


@pytest.mark.parametrize("work", ["straightened", "closed_by_curve", "smoothed"])
@pytest.mark.parametrize("turned", [False, True])
def test_a_stretch_between_two_places_is_drawn_anew(run, work, turned):
    before = run(BEAN)
    arc = loop_of(before)
    spots = [nearest_spot(before.curves, np.array(at), np.array([arc])) for at in ((150.0, 118.0), (250.0, 130.0))]
    if turned:
        spots = spots[::-1]
    more = (1.0,) if work == "smoothed" else ()
    change = getattr(hand, work)(before.curves, *spots, True, *more)
    after = run(BEAN, [edit(before, work, change)])
    assert after.unplaced == ()
    # the dent of the bean is bridged or eased, so the bean grows, but not beyond the chord's side
    grown = abs(after.curves.areas()[arc]) - abs(before.curves.areas()[arc])
    assert grown > (50 if work != "smoothed" else -200)
    assert abs(grown) < 4000
    if work == "straightened":
        piece = arc_piece(after.curves, arc)
        chords = np.linalg.norm(piece.control[:, 3] - piece.control[:, 0], axis=1)[piece.straight]
        assert chords.max() > 80


def test_a_junction_stays(run):
    body = '<rect x="50" y="50" width="150" height="300" fill="#205080"/>'
    body += '<rect x="200" y="50" width="150" height="300" fill="#c04030"/>'
    result = run(body)
    planar = result.planar
    arc = int(np.flatnonzero(~planar.loops & (planar.left > 0) & (planar.right > 0))[0])
    assert hand.node_moved(result.curves, hand.Node(arc, 0), False, np.ones(2)) is None
    spot = nearest_spot(result.curves, result.curves.segments[result.curves.offset[arc]].mean(0), np.array([arc]))
    change = hand.node_added(result.curves, spot)
    after = run(body, [edit(result, "Node added", change)])
    moved = hand.node_moved(after.curves, hand.Node(arc, 1), False, np.array([5.0, 5.0]))
    both = run(body, [edit(result, "Node added", change), edit(after, "Node moved", moved)])
    assert both.unplaced == ()
    assert np.array_equal(arc_piece(both.curves, arc).control[0, 0], arc_piece(result.curves, arc).control[0, 0])
    assert np.array_equal(arc_piece(both.curves, arc).control[-1, 3], arc_piece(result.curves, arc).control[-1, 3])


def test_edits_are_kept_in_source_coordinates_and_in_the_job_file(run):
    before = run(BEAN)
    arc = loop_of(before)
    change = hand.node_moved(before.curves, hand.Node(arc, 1), True, np.array([9.0, 0.0]))
    kept = edit(before, "Node moved", change)
    assert source_points(before.picture, change.new.control[0, :1])[0] == pytest.approx(kept.first, abs=1e-6)
    assert on_picture(before.picture, [kept.curve[3]])[0] == pytest.approx(change.new.control[1, 0], abs=1e-3)
    recipe = Recipe().with_("trace", edits=(kept,))
    assert decode_recipe(encode_recipe(recipe), "a.loom") == recipe
    broken = CurveEdit("Node moved", ("", ""), (0, 0), (0, 0), (0, 0), ((0.0, 0.0),), (True,))
    with pytest.raises(ArgumentError, match="not whole"):
        Recipe().with_("trace", edits=(broken,)).check()


def brushed(result, line, radius, work=hand.straightened):
    planar = result.planar
    under = hand.stretches_under(result.curves, planar.loops, np.array(line, float), radius)
    return [work(result.curves, *spots, bool(planar.loops[spots[0].arc]), onwards=True) for spots in under]


@pytest.mark.parametrize("begin", [0, 70, 140, 200, 290])
def test_a_brush_cuts_a_segment_off_a_circle(run, begin):
    before = run('<circle cx="200" cy="200" r="100" fill="#205080"/>')
    angle = np.radians(np.linspace(begin, begin + 80, 30))
    (change,) = brushed(before, np.stack([200 + 100 * np.cos(angle), 200 + 100 * np.sin(angle)], 1), 8.0)
    after = run('<circle cx="200" cy="200" r="100" fill="#205080"/>', [edit(before, "Straightened", change)])
    gone = (before.stack.layers[0].area - after.stack.layers[0].area) * (96 / 25.4) ** 2
    # handbook formula of a circular segment: r^2 (a - sin a) / 2; the brush reaches its radius beyond both ends
    wide = np.radians(80) + 2 * 2 * np.arcsin(8 / 200)
    assert gone == pytest.approx(100**2 * (wide - np.sin(wide)) / 2, rel=0.12)
    assert after.unplaced == ()


def test_a_brush_works_on_all_edges_that_it_runs_along_and_on_none_it_crosses(run):
    wave = "".join(f"L{x} {100 + 4 * np.sin(x / 7):.2f}" for x in range(60, 341, 2))
    body = f'<path d="M60 300{wave}L340 300Z" fill="#205080"/>'
    body += '<rect x="200" y="60" width="60" height="200" fill="#c04030"/>'
    before = run(body)
    changes = brushed(before, [(70, 100), (330, 100)], 9.0)
    assert len(changes) == 2  # the wave on both sides of the bar, not the bar's sides
    after = run(body, [edit(before, "Straightened", change) for change in changes])
    assert after.unplaced == ()
    for low, high in ((80, 190), (270, 320)):  # x, in which the wave's top now is one line
        arcs = [arc_piece(after.curves, arc).control for arc in range(len(after.planar.tail))]
        top = np.concatenate([points_at(control, np.linspace(0, 1, 200)).reshape(-1, 2) for control in arcs])
        top = top[(top[:, 0] > low) & (top[:, 0] < high) & (abs(top[:, 1] - 100) < 20)]
        assert np.abs(top[:, 1] - np.polyval(np.polyfit(*top.T, 1), top[:, 0])).max() < 0.05
    assert not brushed(before, [(230, 30), (230, 280)], 9.0)
