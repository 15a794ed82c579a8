"""Pieces of curves cut, joined and set back into their arcs."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.curves.arcs import ArcCurves, Deviation, Piece, arc_piece
from sketchloom.core.curves.path import points_at

__all__ = ["along_piece", "begun_at", "cut_piece", "from_line", "joined", "measured", "split_cubic", "with_arcs"]

_ON_NODE = 0.25
"""px; so near a node a place is taken to be the node."""
_STEPS = 16
"""Along a cubic, in a search."""


def split_cubic(control: Floats, t: float) -> tuple[Floats, Floats]:
    """Part a cubic at a parameter, by de Casteljau; two (4, 2) float."""
    left, right, row = [], [], control
    while len(row):
        left.append(row[0])
        right.append(row[-1])
        row = row[:-1] + t * (row[1:] - row[:-1])
    return np.array(left), np.array(right[::-1])


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


def with_arcs(curves: ArcCurves, pieces: Mapping[int, Piece]) -> ArcCurves:
    """Curves with some arcs replaced."""
    if not pieces:
        return curves
    count = np.diff(curves.offset)
    points, straight, is_round = [], [], []
    done = 0
    for arc in [*sorted(pieces), len(count)]:  # what lies between two arcs is taken over as it is
        low, high = int(curves.offset[done]), int(curves.offset[arc])
        points.append(curves.points[3 * low + done : 3 * high + arc])
        straight.append(curves.straight[low:high])
        is_round.append(curves.round[low:high])
        if arc == len(count):
            break
        piece = pieces[arc]
        points += [piece.control[:, :3].reshape(-1, 2), piece.control[-1:, 3]]
        straight.append(piece.straight)
        is_round.append(np.zeros(len(piece.control), bool))
        count[arc] = len(piece.control)
        done = arc + 1
    return replace(
        curves,
        points=np.concatenate(points),
        straight=np.concatenate(straight),
        round=np.concatenate(is_round),
        offset=np.append(0, np.cumsum(count)),
    )


def measured(curves: ArcCurves, arcs: Sequence[int], beside: Mapping[int, Sequence[int]] | None = None) -> ArcCurves:
    """Measure the deviation of changed arcs anew; samples of some may lie on others beside them instead."""
    deviation = curves.deviation
    away = deviation.away.copy()
    for arc in arcs:
        own = slice(int(deviation.offset[arc]), int(deviation.offset[arc + 1]))
        pieces = [arc_piece(curves, one) for one in (arc, *(beside or {}).get(arc, ()))]
        lines = [points_at(piece.control, np.linspace(0, 1, 4 * _STEPS + 1)).reshape(-1, 2) for piece in pieces]
        away[own] = np.min([from_line(deviation.place[own], line) for line in lines], axis=0)
    return replace(curves, deviation=Deviation(deviation.place, away, deviation.offset))


def from_line(points: Floats, line: Floats) -> Floats:
    """Distance of points from a line of short steps: from the two steps beside the nearest corner; (N,)."""
    tree = shapely.STRtree(shapely.points(line))
    near = tree.query_nearest(shapely.points(points), all_matches=False)[1]
    out = np.full(len(points), np.inf)
    for step in (-1, 0):
        start = line[np.clip(near + step, 0, len(line) - 2)]
        way = line[np.clip(near + step, 0, len(line) - 2) + 1] - start
        share = ((points - start) * way).sum(1) / np.maximum((way * way).sum(1), 1e-12)
        out = np.minimum(out, np.hypot(*(points - start - np.clip(share, 0, 1)[:, None] * way).T))
    return out
