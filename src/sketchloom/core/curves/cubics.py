"""Least-squares cubics through many stretches of points at once."""

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from sketchloom.core.arrays import Bools, Floats, Ints, ranges

Complexes = NDArray[np.complexfloating[Any]]

__all__ = ["Fits", "Track", "fit_arcs", "fit_cubics", "rest_of_cubics"]

_RIDGE = 1e-5
_WINDOW = 5
_ROUNDS = 4
_FEET = 2
_TRUSTED = 0.3
_DAMPING = 1e-4
_ARC_ROUNDS = 4
_MOST_BOW = 0.6
"""Sagitta over half the chord; 0.58 is a third of a turn."""


class Track(NamedTuple):
    """Points that curves are fitted to.

    Attributes
    ----------
    points : (N, 2) float64
        Edge samples, stretch after stretch.
    weight : (N,) float64
    node : (N, 2) float64
        Where a node at each point would be put.
    along : (N,) float64
        Length along the points.
    limit : (N,) float64
        Bound on the running mean of the residual, px; alike along an arc.
    rms_limit : (N,) float64
        Bound on its rms, px.
    ease : (N,) float64
        How many times farther off a straight line may be; at least 1.
    far : (N,) float64
        Bound on the largest residual of a trusted point, px.
    """

    points: Floats
    weight: Floats
    node: Floats
    along: Floats
    limit: Floats
    rms_limit: Floats
    ease: Floats
    far: Floats


class Fits(NamedTuple):
    """One curve for each stretch.

    Attributes
    ----------
    control : (S, 4, 2) float64
    straight : (S,) bool
        The chord fits already.
    error : (S,) float64
        Largest running mean of the signed residual, px.
    rms : (S,) float64
        Of the residual, px.
    largest : (S,) float64
        Largest residual of a trusted point, px.
    worst : (S,) int
        Point where the running mean is largest.
    """

    control: Floats
    straight: Bools
    error: Floats
    rms: Floats
    largest: Floats
    worst: Ints


class _Batch(NamedTuple):
    """Points of all stretches, one after the other; the plane is complex, x + i y."""

    at: Ints  # into the track
    offset: Ints
    size: Ints
    points: Complexes
    weight: Floats
    start: Complexes
    end: Complexes

    def spread(self, values: Any) -> Any:
        """Repeat a value of each stretch for its points."""
        return np.repeat(values, self.size)

    def sums(self, values: Any) -> Any:
        """Sum over each stretch."""
        return np.add.reduceat(values, self.offset, axis=0)


def _plane(points: Floats) -> Complexes:
    return np.ascontiguousarray(points, np.float64).view(np.complex128)[..., 0]


def _batch(track: Track, first: Ints, last: Ints) -> _Batch:
    size = last - first + 1
    at, offset = ranges(first, size)
    node = _plane(track.node)
    return _Batch(at, offset, size, _plane(track.points)[at], track.weight[at], node[first], node[last])


def _solve_free(batch: _Batch, u: Floats) -> Complexes:
    """Both handles free: one 2x2 system a stretch, shared by x and y; (S, 4)."""
    v = 1 - u
    b1, b2 = 3 * u * v * v, 3 * u * u * v
    third = (batch.end - batch.start) / 3
    chord = batch.spread(batch.start) + u * batch.spread(3 * third)
    rest = batch.points - chord  # a straight cubic runs evenly along its chord
    w1, w2 = batch.weight * b1, batch.weight * b2
    a11, a12, a22 = batch.sums(w1 * b1), batch.sums(w1 * b2), batch.sums(w2 * b2)
    ridge = _RIDGE * (a11 + a22) + 1e-9
    a11, a22 = a11 + ridge, a22 + ridge
    r1, r2 = batch.sums(w1 * rest), batch.sums(w2 * rest)
    det = a11 * a22 - a12**2
    d1, d2 = (r1 * a22 - r2 * a12) / det, (r2 * a11 - r1 * a12) / det
    return np.stack([batch.start, batch.start + third + d1, batch.end - third + d2, batch.end], 1)


