"""Edges that a hand has drawn: their own exact samples in the place of what the picture shows."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, kd_tree
from sketchloom.core.regions import DrawnEdge

__all__ = ["on_drawn_edges"]

_REACH = 1.0
"""px; the cracks of an edge lie no farther from it than the diagonal of a pixel, less what a sample is off."""
_RUN = 4
"""Samples in a row; fewer are an arc that only crosses the line."""


def on_drawn_edges(
    points: Floats, offset: Ints, loops: Bools, drawn: tuple[DrawnEdge, ...], held: Bools | None = None
) -> tuple[Floats, Bools]:
    """Move the samples that run along a drawn edge onto it.

    Parameters
    ----------
    points : (M, 2) float
        Samples arc after arc, px, about one a pixel.
    offset : (A + 1,) int
        Where each arc begins.
    loops : (A,) bool
    drawn : tuple of DrawnEdge
        Later ones lie over earlier ones.
    held : (M,) bool, optional
        Samples that stay where they are: those on the frame.

    Returns
    -------
    points : (M, 2) float
    given : (M,) bool
        Which samples lie on a drawn edge now.
    """
    out, given = points.copy(), np.zeros(len(points), bool)
    if not len(points):
        return out, given
    for edge in drawn:
        foot, away = _feet(edge, points)
        near = away <= _REACH if held is None else (away <= _REACH) & ~held
        here = _in_runs(near, offset, loops)
        out[here] = foot[here]
        given |= here
    return out, given


def _feet(edge: DrawnEdge, points: Floats) -> tuple[Floats, Floats]:
    """The nearest point of an edge to each of some points, and how far it lies away."""
    line = np.asarray(edge.points, float)
    line = np.vstack([line, line[:1]]) if edge.closed else line
    start, way = line[:-1], np.diff(line, axis=0)
    length = np.hypot(*way.T)
    pieces = np.maximum(1, np.ceil(length)).astype(np.int64)  # so that the nearest middle is on the nearest piece
    of = np.repeat(np.arange(len(start)), pieces)
    share = (np.arange(len(of)) - np.repeat(np.cumsum(pieces) - pieces, pieces) + 0.5) / pieces[of]
    _, near = kd_tree(start[of] + share[:, None] * way[of]).query(points, k=min(3, len(of)))
    best, foot = np.full(len(points), np.inf), np.zeros_like(points)
    for column in np.atleast_2d(near.T):
        a, d = start[of[column]], way[of[column]]
        t = np.clip(((points - a) * d).sum(1) / np.maximum((d * d).sum(1), 1e-12), 0, 1)
        at = a + t[:, None] * d
        away = np.hypot(*(points - at).T)
        closer = away < best
        best[closer], foot[closer] = away[closer], at[closer]
    return foot, best


def _in_runs(near: Bools, offset: Ints, loops: Bools) -> Bools:
    """Those of some samples that have enough like them beside them on their arc, or are all of it."""
    out = np.zeros_like(near)
    for arc in np.flatnonzero(np.diff(np.append(0, np.cumsum(near))[offset])):
        low, high = int(offset[arc]), int(offset[arc + 1])
        own = near[low:high]
        if own.all():
            out[low:high] = True
            continue
        begin = int(np.argmin(own)) if loops[arc] else 0
        order = np.roll(np.arange(low, high), -begin)
        turn = np.flatnonzero(np.diff(near[order].astype(np.int8), prepend=0, append=0)).reshape(-1, 2)
        for start, stop in turn.tolist():
            if stop - start >= _RUN:
                out[order[start:stop]] = True
    return out
