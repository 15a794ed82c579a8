"""What a hand does to nodes: each gives the piece that was and the piece that shall be."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.fit.cubics import fit_cubics
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.curves.pieces import split_cubic
from sketchloom.core.curves.work.change import Change, points_along, track_through
from sketchloom.core.curves.work.edits import Spot
from sketchloom.core.planar import PlanarMap

__all__ = ["Node", "made_corner", "made_smooth", "node_added", "node_deleted", "node_moved", "nodes_on"]

_CLOSELY = 0.02
"""px; how closely one curve follows the two it takes the place of."""


class Node(NamedTuple):
    """A node of an arc; the first and the last of an open arc are junctions."""

    arc: int
    place: int


def nodes_on(curves: ArcCurves, planar: PlanarMap) -> tuple[list[Node], Floats]:
    """All nodes but those on the frame, and where they are, px; (N, 2)."""
    count = np.diff(curves.offset)
    arc = np.repeat(np.arange(len(count)), count + 1)
    place = np.arange(len(arc)) - (curves.offset[:-1] + np.arange(len(count)))[arc]
    at = curves.points[3 * (np.arange(len(arc)) - arc) + arc]
    twice = planar.loops[arc] & (place == count[arc])
    inner = (planar.left[arc] > 0) & (planar.right[arc] > 0)
    rows = np.flatnonzero(~twice & inner)
    return [Node(*pair) for pair in zip(arc[rows].tolist(), place[rows].tolist(), strict=True)], at[rows]


def _around(curves: ArcCurves, node: Node, loop: bool) -> Piece | None:
    """The two segments beside a node; None at a junction. On a loop of one segment there are none."""
    piece = arc_piece(curves, node.arc)
    count = len(piece.control)
    if loop and node.place % count == 0 and count > 1:
        rows = [count - 1, 0]
    elif 0 < node.place < count:
        rows = [node.place - 1, node.place]
    else:
        return None
    return Piece(piece.control[rows], piece.straight[rows])


def node_moved(curves: ArcCurves, node: Node, loop: bool, by: Floats, handle: int = 0) -> Change | None:
    """Move a node and its handles, or one handle: -1 the one before it, 1 the one after; px.

    A line beside a moved node stays a line; beside a moved handle it bends.
    """
    old = _around(curves, node, loop)
    if old is None:
        return None
    control, straight = old.control.copy(), old.straight.copy()
    if handle in (0, -1):
        control[0, 2] += by
    if handle in (0, 1):
        control[1, 1] += by
    if handle == 0:
        control[0, 3] += by
        control[1, 0] += by
        straight_thirds(control, straight)
    else:
        straight[0 if handle < 0 else 1] = False
    return Change(node.arc, old, Piece(control, straight))


def made_smooth(curves: ArcCurves, node: Node, loop: bool) -> Change | None:
    """Give the curves on both sides of a node one direction; handles keep their lengths."""
    old = _around(curves, node, loop)
    if old is None:
        return None
    control = old.control.copy()
    at = control[0, 3]
    before, after = at - control[0, 2], control[1, 1] - at
    arm, reach = np.hypot(*before), np.hypot(*after)
    way = before / max(arm, 1e-9) + after / max(reach, 1e-9)
    if np.hypot(*way) < 1e-6:
        way = control[1, 3] - control[0, 0]
    way = way / max(float(np.hypot(*way)), 1e-9)
    control[0, 2], control[1, 1] = at - arm * way, at + reach * way
    return Change(node.arc, old, Piece(control, np.zeros(2, bool)))


def made_corner(curves: ArcCurves, node: Node, loop: bool) -> Change | None:
    """Let the curves on both sides of a node run straight at it, so that it is a corner."""
    old = _around(curves, node, loop)
    if old is None:
        return None
    control = old.control.copy()
    control[0, 2] = control[0, 3] + (control[0, 1] - control[0, 3]) / 2
    control[1, 1] = control[1, 0] + (control[1, 2] - control[1, 0]) / 2
    return Change(node.arc, old, Piece(control, old.straight))


def node_deleted(curves: ArcCurves, node: Node, loop: bool) -> Change | None:
    """Take a node out; one curve takes the place of the two, as near to them as it can."""
    old = _around(curves, node, loop)
    if old is None:
        return None
    if np.allclose(old.control[0, 0], old.control[1, 3]):  # a loop must keep two
        return None
    return Change(node.arc, old, _one_curve(old))


def node_added(curves: ArcCurves, spot: Spot) -> Change:
    """Put a node on a curve without changing its shape."""
    piece = arc_piece(curves, spot.arc)
    old = Piece(piece.control[spot.segment : spot.segment + 1], piece.straight[spot.segment : spot.segment + 1])
    t = min(max(spot.t, 0.02), 0.98)
    new = Piece(np.stack(split_cubic(old.control[0], t)), np.repeat(old.straight, 2))
    return Change(spot.arc, old, new)


def _one_curve(old: Piece) -> Piece:
    """One curve nearest to several; a line for lines in a row."""
    track = track_through(points_along(old.control), _CLOSELY)
    fit = fit_cubics(track, np.array([0]), np.array([len(track.points) - 1]))
    control = fit.control.copy()
    control[0, 0], control[0, 3] = old.control[0, 0], old.control[-1, 3]
    return Piece(control, fit.straight)