def _run(batch: _Batch, control: Complexes, u: Floats) -> tuple[Complexes, Complexes]:
    """Position and speed at the parameters."""
    p0, p1, p2, p3 = control.T
    c1, c2, c3 = 3 * (p1 - p0), 3 * (p2 - 2 * p1 + p0), p3 - 3 * p2 + 3 * p1 - p0
    s1, s2, s3 = batch.spread(c1), batch.spread(c2), batch.spread(c3)
    s3u = s3 * u
    position = ((s3u + s2) * u + s1) * u + batch.spread(p0)
    return position, (3 * s3u + 2 * s2) * u + s1


class _Feet(NamedTuple):
    """Parameters nearer to the foot of each point, and what is left across the curve."""

    u: Floats
    normal: Complexes
    away: Floats


def _feet(batch: _Batch, control: Complexes, u: Floats) -> _Feet:
    """One step of each parameter towards the foot of its point.

    References
    ----------
    .. [1] P. J. Schneider, "An algorithm for automatically fitting digitized
       curves", Graphics Gems, 1990.
    """
    position, speed = _run(batch, control, u)
    pace = np.maximum(np.abs(speed), 1e-9)
    along = np.conj(speed) * (batch.points - position)
    step = np.clip(along.real / pace**2, -0.2, 0.2)
    return _Feet(np.clip(u + step, 0, 1), 1j * speed / pace, along.imag / pace)


def _improve(batch: _Batch, control: Complexes, feet: _Feet, tangents: tuple[Complexes, Complexes] | None) -> Complexes:
    """One Gauss-Newton step of the handles on the distances along the normals.

    Only the normal part of each distance counts, as the foot points may slide;
    a small damping holds the handles where the points say nothing. Handles
    with a tangent may not leave it: a stiff penalty across it.

    References
    ----------
    .. [1] W. Wang, H. Pottmann and Y. Liu, "Fitting B-spline curves to point
       clouds by curvature-based squared distance minimization", ACM
       Transactions on Graphics 25(2), 2006 (tangent distance minimization).
    """
    u, v = feet.u, 1 - feet.u
    b1, b2 = 3 * u * v * v, 3 * u * u * v
    nx, ny = feet.normal.real, feet.normal.imag
    matrix = np.empty((len(control), 4, 4))
    right = np.empty((len(control), 4))
    squares = nx * nx, nx * ny, ny * ny
    for i, j, product in ((0, 0, b1 * b1), (0, 2, b1 * b2), (2, 2, b2 * b2)):
        product = product * batch.weight
        xx, xy, yy = (batch.sums(product * square) for square in squares)
        matrix[:, i, j], matrix[:, i, j + 1], matrix[:, i + 1, j], matrix[:, i + 1, j + 1] = xx, xy, xy, yy
    matrix[:, 2:, :2] = matrix[:, :2, 2:]
    for i, basis in ((0, b1), (2, b2)):
        pull = batch.weight * basis * feet.away
        right[:, i], right[:, i + 1] = batch.sums(pull * nx), batch.sums(pull * ny)
    trace = np.trace(matrix, axis1=1, axis2=2) + 1e-9
    matrix[:, np.arange(4), np.arange(4)] += (_DAMPING * trace)[:, None]
    for place, tangent in zip((0, 2), tangents or (), strict=False):
        tied = np.isfinite(tangent)
        across = np.stack([-tangent[tied].imag, tangent[tied].real], 1)
        penalty = 1e7 * trace[tied, None, None] * across[:, :, None] * across[:, None, :]
        matrix[tied, place : place + 2, place : place + 2] += penalty
    step = np.linalg.solve(matrix, right[..., None])[..., 0]
    reach = np.abs(control[:, 3] - control[:, 0]) + 1.0
    step *= np.minimum(1.0, 0.5 * reach / np.maximum(np.linalg.norm(step, axis=1), 1e-12))[:, None]
    out = control.copy()
    out[:, 1:3] += step.view(np.complex128)
    return out


def _onto_tangents(control: Complexes, tangents: tuple[Complexes, Complexes]) -> Complexes:
    """Turn tied handles onto their tangents, with at least a little length forwards."""
    chord = np.abs(control[:, 3] - control[:, 0])
    out = control.copy()
    for node, handle, tangent, sign in ((0, 1, tangents[0], 1.0), (3, 2, tangents[1], -1.0)):
        tied = np.isfinite(tangent)
        arm = (np.conj(tangent[tied]) * (out[tied, handle] - out[tied, node])).real * sign
        arm = np.clip(arm, 0.02 * chord[tied], 1.5 * chord[tied])
        out[tied, handle] = out[tied, node] + sign * arm * tangent[tied]
    return out


