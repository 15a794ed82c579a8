"""Least-squares circular arcs through many stretches of points at once."""

import numpy as np

from sketchloom.core.arrays import Floats, Ints
from sketchloom.core.curves.fit.track import Fits, Track, batch_of, by_stretch, length, rest_of

__all__ = ["fit_arcs"]

_ARC_ROUNDS = 4
_MOST_BOW = 0.6
"""Sagitta over half the chord; 0.58 is a third of a turn."""


def fit_arcs(track: Track, first: Ints, last: Ints) -> Fits:
    """Fit a circular arc of at most about a third of a turn, written as a cubic, to each stretch.

    The ends are given, so the sagitta is all there is to find: a few
    Gauss-Newton steps on the distances from the circle. The cubic's handles
    are 4/3 tan(angle / 4) of the radius, which leaves 2.7e-4 of the radius
    for a quarter turn and about 1e-3 for a third. Stretches that bend more
    have an infinite error.

    References
    ----------
    .. [1] M. Goldapp, "Approximation of circular arcs by cubic polynomials",
       Computer Aided Geometric Design 8, 1991.
    """
    batch = batch_of(track, first, last)
    chord = batch.end - batch.start
    half = np.maximum(length(chord) / 2, 1e-9)
    ux, uy = chord / (2 * half)
    dx, dy = batch.points - batch.spread((batch.start + batch.end) / 2)
    cosine, sine = batch.spread(np.stack([ux, uy]) / half)
    x, y = cosine * dx + sine * dy, cosine * dy - sine * dx
    bow = 1 - x * x
    sagitta: Floats = batch.sums(batch.weight * bow * y) / np.maximum(batch.sums(batch.weight * bow * bow), 1e-9)
    for _ in range(_ARC_ROUNDS):
        s = _bow(sagitta)
        middle, radius = (s * s - 1) / (2 * s), (s * s + 1) / (2 * np.abs(s))
        shift = (s * s + 1) / (2 * s * s)  # of the middle, as the sagitta grows
        rise = y - batch.spread(middle)
        reach = np.maximum(np.sqrt(x * x + rise * rise), 1e-9)
        away = reach - batch.spread(radius)
        slope = -rise / reach * batch.spread(shift) - batch.spread((s * s - 1) / (2 * s * s) * np.sign(s))
        top, below = batch.sums(batch.weight * slope * away), batch.sums(batch.weight * slope * slope)
        sagitta = s - np.clip(top / np.maximum(below, 1e-12), -0.1, 0.1)
    s = _bow(sagitta)
    middle, radius = (s * s - 1) / (2 * s), (s * s + 1) / (2 * np.abs(s))
    rise = y - batch.spread(middle)
    away = (np.sqrt(x * x + rise * rise) - batch.spread(radius)) * batch.spread(half)
    quarter = np.arctan(np.abs(s))  # a quarter of the angle that the arc spans
    arm = 4 / 3 * np.tan(quarter) * radius * half
    cos, sin = np.cos(2 * quarter), np.sin(2 * quarter) * np.sign(s)
    leave = arm * np.stack([ux * cos - uy * sin, uy * cos + ux * sin])
    arrive = arm * np.stack([ux * cos + uy * sin, uy * cos - ux * sin])
    control = np.stack([batch.start, batch.start + leave, batch.end - arrive, batch.end])
    rest = rest_of(batch, away)
    error = np.where(np.abs(s) < _MOST_BOW, rest.error, np.inf)
    return Fits(by_stretch(control), np.zeros(len(first), bool), error, rest.rms, rest.largest, rest.worst)


def _bow(sagitta: Floats) -> Floats:
    """Keep a sagitta within a third of a turn and off nothing."""
    s = np.clip(sagitta, -_MOST_BOW, _MOST_BOW)
    return np.where(np.abs(s) < 1e-6, 1e-6, s)
