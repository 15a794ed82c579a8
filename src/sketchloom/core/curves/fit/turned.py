"""Faces that their curves would turn over, or leave nothing of, given back an area.

Where a piece is hardly larger than a pixel, what its edge pixels show can put
the edges on its two sides in each other's place, and curves of a few samples
cross. The picture shows no more of such a piece than a hair: the shorter of
two edges runs beside the longer one. Where that cannot be, or is not enough,
the edges run along the sides of the pixels, where a piece has the area that
it is counted with.
"""

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.curves.pieces import measured, with_arcs
from sketchloom.core.planar import PlanarMap

__all__ = ["face_areas", "faces_upright"]

_LEAST = 0.002
"""Of the area of its pixels that a face keeps at least."""
_HAIR = 0.01
"""px; what lies at least between the middles of two edges that run side by side."""


def faces_upright(planar: PlanarMap, curves: ArcCurves) -> ArcCurves:
    """Draw arcs round faces that are turned over anew; arcs that end on them follow.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, px.
    """
    return _along_pixels(planar, _side_by_side(planar, curves))


def _side_by_side(planar: PlanarMap, curves: ArcCurves) -> ArcCurves:
    """Where two arcs bound a face, the shorter takes the other's way, a hair beside it; no arc moves twice."""
    moved = np.zeros(len(planar.tail), bool)
    while True:
        pieces: dict[int, Piece] = {}
        for short, long, face in _pairs(planar, _turned(planar, curves)):
            if not moved[[short, long]].any():
                pieces[short] = _beside(planar, arc_piece(curves, long), short, long, face)
                moved[[short, long]] = True
        if not pieces:
            return curves
        curves = measured(with_arcs(curves, pieces), sorted(pieces))


def _pairs(planar: PlanarMap, bad: Bools) -> list[tuple[int, int, int]]:
    """Of the faces that two arcs bound between the same two vertices: the shorter, the longer, the face.

    An arc on the picture's frame stays there.
    """
    arcs = np.flatnonzero(bad[planar.left] | bad[planar.right])
    face = np.concatenate([planar.left[arcs], planar.right[arcs]])
    arc = np.concatenate([arcs, arcs])
    length = np.diff(planar.offset)[arc]
    order = np.lexsort((arc, length, face))
    face, arc = face[order], arc[order]
    first = np.flatnonzero(bad[face] & (np.bincount(face, minlength=len(bad))[face] == 2))[::2]
    ends = np.sort(np.stack([planar.tail, planar.head], 1), axis=1)[arc]
    framed = (planar.left == 0) | (planar.right == 0)
    first = first[(ends[first] == ends[first + 1]).all(1) & ~planar.loops[arc[first]] & ~framed[arc[first]]]
    return list(zip(arc[first].tolist(), arc[first + 1].tolist(), face[first].tolist(), strict=True))


def _beside(planar: PlanarMap, other: Piece, arc: int, other_arc: int, face: int) -> Piece:
    """The way of another arc between the same vertices, moved off by a hair, so that the face between has an area."""
    piece = other if planar.tail[arc] == planar.tail[other_arc] else other.reversed()
    control, straight = piece.control.copy(), piece.straight.copy()
    if len(control) == 1:  # a chord would lie on the other's
        straight[:] = False
    chord = control[:, 3] - control[:, 0]
    across = np.stack([chord[:, 1], -chord[:, 0]], 1) / np.maximum(np.hypot(*chord.T), 1e-9)[:, None]  # to the left
    off = across * (_HAIR if planar.right[arc] == face else -_HAIR)
    control[:, 1:3] += off[:, None]
    control[1:, 0] += (off[1:] + off[:-1]) / 2
    control[:-1, 3] = control[1:, 0]
    return Piece(straight_thirds(control, straight), straight)


def _along_pixels(planar: PlanarMap, curves: ArcCurves) -> ArcCurves:
    """Draw all arcs round the faces along the pixels, and the ends of others to the corners of pixels."""
    fixed = np.zeros(len(planar.tail), bool)
    while True:
        bad = _turned(planar, curves)
        fresh = (bad[planar.left] | bad[planar.right]) & ~fixed
        if not fresh.any():
            return curves
        fixed |= fresh
        pinned = np.zeros(len(planar.vertices), bool)
        pinned[planar.tail[fixed]] = pinned[planar.head[fixed]] = True
        pieces = {int(arc): _pixel_sides(planar, int(arc)) for arc in np.flatnonzero(fresh)}
        ends = (pinned[planar.tail] | pinned[planar.head]) & ~fixed
        for arc in np.flatnonzero(ends).tolist():
            pieces[arc] = _ending(planar, arc, arc_piece(curves, arc), pinned)
        curves = measured(with_arcs(curves, pieces), sorted(pieces))


def _turned(planar: PlanarMap, curves: ArcCurves) -> Bools:
    """Faces of which hardly anything is left; (F,)."""
    bad: Bools = face_areas(planar, curves) < _LEAST * planar.faces.area
    bad[0] = False
    return bad


def face_areas(planar: PlanarMap, curves: ArcCurves) -> Floats:
    """Area that each face has by its curves; (F,) in square units of these."""
    under, count = curves.areas(), len(planar.faces.label)
    return np.asarray(np.bincount(planar.right, under, count) - np.bincount(planar.left, under, count))


def _pixel_sides(planar: PlanarMap, arc: int) -> Piece:
    """An arc as lines along the sides of its pixels, a node where they turn."""
    low, high = int(planar.offset[arc]), int(planar.offset[arc + 1])
    heading = planar.heading[low:high]
    turns = np.append(True, heading[1:] != heading[:-1])
    points = np.vstack([planar.corner[low:high][turns], planar.vertices[planar.head[arc]]]).astype(float)
    control = np.repeat(points[:-1, None], 4, 1)
    control[:, 3] = points[1:]
    straight = np.ones(len(control), bool)
    return Piece(straight_thirds(control, straight), straight)


def _ending(planar: PlanarMap, arc: int, piece: Piece, pinned: Bools) -> Piece:
    """An arc whose ends, with their handles, lie on vertices that are pinned to the corners of pixels."""
    control: Floats = piece.control.copy()
    if planar.loops[arc]:
        return piece
    tail, head = planar.tail[arc], planar.head[arc]
    if pinned[tail]:
        control[0, :2] += planar.vertices[tail] - control[0, 0]
    if pinned[head]:
        control[-1, 2:] += planar.vertices[head] - control[-1, 3]
    return Piece(straight_thirds(control, piece.straight), piece.straight)
