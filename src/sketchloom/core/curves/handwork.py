"""What a hand does to nodes and stretches of curves: each gives the piece that was and the piece that shall be."""

from typing import NamedTuple

import numpy as np
from scipy.spatial import KDTree

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.arcs import ArcCurves, Piece
from sketchloom.core.curves.cubics import fit_cubics
from sketchloom.core.curves.edits import Spot, arc_piece, points_at, split_cubic
from sketchloom.core.curves.track import Track

__all__ = [
    "Change",
    "Node",
    "closed_by_curve",
    "made_corner",
    "made_smooth",
    "node_added",
    "node_deleted",
    "node_moved",
    "smoothed",
    "straightened",
    "stretches_under",
]

_SMOOTHER = 6.0
_ALONG = 3.0
_PLENTY = 60


class Node(NamedTuple):
    """A node of an arc; the first and the last of an open arc are junctions."""

    arc: int
    place: int


class Change(NamedTuple):
    """A stretch of an arc, before and after."""

    arc: int
    old: Piece
    new: Piece


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
        for row in np.flatnonzero(straight):
            third = (control[row, 3] - control[row, 0]) / 3
            control[row, 1], control[row, 2] = control[row, 0] + third, control[row, 3] - third
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
    tree = KDTree(np.stack([np.interp(even, along, line[:, axis]) for axis in (0, 1)], 1))
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
    points = _points(old.control)
    inner = np.arange(len(points))[
        np.argmin(np.hypot(*(points - start).T)) : np.argmin(np.hypot(*(points - end).T)) + 1
    ]
    track = _track(np.vstack([start, points[inner][1:-1], end]), _SMOOTHER * tolerance)
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
    ahead = _way(head.control[0], False) * reach
    behind = _way(tail.control[0], True) * reach
    new = Piece(np.stack([start, start + ahead, end - behind, end])[None], np.zeros(1, bool))
    return Change(first.arc, old, _set_between(old, head, new, tail))


def _way(control: Floats, at_start: bool) -> Floats:
    """Direction in which a curve leaves its start, or arrives at its end; unit."""
    order = control if at_start else control[::-1]
    for other in order[1:]:
        way = (other - order[0]) * (1 if at_start else -1)
        if np.hypot(*way) > 1e-6:
            return np.asarray(way / np.hypot(*way))
    return np.zeros(2)


def _points(control: Floats) -> Floats:
    """Points along curves, evenly in the parameter."""
    t = np.linspace(0, 1, _PLENTY)[None, :, None]
    s, p = 1 - t, control[:, :, None]
    out = s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3]
    return np.asarray(out.reshape(-1, 2))


def _track(points: Floats, limit: float) -> Track:
    """A track through points, thinned to half a pixel apart."""
    step = np.hypot(*np.diff(points, axis=0, prepend=points[:1]).T)
    along = np.cumsum(step)
    whole = max(8, int(along[-1] * 2))
    even = np.linspace(0, along[-1], whole)
    spread = np.stack([np.interp(even, along, points[:, axis]) for axis in (0, 1)], 1)
    ones = np.ones(whole)
    return Track(spread, ones, spread, even, limit * ones, limit * ones, ones, 3 * limit * ones)


def _one_curve(old: Piece) -> Piece:
    """One curve nearest to several; a line for lines in a row."""
    track = _track(_points(old.control), 0.02)
    fit = fit_cubics(track, np.array([0]), np.array([len(track.points) - 1]))
    control = fit.control.copy()
    control[0, 0], control[0, 3] = old.control[0, 0], old.control[-1, 3]
    return Piece(control, fit.straight)


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
