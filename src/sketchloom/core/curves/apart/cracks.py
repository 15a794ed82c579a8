"""The crack line of an arc, which crosses no other, and where the points of its curve belong on it."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, nearest
from sketchloom.core.planar import PlanarMap

__all__ = ["Homes", "crack_line", "homes"]

_STEP = 0.25
"""px between places along a crack line that a point may belong to."""
_LEAN = 1.5
"""px; as far as this counts a point that runs the same way for one that runs across."""
_AHEAD = 1.0
"""px on each side over which a line's direction is taken."""
_STRAY, _OF_LINE = 2.0, 0.1
"""px that a place counts as farther off for each such part of the line's length that it lies before or after."""
_NEAR = 2.0
"""px; most points lie as near to their place, ways and all."""
_SHORT = 4.0
"""px; along a shorter line places go by length alone."""


class Homes(NamedTuple):
    """Where the points of a curve belong on its crack line.

    Attributes
    ----------
    line : (M, 2) float64
        The crack line, from where the curve begins to where it ends.
    walked : (M,) float64
        Length along it, px.
    along : (N,) float64
        How far along it each point belongs; never falls.
    """

    line: Floats
    walked: Floats
    along: Floats

    def places(self) -> Floats:
        """Where each point belongs; (N, 2)."""
        return np.stack([np.interp(self.along, self.walked, self.line[:, axis]) for axis in (0, 1)], 1)


def crack_line(planar: PlanarMap, arc: int) -> Floats:
    """The line through the middles of an arc's cracks, from vertex to vertex; a loop's closes at its first point.

    From the middle of a crack to that of the next it stays within a corner of
    one pixel, half a pixel wide, or on the crack. So the lines of two arcs
    share nothing but their vertices. A corner that is no step of a slanting
    edge is not cut; that is safe as well, and it may be a true one.

    Returns
    -------
    (M, 2) float64
        px.
    """
    low, high = int(planar.offset[arc]), int(planar.offset[arc + 1])
    corner = planar.corner[low:high].astype(np.float64)
    after = np.vstack([corner[1:], planar.vertices[planar.head[arc]]])
    middle = (corner + after) / 2
    kept = np.flatnonzero(_kept_corners(planar.heading[low:high], bool(planar.loops[arc])))
    middle = np.insert(middle, kept, corner[kept], axis=0)
    if planar.loops[arc]:
        return np.vstack([middle, middle[:1]])
    return np.vstack([corner[:1], middle, after[-1:]])


def _kept_corners(heading: Ints, loop: bool) -> Bools:
    """At which cracks' beginnings a line turns a corner that is not one of the two of a step; (N,) bool.

    A step is a single crack between two turns to opposite sides; every slanting edge has them.
    """
    way = (heading.astype(np.int64) - np.roll(heading, 1)) % 4  # 1 to the right, 3 to the left
    if not loop:
        way[0] = 0
    turn = way != 0
    at = np.flatnonzero(turn)
    out: Bools = turn
    if len(at) > 1:
        size = np.append(at[1:], at[0] + len(heading)) - at
        step = (way[at] != way[np.roll(at, -1)]) & (size == 1)
        if not loop:
            step[-1] = False
        out[at[step]] = out[np.roll(at, -1)[step]] = False
    return out


def homes(line: Floats, points: Floats, loop: bool, fixed: Floats | None = None) -> Homes:
    """Find where the points of a curve belong on its crack line, in order.

    Each goes to the nearest place that runs its way: the other side of a thin
    stroke may lie nearer, but runs against it. What is out of order after that
    is put in order by the least change.

    Parameters
    ----------
    line : (M, 2) float
        What `crack_line` gave.
    points : (N, 2) float
        Along the curve, less than a pixel apart; a loop's first is its last again.
    loop : bool
    fixed : (C, 2) float, optional
        Places, as the corners of the frame, that stay where they are if they lie on both.

    References
    ----------
    .. [1] M. Ayer et al., "An empirical distribution function for sampling with
       incomplete information", 1955 (isotonic regression).
    """
    walked, share = _walked(line), _walked(points)
    guess = share / max(float(share[-1]), 1e-9) * walked[-1]
    along = guess
    if loop or walked[-1] >= _SHORT:
        line, walked, along = _by_place(line, walked, points, share, loop)
    along[0], along[-1] = 0.0, walked[-1]
    for at in np.zeros((0, 2)) if fixed is None else fixed:
        mine, theirs = np.flatnonzero((points == at).all(1)), np.flatnonzero((line == at).all(1))
        if len(mine) and len(theirs) and 0 < mine[0] < len(points) - 1:
            here = walked[theirs[0]]
            along[: mine[0]] = np.minimum(along[: mine[0]], here)
            along[mine[0]] = here
            along[mine[0] + 1 :] = np.maximum(along[mine[0] + 1 :], here)
    return Homes(line, walked, along)