class _Rest(NamedTuple):
    error: Floats
    rms: Floats
    largest: Floats
    worst: Ints


def _rest(batch: _Batch, away: Floats) -> _Rest:
    """Largest running mean, rms, largest trusted value, and where, of signed distances."""
    total = np.append(0.0, np.cumsum(away * batch.weight))
    mass = np.append(0.0, np.cumsum(batch.weight))
    place = np.arange(len(away))
    low = np.maximum(place - _WINDOW, batch.spread(batch.offset))
    high = np.minimum(place + _WINDOW + 1, batch.spread(batch.offset + batch.size))
    mean = np.abs((total[high] - total[low]) / np.maximum(mass[high] - mass[low], 1.0))
    error = np.maximum.reduceat(mean, batch.offset)
    at_worst = np.where(mean >= batch.spread(error), batch.at, np.iinfo(np.int64).max)
    rms = np.sqrt(batch.sums(batch.weight * away**2) / np.maximum(batch.sums(batch.weight), 1.0))
    largest = np.maximum.reduceat(np.abs(away) * (batch.weight > _TRUSTED), batch.offset)
    return _Rest(error, rms, largest, np.minimum.reduceat(at_worst, batch.offset))


def _first_guess(track: Track, batch: _Batch, first: Ints, last: Ints) -> Floats:
    reach = np.maximum(track.along[last] - track.along[first], 1e-9)
    return (track.along[batch.at] - batch.spread(track.along[first])) / batch.spread(reach)


def fit_cubics(
    track: Track,
    first: Ints,
    last: Ints,
    tangents: tuple[Floats, Floats] | None = None,
) -> Fits:
    """Fit a chord or one cubic to each stretch of a track.

    Parameters
    ----------
    track : Track
    first, last : (S,) int
        First and last point of each stretch; at least two points.
    tangents : ((S, 2), (S, 2)) float, optional
        Unit directions in which each curve leaves and arrives; NaN where free.
        With them no chord is taken.

    Notes
    -----
    All stretches are solved together: sums over stretches give small normal
    systems, and one step moves all foot points at once.
    """
    if tangents is None:
        batch = _batch(track, first, last)
        fits = _chords(batch, track, first)
        bent = np.flatnonzero(~fits.straight)
        if not len(bent):
            return fits
        curves = _cubics(track, first[bent], last[bent], None)
        for kept, found in zip(fits, curves, strict=True):
            kept[bent] = found
        return _tame(fits, track.along[last] - track.along[first], last - first)
    tied = _plane(tangents[0]), _plane(tangents[1])
    return _cubics(track, first, last, tied)


