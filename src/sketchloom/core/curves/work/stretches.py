"""What a hand does to stretches of edges, by brush or between two places."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats, kd_tree
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.fit.cubics import fit_cubics
from sketchloom.core.curves.path import points_at
from sketchloom.core.curves.pieces import split_cubic
from sketchloom.core.curves.work.change import Change, points_along, track_through, way_at
from sketchloom.core.curves.work.edits import Spot
from sketchloom.core.planar import PlanarMap

__all__ = ["brushed", "closed_by_curve", "smoothed", "straightened", "stretches_under"]

_SMOOTHER = 6.0
"""Times the tolerance, that a smoothed stretch may leave what was there."""
_ALONG = 3.0
"""Radii that a brush runs along an edge before it works on it."""
_LEAST_TOLERANCE = 0.3
"""px"""


def brushed(
    curves: ArcCurves, planar: PlanarMap, line: Floats, radius: float, smooth: bool, tolerance: float
) -> list[Change]:
    """Smooth or straighten all edges that a brush ran along; the frame stays.

    Parameters
    ----------
    curves : ArcCurves
        Of `planar`, px.
    planar : PlanarMap
    line : (N, 2) float
        Along which the brush went, px.
    radius : float
        Of the brush, px.
    smooth : bool
        Whether edges are smoothed; else they are straightened.
    tolerance : float
        px.
    """
    changes = []
    for first, last in stretches_under(curves, planar.loops, line, radius):
        loop = bool(planar.loops[first.arc])
        if planar.left[first.arc] == 0 or planar.right[first.arc] == 0:
            continue
        if smooth:
            changes.append(smoothed(curves, first, last, loop, max(_LEAST_TOLERANCE, tolerance), onwards=True))
        else:
            changes.append(straightened(curves, first, last, loop, onwards=True))
    return changes


def stretches_under(curves: ArcCurves, loops: Bools, line: Floats, radius: float) -> list[tuple[Spot, Spot]]:
    """Stretches of edges that a brush ran along: within its radius, and at least three times as long as that.

    An edge that it only crossed is none, nor a loop that it covered whole.

    Parameters
    ----------
    curves : ArcCurves
    loops : (A,) bool
        Which arcs are closed.
    line : (N, 2) float
        Where the brush went, px.
    radius : float
        Of the brush, px.

    Returns
    -------
    list of (Spot, Spot)
        Each stretch from its first place onwards to its last.
    """
    step = np.hypot(*np.diff(line, axis=0, prepend=line[:1]).T)
    along = np.cumsum(step)
    even = np.linspace(0, along[-1], max(2, int(4 * along[-1] / radius)))
    tree = kd_tree(np.stack([np.interp(even, along, line[:, axis]) for axis in (0, 1)], 1))
    control = curves.segments
    low, high = line.min(0) - radius, line.max(0) + radius
    near = ((control.max(1) >= low) & (control.min(1) <= high)).all(1)  # a curve lies within its controls' box
    arc_of = np.repeat(np.arange(len(curves.offset) - 1), np.diff(curves.offset))
    found = []
    for arc in np.unique(arc_of[near]).tolist():
        own = arc_piece(curves, arc).control
        parts = int(max(16, 4 * np.hypot(*np.moveaxis(np.diff(own, axis=1), 2, 0)).sum(1).max() / radius))
        points = points_at(own, np.arange(parts) / parts).reshape(-1, 2)
        under = tree.query(points)[0] <= radius
        if under.all() and loops[arc]:
            continue
        begin = int(np.argmin(under)) if loops[arc] else 0  # on a loop, begin where the brush was not
        order = np.roll(np.arange(len(points)), -begin)
        edge = np.flatnonzero(np.diff(np.concatenate([[False], under[order], [False]]).astype(np.int8)))
        for start, stop in edge.reshape(-1, 2).tolist():
            run = order[start:stop]
            if np.hypot(*np.diff(points[run], axis=0).T).sum() >= _ALONG * radius:
                found.append((_spot(arc, int(run[0]), parts), _spot(arc, int(run[-1]), parts)))
    return found


def _spot(arc: int, place: int, parts: int) -> Spot:
    """A place counted in parts of segments; a node where that is next."""
    segment, share = divmod(place, parts)
    return Spot(arc, segment, 0.0 if share <= 1 else 1.0 if share == parts - 1 else share / parts, 0.0)


def _stretch(
    curves: ArcCurves, first: Spot, last: Spot, loop: bool, onwards: bool = False
) -> tuple[Piece, Piece, Piece]:
    """Whole segments that hold two places of one arc, and the parts of them outside the two.

    On a loop the shorter way round, or onwards from the first to the last.
    """
    piece = arc_piece(curves, first.arc)
    count = len(piece.control)
    low, high = first.segment + first.t, last.segment + last.t
    if not onwards:
        low, high = sorted((low, high))
        if loop and high - low > count / 2:
            low, high = high, low
    if high < low:  # over the beginning of a loop
        order = np.roll(np.arange(count), -int(low))
        piece = Piece(piece.control[order], piece.straight[order])
        low, high = low - int(low), high - int(low) + count
    start, stop = int(low), min(int(np.ceil(high)), count)
    stop = max(stop, start + 1)
    old = Piece(piece.control[start:stop], piece.straight[start:stop])
    head = split_cubic(old.control[0], low - start)[0][None]
    tail = split_cubic(old.control[-1], min(high - (stop - 1), 1.0))[1][None]
    return old, Piece(head, old.straight[:1]), Piece(tail, old.straight[-1:])


def _set_between(old: Piece, head: Piece, new: Piece, tail: Piece) -> Piece:
    """The stretch with something new between its two outer parts; parts of no length are left out."""
    parts = [part for part in (head, new, tail) if np.ptp(part.control.reshape(-1, 2), axis=0).max() > 0.05]
    control = np.concatenate([part.control for part in parts])
    straight = np.concatenate([part.straight for part in parts])
    control[0, 0], control[-1, 3] = old.control[0, 0], old.control[-1, 3]
    return Piece(control, straight)


def straightened(curves: ArcCurves, first: Spot, last: Spot, loop: bool, onwards: bool = False) -> Change:
    """Draw a straight line between two places of an arc."""
    old, head, tail = _stretch(curves, first, last, loop, onwards)
    start, end = head.control[0, 3], tail.control[0, 0]
    third = (end - start) / 3
    line = Piece(np.stack([start, start + third, end - third, end])[None], np.ones(1, bool))
    return Change(first.arc, old, _set_between(old, head, line, tail))


def smoothed(curves: ArcCurves, first: Spot, last: Spot, loop: bool, tolerance: float, onwards: bool = False) -> Change:
    """Draw the stretch between two places of an arc with fewer, rounder curves; corners in it go."""
    old, head, tail = _stretch(curves, first, last, loop, onwards)
    start, end = head.control[0, 3], tail.control[0, 0]
    points = points_along(old.control)
    inner = np.arange(len(points))[
        np.argmin(np.hypot(*(points - start).T)) : np.argmin(np.hypot(*(points - end).T)) + 1
    ]
    track = track_through(np.vstack([start, points[inner][1:-1], end]), _SMOOTHER * tolerance)
    ends = np.array([0, len(track.points) - 1])
    while True:
        fits = fit_cubics(track, ends[:-1], ends[1:])
        poor = (fits.error > track.limit[0]) & (np.diff(ends) > 8)
        if not poor.any():
            break
        ends = np.sort(np.concatenate([ends, (ends[:-1][poor] + ends[1:][poor]) // 2]))
    new = Piece(_aligned(fits.control, fits.straight), fits.straight)
    return Change(first.arc, old, _set_between(old, head, new, tail))


def closed_by_curve(curves: ArcCurves, first: Spot, last: Spot, loop: bool) -> Change:
    """Take out the stretch between two places and close the outline with one curve that runs on at both ends."""
    old, head, tail = _stretch(curves, first, last, loop)
    start, end = head.control[0, 3], tail.control[0, 0]
    reach = float(np.hypot(*(end - start))) / 3
    ahead = way_at(head.control[0], False) * reach
    behind = way_at(tail.control[0], True) * reach
    new = Piece(np.stack([start, start + ahead, end - behind, end])[None], np.zeros(1, bool))
    return Change(first.arc, old, _set_between(old, head, new, tail))


def _aligned(control: Floats, straight: Bools) -> Floats:
    """Give curves that follow each other one direction where they meet."""
    out = control.copy()
    for row in range(len(out) - 1):
        at = out[row, 3]
        before, after = at - out[row, 2], out[row + 1, 1] - at
        way = before + after
        if straight[row] or straight[row + 1] or np.hypot(*way) < 1e-9:
            continue
        way = way / np.hypot(*way)
        out[row, 2], out[row + 1, 1] = at - np.hypot(*before) * way, at + np.hypot(*after) * way
    return out
