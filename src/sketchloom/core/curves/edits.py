"""Work by hand on traced curves, kept so that it survives a new fit.

An edit is the stretch of one edge that it replaces, told by its ends and a
place between them in source coordinates and by the two inks it parts, and the
curve that replaces it. On a new fit the stretch is found again, or the edit
is listed as one that has no place.
"""

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from scipy.spatial import KDTree

from sketchloom.core.arrays import Floats, Ints
from sketchloom.core.curves.arcs import ArcCurves, Deviation, Piece
from sketchloom.core.curves.settings import CurveEdit
from sketchloom.core.planar import PlanarMap

__all__ = ["Edited", "Spot", "apply_edits", "arc_piece", "edit_of", "nearest_spot", "points_at", "split_cubic"]

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


def arc_piece(curves: ArcCurves, arc: int) -> Piece:
    """All segments of an arc."""
    low, high = int(curves.offset[arc]), int(curves.offset[arc + 1])
    begin = 3 * low + arc
    points = curves.points[begin : begin + 3 * (high - low) + 1]
    index = 3 * np.arange(high - low)[:, None] + np.arange(4)
    return Piece(points[index], curves.straight[low:high])


def split_cubic(control: Floats, t: float) -> tuple[Floats, Floats]:
    """Part a cubic at a parameter, by de Casteljau; two (4, 2) float."""
    left, right, row = [], [], control
    while len(row):
        left.append(row[0])
        right.append(row[-1])
        row = row[:-1] + t * (row[1:] - row[:-1])
    return np.array(left), np.array(right[::-1])


def points_at(control: Floats, t: Floats) -> Floats:
    """Points of cubics, (n, 4, 2), at parameters; (n, len(t), 2)."""
    t = np.asarray(t)[None, :, None]
    s = 1 - t
    p = control[:, :, None]
    return np.asarray(s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3])


def nearest_spot(curves: ArcCurves, at: Floats, arcs: Ints | None = None) -> Spot | None:
    """The place on the curves nearest to a point, px, if there are curves.

    A coarse search along all segments, then a fine one along the best.
    """
    count = np.diff(curves.offset)
    arc_of = np.repeat(np.arange(len(count)), count)
    chosen = np.arange(len(arc_of)) if arcs is None else np.flatnonzero(np.isin(arc_of, arcs))
    if not len(chosen):
        return None
    control = curves.segments[chosen]
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
    segment = int(chosen[near[row]])
    arc = int(arc_of[segment])
    return Spot(arc, segment - int(curves.offset[arc]), float(fine[best]), float(gap[best]))


def _sides(planar: PlanarMap, keys: Sequence[str], arc: int) -> tuple[str, str]:
    """The inks on both sides of an arc, as settings know them."""
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
        Hex colours of the palette.
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
    planar: PlanarMap, curves: ArcCurves, edits: Sequence[CurveEdit], keys: Sequence[str], to_source: Floats
) -> Edited:
    """Put edits on freshly fitted curves, in order.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, px.
    edits : sequence of CurveEdit
    keys : sequence of str
        Hex colours of the palette.
    to_source : (3, 3) float
        From px to source coordinates.
    """
    if not edits:
        return Edited(curves, (), ())
    to_px = np.linalg.inv(to_source)
    sides = [_sides(planar, keys, arc) for arc in range(len(planar.tail))]
    unplaced: list[int] = []
    changed: set[int] = set()
    for number, edit in enumerate(edits):
        arcs = np.array([arc for arc, pair in enumerate(sides) if pair == edit.inks], np.int64)
        points = _moved(np.array([edit.first, edit.last, edit.through, *edit.curve]), to_px)
        arc = _arc_near(curves, arcs, points[:3])
        if arc is None:
            unplaced.append(number)
            continue
        index = 3 * np.arange(len(edit.straight))[:, None] + np.arange(4)
        new = Piece(points[3:][index], np.array(edit.straight))
        piece = _replaced(arc_piece(curves, arc), bool(planar.loops[arc]), new, points[:3])
        curves = with_arc(curves, arc, piece)
        changed.add(arc)
    return Edited(measured(curves, sorted(changed)), tuple(unplaced), tuple(sorted(changed)))


def _arc_near(curves: ArcCurves, arcs: Ints, points: Floats) -> int | None:
    """The arc that passes nearest to some points, if it comes near all of them."""
    found: list[tuple[float, int]] = []
    for arc in arcs.tolist():
        away = [spot.away for spot in (nearest_spot(curves, at, np.array([arc])) for at in points) if spot is not None]
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


