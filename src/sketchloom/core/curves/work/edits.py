"""Work by hand on traced curves, kept so that it survives a new fit.

An edit is the stretch of one edge that it replaces, told by its ends and a
place between them in source coordinates and by the two inks it parts, and the
curve that replaces it. On a new fit the stretch is found again, or the edit
is listed as one that has no place.
"""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats, Ints
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.path import points_at, straight_thirds
from sketchloom.core.curves.pieces import along_piece, begun_at, cut_piece, joined, measured, with_arcs
from sketchloom.core.curves.settings import CurveEdit
from sketchloom.core.planar import PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Edited", "Spot", "apply_edits", "edit_of", "nearest_spot"]

_REACH = 4.0
_ON_NODE = 0.25
_STEPS = 16
_GROUND = ""


class Edited(NamedTuple):
    """Curves after work by hand."""

    curves: ArcCurves
    unplaced: tuple[int, ...]  # edits that found no place
    arcs: tuple[int, ...]  # arcs that were changed


class Spot(NamedTuple):
    """A place on the curves."""

    arc: int
    segment: int  # within the arc
    t: float
    away: float  # from the place asked for, px


def nearest_spot(curves: ArcCurves, at: Floats, arcs: Ints | None = None) -> Spot | None:
    """The place on the curves nearest to a point, px, if there are curves.

    A coarse search along all segments, then a fine one along the best.
    """
    count = np.diff(curves.offset)
    arc_of = np.repeat(np.arange(len(count)), count)
    chosen = np.arange(len(arc_of)) if arcs is None else np.flatnonzero(np.isin(arc_of, arcs))
    if not len(chosen):
        return None
    row, t, away = _nearest(curves.segments[chosen], at)
    arc = int(arc_of[chosen[row]])
    return Spot(arc, int(chosen[row]) - int(curves.offset[arc]), t, away)


def _nearest(control: Floats, at: Floats) -> tuple[int, float, float]:
    """Which of some cubics, (n, 4, 2), passes nearest to a point; where along it, and how far away."""
    outside = np.maximum(control.min(1) - at, at - control.max(1)).max(1)  # a curve lies within its controls' box
    near = np.flatnonzero(outside <= np.partition(np.abs(control[:, 0] - at).max(1), 0)[0] * 1.5 + 1.0)
    near = near if len(near) else np.arange(len(control))
    times = np.linspace(0, 1, _STEPS + 1)
    away = np.hypot(*np.moveaxis(points_at(control[near], times) - at, 2, 0))
    row, step = np.unravel_index(np.argmin(away), away.shape)
    low, high = max(0.0, times[step] - 1 / _STEPS), min(1.0, times[step] + 1 / _STEPS)
    fine = np.linspace(low, high, 33)
    gap = np.hypot(*(points_at(control[near[row]][None], fine)[0] - at).T)
    best = int(np.argmin(gap))
    return int(near[row]), float(fine[best]), float(gap[best])


def _sides(planar: PlanarMap, keys: Sequence[str], arc: int) -> tuple[str, str]:
    """The inks on both sides of an arc, by their keys."""
    names = [_GROUND, *keys]
    sides = sorted(names[int(planar.faces.label[face])] for face in (planar.left[arc], planar.right[arc]))
    return sides[0], sides[1]