def _chords(batch: _Batch, track: Track, first: Ints) -> Fits:
    """Chords, and which of them do; what they are off by is told as if it were a curve's."""
    chord = batch.end - batch.start
    length = np.abs(chord)
    unit = chord / np.maximum(length, 1e-9)
    away = (batch.spread(np.conj(unit)) * (batch.points - batch.spread(batch.start))).imag
    rest = _rest(batch, away / batch.spread(track.ease[first]))
    straight = (rest.error <= track.limit[first]) & (rest.rms <= track.rms_limit[first]) & (length > 1e-6)
    return Fits(_straight(batch.start, batch.end), straight, *rest)


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
    batch = _batch(track, first, last)
    chord = batch.end - batch.start
    half = np.maximum(np.abs(chord) / 2, 1e-9)
    unit = chord / (2 * half)
    across = batch.spread(np.conj(unit)) * (batch.points - batch.spread((batch.start + batch.end) / 2))
    x, y = across.real / batch.spread(half), across.imag / batch.spread(half)
    bow = 1 - x * x
    sagitta = batch.sums(batch.weight * bow * y) / np.maximum(batch.sums(batch.weight * bow * bow), 1e-9)
    for _ in range(_ARC_ROUNDS):
        s = np.clip(sagitta, -_MOST_BOW, _MOST_BOW)
        s = np.where(np.abs(s) < 1e-6, 1e-6, s)
        middle, radius = (s * s - 1) / (2 * s), (s * s + 1) / (2 * np.abs(s))
        shift = (s * s + 1) / (2 * s * s)  # of the middle, as the sagitta grows
        rise = y - batch.spread(middle)
        reach = np.maximum(np.hypot(x, rise), 1e-9)
        away = reach - batch.spread(radius)
        slope = -rise / reach * batch.spread(shift) - batch.spread((s * s - 1) / (2 * s * s) * np.sign(s))
        top, below = batch.sums(batch.weight * slope * away), batch.sums(batch.weight * slope * slope)
        sagitta = s - np.clip(top / np.maximum(below, 1e-12), -0.1, 0.1)
    s = np.clip(sagitta, -_MOST_BOW, _MOST_BOW)
    s = np.where(np.abs(s) < 1e-6, 1e-6, s)
    middle, radius = (s * s - 1) / (2 * s), (s * s + 1) / (2 * np.abs(s))
    away = (np.hypot(x, y - batch.spread(middle)) - batch.spread(radius)) * batch.spread(half)
    quarter = np.arctan(np.abs(s))  # a quarter of the angle that the arc spans
    arm = 4 / 3 * np.tan(quarter) * radius * half
    lean = np.exp(2j * quarter * np.sign(s))
    control = np.stack(
        [batch.start, batch.start + arm * unit * lean, batch.end - arm * unit * np.conj(lean), batch.end], 1
    )
    rest = _rest(batch, away)
    error = np.where(np.abs(s) < _MOST_BOW, rest.error, np.inf)
    points = control.view(np.float64).reshape(-1, 4, 2)
    return Fits(points, np.zeros(len(first), bool), error, rest.rms, rest.largest, rest.worst)


def _straight(start: Complexes, end: Complexes) -> Floats:
    third = (end - start) / 3
    return np.stack([start, start + third, end - third, end], 1).view(np.float64).reshape(-1, 4, 2)


def _cubics(track: Track, first: Ints, last: Ints, tangents: tuple[Complexes, Complexes] | None) -> Fits:
    batch = _batch(track, first, last)
    u = _first_guess(track, batch, first, last)
    control = _solve_free(batch, u)
    if tangents is not None:
        control = _onto_tangents(control, tangents)
    feet = _feet(batch, control, u)
    for _ in range(_ROUNDS):
        control = _improve(batch, control, feet, tangents)
        feet = _feet(batch, control, feet.u)
    if tangents is not None:
        control = _onto_tangents(control, tangents)
    feet = _feet(batch, control, feet.u)
    points = control.view(np.float64).reshape(-1, 4, 2)
    return Fits(points, np.zeros(len(first), bool), *_rest(batch, feet.away))


def _tame(fits: Fits, reach: Floats, count: Ints) -> Fits:
    """Refuse curves whose handles run away; with hardly a point between, take the chord."""
    control = fits.control
    handle = np.maximum(
        np.linalg.norm(control[:, 1] - control[:, 0], axis=1), np.linalg.norm(control[:, 3] - control[:, 2], axis=1)
    )
    length = np.linalg.norm(control[:, 3] - control[:, 0], axis=1)
    wild = ((handle > 1.2 * np.maximum(reach, 1.0)) | (length < 1e-6)) & ~fits.straight
    few = wild & (count < 3)
    control[few] = _straight(_plane(control[few, 0]), _plane(control[few, 3]))
    error = np.where(few, 0.0, np.where(wild, np.inf, fits.error))
    return fits._replace(straight=fits.straight | few, error=error)


def rest_of_cubics(track: Track, first: Ints, last: Ints, control: Floats) -> Floats:
    """Distance of every point of a track from the curve it lies along.

    Returns
    -------
    (N,) float64
        px; 0 for points that are not trusted.
    """
    batch = _batch(track, first, last)
    curves = np.ascontiguousarray(control).view(np.complex128)[..., 0]
    feet = _feet(batch, curves, _first_guess(track, batch, first, last))
    for _ in range(_FEET):
        feet = _feet(batch, curves, feet.u)
    away = np.abs(feet.away) * (batch.weight > _TRUSTED)
    out = np.zeros(len(track.points))
    np.maximum.at(out, batch.at, away)
    return out
