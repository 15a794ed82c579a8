"""Faces that their curves would turn over, or leave nothing of, drawn along the pixels they are made of.

Where a piece is hardly larger than a pixel, what its edge pixels show can put
the edges on its two sides in each other's place, and curves of a few samples
cross. Along the sides of its pixels a piece always has the area that it is
counted with.
"""

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.curves.pieces import measured, with_arcs
from sketchloom.core.planar import PlanarMap

__all__ = ["faces_upright"]

_LEAST = 0.01
"""Of the area of its pixels that a face keeps at least."""


def faces_upright(planar: PlanarMap, curves: ArcCurves) -> ArcCurves:
    """Draw the arcs round faces that are turned over along the pixels; arcs that end there follow.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, px.
    """
    fixed = np.zeros(len(planar.tail), bool)
    while True:
        bad = _turned(planar, curves)
        fresh = (bad[planar.left] | bad[planar.right]) & ~fixed
        if not fresh.any():
            return curves
        fixed |= fresh
        pinned = np.zeros(len(planar.vertices), bool)
        pinned[planar.tail[fixed]] = pinned[planar.head[fixed]] = True
        pieces = {int(arc): _along_pixels(planar, int(arc)) for arc in np.flatnonzero(fresh)}
        ends = (pinned[planar.tail] | pinned[planar.head]) & ~fixed
        for arc in np.flatnonzero(ends).tolist():
            pieces[arc] = _ending(planar, arc, arc_piece(curves, arc), pinned)
        curves = measured(with_arcs(curves, pieces), sorted(pieces))


def _turned(planar: PlanarMap, curves: ArcCurves) -> Bools:
    """Faces of which hardly anything is left; (F,)."""
    count = len(planar.faces.label)
    under = curves.areas()
    area = np.bincount(planar.right, under, count) - np.bincount(planar.left, under, count)
    bad: Bools = area < _LEAST * planar.faces.area
    bad[0] = False
    return bad


def _along_pixels(planar: PlanarMap, arc: int) -> Piece:
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