def edit_of(
    what: str,
    planar: PlanarMap,
    keys: Sequence[str],
    arc: int,
    old: Piece,
    new: Piece,
    to_source: Floats,
) -> CurveEdit:
    """Tell the replacement of one stretch of an arc as an edit.

    Parameters
    ----------
    what : str
    planar : PlanarMap
    keys : sequence of str
        Of the inks that labels are.
    arc : int
    old, new : Piece
        The stretch as it is and as it shall be, px; both run the same way.
    to_source : (3, 3) float
    """
    middle = old.control[len(old.control) // 2]
    through = points_at(middle[None], np.array([0.5 if len(old.control) % 2 else 0.0]))[0]
    ends = np.stack([old.control[0, 0], old.control[-1, 3]])
    points = np.concatenate([new.control[:, :3].reshape(-1, 2), new.control[-1:, 3]])
    there = [(round(float(x), 7), round(float(y), 7)) for x, y in _moved(np.vstack([ends, through, points]), to_source)]
    return CurveEdit(
        what,
        _sides(planar, keys, arc),
        there[0],
        there[1],
        there[2],
        tuple(there[3:]),
        tuple(bool(flag) for flag in new.straight),
    )


def _moved(points: Floats, by: Floats) -> Floats:
    there = np.column_stack([points, np.ones(len(points))]) @ by.T
    return np.asarray(there[:, :2] / there[:, 2:])


def apply_edits(
    planar: PlanarMap,
    curves: ArcCurves,
    edits: Sequence[CurveEdit],
    keys: Sequence[str],
    to_source: Floats,
    tick: Tick = no_tick,
) -> Edited:
    """Put edits on freshly fitted curves, in order.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, px.
    edits : sequence of CurveEdit
    keys : sequence of str
        Label i of `planar` is the ink ``keys[i - 1]``.
    to_source : (3, 3) float
        From px to source coordinates.
    """
    if not edits:
        return Edited(curves, (), ())
    to_px = np.linalg.inv(to_source)
    boxes = _boxes(curves)
    changed: dict[int, Piece] = {}
    unplaced: list[int] = []
    for number, edit in enumerate(edits):
        tick(number / len(edits))
        points = _moved(np.array([edit.first, edit.last, edit.through, *edit.curve]), to_px)
        near = np.flatnonzero(
            ((boxes[:, 0] - _REACH <= points[:3].min(0)) & (boxes[:, 1] + _REACH >= points[:3].max(0))).all(1)
        )
        pieces = {arc: changed.get(arc) or arc_piece(curves, arc) for arc in near.tolist()}
        arc = _arc_near({arc: own for arc, own in pieces.items() if _sides(planar, keys, arc) == edit.inks}, points[:3])
        if arc is None:
            unplaced.append(number)
            continue
        index = 3 * np.arange(len(edit.straight))[:, None] + np.arange(4)
        new = Piece(points[3:][index], np.array(edit.straight))
        changed[arc] = _replaced(pieces[arc], bool(planar.loops[arc]), new, points[:3])
        own = changed[arc].control.reshape(-1, 2)
        boxes[arc] = own.min(0), own.max(0)
    return Edited(measured(with_arcs(curves, changed), sorted(changed)), tuple(unplaced), tuple(sorted(changed)))


def _boxes(curves: ArcCurves) -> Floats:
    """Least and largest x and y of the controls of each arc; (A, 2, 2)."""
    first = 3 * curves.offset[:-1] + np.arange(len(curves.offset) - 1)
    return np.stack([np.minimum.reduceat(curves.points, first), np.maximum.reduceat(curves.points, first)], 1)


def _arc_near(pieces: dict[int, Piece], points: Floats) -> int | None:
    """The arc that passes nearest to some points, if it comes near all of them."""
    found: list[tuple[float, int]] = []
    for arc, piece in pieces.items():
        away = [_nearest(piece.control, at)[2] for at in points]
        if max(away) <= _REACH:
            found.append((sum(away), arc))
    return min(found)[1] if found else None


def _replaced(piece: Piece, loop: bool, new: Piece, points: Floats) -> Piece:
    """Put a new stretch in the place of the one that begins, ends and passes near three points."""
    count = float(len(piece.control))
    if not loop:
        first, last = along_piece(piece, points[0]), along_piece(piece, points[1])
        if first > last:
            first, last, new = last, first, new.reversed()
        return joined(cut_piece(piece, first)[0], _pinned(new, piece, first, last), cut_piece(piece, last)[1])
    piece = begun_at(piece, along_piece(piece, points[0]))
    whole = np.hypot(*(points[0] - points[1])) < _ON_NODE
    end = count if whole else along_piece(piece, points[1])
    middle = along_piece(piece, points[2])
    backwards = not whole and middle > end
    if backwards:
        piece, end = piece.reversed(), len(piece.control) - end
    out = joined(_pinned(new, piece, 0.0, end), cut_piece(piece, end)[1])
    return out.reversed() if backwards else out


def _pinned(new: Piece, piece: Piece, first: float, last: float) -> Piece:
    """Move the ends of a stretch, with their handles, onto the curve that it is set into."""
    control = new.control.copy()
    control[0, :2] += _point(piece, first) - control[0, 0]
    control[-1, 2:] += _point(piece, last) - control[-1, 3]
    return Piece(straight_thirds(control, new.straight), new.straight)


def _point(piece: Piece, place: float) -> Floats:
    row = min(int(place), len(piece.control) - 1)
    return np.asarray(points_at(piece.control[row : row + 1], np.array([place - row]))[0, 0])