def _by_place(line: Floats, walked: Floats, points: Floats, share: Floats, loop: bool) -> tuple[Floats, Floats, Floats]:
    """Where points belong by the nearest place that runs their way; a loop's line begins where its points do.

    A place counts as farther off the more it lies before or after the share of
    the line that a point comes at: what leaves the line altogether goes on
    along it.
    """
    pace = float(np.median(np.diff(share))) if len(share) > 1 else _AHEAD
    mine = np.hstack([points, _LEAN * _ways(points, max(1, round(_AHEAD / max(pace, 1e-6))), loop)])
    if loop:
        grid, places = _places(line, walked, loop)
        line = _begun(line, walked, float(grid[nearest(places, mine[:1], _NEAR)[0]]))
        walked = _walked(line)
    whole = walked[-1]
    grid, places = _places(line, walked, loop)
    if loop:  # the points may begin a little before its begin, and end after it
        grid, places = np.concatenate([grid - whole, grid, grid + whole]), np.tile(places, (3, 1))
    strict = _STRAY / (_OF_LINE * whole + _SHORT)
    guess = share / max(float(share[-1]), 1e-9) * whole
    along = grid[nearest(np.column_stack([places, strict * grid]), np.column_stack([mine, strict * guess]), _NEAR)]
    return line, walked, np.clip(rising(along), 0.0, whole)


def rising(values: Floats) -> Floats:
    """The nearest values, by least squares, that never fall; (N,).

    Neighbours that fall are pooled to their mean until none does (Ayer et al.
    1955, as in `homes`). SciPy has this in a part that takes long to import.
    """
    if not (np.diff(values) < 0).any():
        return values
    sums: list[float] = []
    counts: list[int] = []
    for value in values.tolist():
        pool, count = value, 1
        while sums and sums[-1] * count > pool * counts[-1]:
            pool, count = pool + sums.pop(), count + counts.pop()
        sums.append(pool)
        counts.append(count)
    return np.repeat(np.array(sums) / counts, counts)


def _places(line: Floats, walked: Floats, loop: bool) -> tuple[Floats, Floats]:
    """Places along a line: how far, and where with which way it runs there; (K,) and (K, 4)."""
    grid = np.linspace(0, walked[-1], max(2, int(np.ceil(walked[-1] / _STEP))) + 1)
    where = _at(line, walked, grid)
    return grid, np.hstack([where, _LEAN * _ways(where, round(_AHEAD / _STEP), loop)])


def _begun(line: Floats, walked: Floats, at: float) -> Floats:
    """A closed line begun elsewhere."""
    row = int(np.clip(np.searchsorted(walked, at, "right"), 1, len(line) - 1))
    first = _at(line, walked, np.array([at]))
    out = np.vstack([first, line[row:], line[1:row], first])
    return np.asarray(out[np.append(True, np.abs(np.diff(out, axis=0)).max(1) > 1e-9)])


def _walked(line: Floats) -> Floats:
    return np.cumsum(np.hypot(*np.diff(line, axis=0, prepend=line[:1]).T))


def _at(line: Floats, walked: Floats, along: Floats) -> Floats:
    return np.stack([np.interp(along, walked, line[:, axis]) for axis in (0, 1)], 1)


def _ways(points: Floats, reach: int, loop: bool) -> Floats:
    """Unit directions of a line of points, from some points back to some ahead; (N, 2)."""
    count = len(points)
    place = np.arange(count)
    if loop:  # the last is the first again
        back, ahead = points[(place - reach) % max(count - 1, 1)], points[(place + reach) % max(count - 1, 1)]
    else:
        back, ahead = points[np.maximum(place - reach, 0)], points[np.minimum(place + reach, count - 1)]
    way = ahead - back
    return np.asarray(way / np.maximum(np.hypot(*way.T), 1e-9)[:, None])