def along_piece(piece: Piece, at: Floats) -> float:
    """Segments gone along a piece to the place nearest to a point; a whole number where a node is as near."""
    times = np.linspace(0, 1, 4 * _STEPS + 1)
    away = np.hypot(*np.moveaxis(points_at(piece.control, times) - at, 2, 0))
    row, step = np.unravel_index(np.argmin(away), away.shape)
    nodes = np.concatenate([piece.control[:, 0], piece.control[-1:, 3]])
    to_node = np.hypot(*(nodes - at).T)
    if to_node.min() <= away.min() + _ON_NODE:
        return float(np.argmin(to_node))
    return float(row + times[step])


def cut_piece(piece: Piece, place: float) -> tuple[Piece, Piece]:
    """Part a piece; either part may be empty."""
    row = int(place)
    if place == row:
        return (Piece(piece.control[:row], piece.straight[:row]), Piece(piece.control[row:], piece.straight[row:]))
    left, right = split_cubic(piece.control[row], place - row)
    flag = piece.straight[row : row + 1]
    return (
        Piece(np.concatenate([piece.control[:row], left[None]]), np.append(piece.straight[:row], flag)),
        Piece(np.concatenate([right[None], piece.control[row + 1 :]]), np.append(flag, piece.straight[row + 1 :])),
    )


def begun_at(piece: Piece, place: float) -> Piece:
    """The same loop, begun elsewhere."""
    before, after = cut_piece(piece, place)
    return joined(after, before) if len(before.control) and len(after.control) else piece


def joined(*parts: Piece) -> Piece:
    """Pieces in a row."""
    return Piece(np.concatenate([part.control for part in parts]), np.concatenate([part.straight for part in parts]))


def _pinned(new: Piece, piece: Piece, first: float, last: float) -> Piece:
    """Move the ends of a stretch, with their handles, onto the curve that it is set into."""
    control = new.control.copy()
    control[0, :2] += _point(piece, first) - control[0, 0]
    control[-1, 2:] += _point(piece, last) - control[-1, 3]
    chords = control[new.straight]
    third = (chords[:, 3] - chords[:, 0]) / 3
    control[new.straight, 1], control[new.straight, 2] = chords[:, 0] + third, chords[:, 3] - third
    return Piece(control, new.straight)


def _point(piece: Piece, place: float) -> Floats:
    row = min(int(place), len(piece.control) - 1)
    return np.asarray(points_at(piece.control[row : row + 1], np.array([place - row]))[0, 0])


def with_arc(curves: ArcCurves, arc: int, piece: Piece) -> ArcCurves:
    """Curves with one arc replaced."""
    low, high = int(curves.offset[arc]), int(curves.offset[arc + 1])
    begin, end = 3 * low + arc, 3 * high + arc + 1
    points = np.concatenate([piece.control[:, :3].reshape(-1, 2), piece.control[-1:, 3]])
    offset = curves.offset.copy()
    offset[arc + 1 :] += len(piece.control) - (high - low)
    return replace(
        curves,
        points=np.concatenate([curves.points[:begin], points, curves.points[end:]]),
        straight=np.concatenate([curves.straight[:low], piece.straight, curves.straight[high:]]),
        round=np.concatenate([curves.round[:low], np.zeros(len(piece.control), bool), curves.round[high:]]),
        offset=offset,
    )


def measured(curves: ArcCurves, arcs: Sequence[int]) -> ArcCurves:
    """Measure the deviation of changed arcs anew."""
    deviation = curves.deviation
    away = deviation.away.copy()
    for arc in arcs:
        piece = arc_piece(curves, arc)
        line = points_at(piece.control, np.linspace(0, 1, 4 * _STEPS + 1)).reshape(-1, 2)
        own = slice(int(deviation.offset[arc]), int(deviation.offset[arc + 1]))
        away[own] = from_line(deviation.place[own], line)
    return replace(curves, deviation=Deviation(deviation.place, away, deviation.offset))


def from_line(points: Floats, line: Floats) -> Floats:
    """Distance of points from a line of short steps: from the two steps beside the nearest corner; (N,)."""
    _, near = KDTree(line).query(points)
    out = np.full(len(points), np.inf)
    for step in (-1, 0):
        start = line[np.clip(near + step, 0, len(line) - 2)]
        way = line[np.clip(near + step, 0, len(line) - 2) + 1] - start
        share = ((points - start) * way).sum(1) / np.maximum((way * way).sum(1), 1e-12)
        out = np.minimum(out, np.hypot(*(points - start - np.clip(share, 0, 1)[:, None] * way).T))
    return out
