"""What work by hand gives, and curves through what was."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves.arcs import Piece
from sketchloom.core.curves.fit.track import Track
from sketchloom.core.curves.path import points_at

__all__ = ["Change", "points_along", "track_through", "way_at"]

_PLENTY = 60
"""Points along a cubic, evenly in its parameter."""


class Change(NamedTuple):
    """A stretch of an arc, before and after."""

    arc: int
    old: Piece
    new: Piece


def way_at(control: Floats, at_start: bool) -> Floats:
    """Direction in which a curve leaves its start, or arrives at its end; unit."""
    order = control if at_start else control[::-1]
    for other in order[1:]:
        way = (other - order[0]) * (1 if at_start else -1)
        if np.hypot(*way) > 1e-6:
            return np.asarray(way / np.hypot(*way))
    return np.zeros(2)


def points_along(control: Floats) -> Floats:
    """Points along curves, evenly in the parameter."""
    return points_at(control, np.linspace(0, 1, _PLENTY)).reshape(-1, 2)


def track_through(points: Floats, limit: float) -> Track:
    """A track through points, thinned to half a pixel apart."""
    step = np.hypot(*np.diff(points, axis=0, prepend=points[:1]).T)
    along = np.cumsum(step)
    whole = max(8, int(along[-1] * 2))
    even = np.linspace(0, along[-1], whole)
    spread = np.stack([np.interp(even, along, points[:, axis]) for axis in (0, 1)], 1)
    ones = np.ones(whole)
    return Track(spread, ones, spread, even, limit * ones, limit * ones, ones, 3 * limit * ones)
