"""Least-squares cubics through many stretches of points at once."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, ranges

__all__ = ["Fits", "Track", "fit_cubics", "rest_of_cubics"]

_RIDGE = 1e-5
_WINDOW = 5
_ROUNDS = 2
_FEET = 3
_DAMPING = 1e-4


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
    """

    points: Floats
    weight: Floats
    node: Floats
    along: Floats


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
    at: Ints  # into the track, stretch after stretch
    offset: Ints
    which: Ints
    size: Ints
    points: Floats
    weight: Floats
    start: Floats
    end: Floats


def _batch(track: Track, first: Ints, last: Ints) -> _Batch:
    size = last - first + 1
    index, offset = ranges(first, size)
    which = np.repeat(np.arange(len(first)), size)
    return _Batch(
        index, offset, which, size, track.points[index], track.weight[index], track.node[first], track.node[last]
    )


def _sums(batch: _Batch, values: Floats) -> Floats:
    return np.add.reduceat(values, batch.offset, axis=0)


def _at(control: Floats, which: Ints, u: Floats) -> tuple[Floats, Floats, Floats]:
    """Position, first and second derivative."""
    p0, p1, p2, p3 = (control[which, i] for i in range(4))
    c1, c2, c3 = 3 * (p1 - p0), 3 * (p2 - 2 * p1 + p0), p3 - 3 * p2 + 3 * p1 - p0
    t = u[:, None]
    return ((c3 * t + c2) * t + c1) * t + p0, (3 * c3 * t + 2 * c2) * t + c1, 6 * c3 * t + 2 * c2


def _solve_free(batch: _Batch, u: Floats) -> Floats:
    """Both handles free: one 2x2 system a stretch, shared by x and y."""
    v = 1 - u
    b1, b2 = 3 * u * v * v, 3 * u * u * v
    chord = batch.end - batch.start
    third = batch.start + chord / 3, batch.end - chord / 3
    straight = (v**3 + b1 * (2 / 3) + b2 / 3)[:, None] * batch.start[batch.which]
    straight += (u**3 + b2 * (2 / 3) + b1 / 3)[:, None] * batch.end[batch.which]
    rest = batch.points - straight  # what is left beyond the straight chord
    w1, w2 = batch.weight * b1, batch.weight * b2
    a11, a12, a22 = _sums(batch, w1 * b1), _sums(batch, w1 * b2), _sums(batch, w2 * b2)
    ridge = _RIDGE * (a11 + a22) + 1e-9
    a11, a22 = a11 + ridge, a22 + ridge
    r1, r2 = _sums(batch, w1[:, None] * rest), _sums(batch, w2[:, None] * rest)
    det = (a11 * a22 - a12**2)[:, None]
    d1 = (r1 * a22[:, None] - r2 * a12[:, None]) / det
    d2 = (r2 * a11[:, None] - r1 * a12[:, None]) / det
    return np.stack([batch.start, third[0] + d1, third[1] + d2, batch.end], 1)


def _solve_tied(batch: _Batch, u: Floats, leave: Floats, arrive: Floats) -> Floats:
    """Handles along given unit tangents where those are not NaN: one 4x4 system a stretch."""
    v = 1 - u
    b1, b2 = 3 * u * v * v, 3 * u * u * v
    rest = (
        batch.points - (v**3 + b1)[:, None] * batch.start[batch.which] - (u**3 + b2)[:, None] * batch.end[batch.which]
    )
    w1, w2 = batch.weight * b1, batch.weight * b2
    a11, a12, a22 = _sums(batch, w1 * b1), _sums(batch, w1 * b2), _sums(batch, w2 * b2)
    r1, r2 = _sums(batch, w1[:, None] * rest), _sums(batch, w2[:, None] * rest)
    count = len(a11)
    matrix = np.zeros((count, 4, 4))
    scale = a11 + a22 + 1e-9
    third = (batch.end - batch.start) / 3
    ridge = 1e-4 * scale
    for axis in range(2):
        matrix[:, axis, axis], matrix[:, 2 + axis, 2 + axis] = a11 + ridge, a22 + ridge
        matrix[:, axis, 2 + axis] = matrix[:, 2 + axis, axis] = a12
    right = np.concatenate([r1 + ridge[:, None] * third, r2 - ridge[:, None] * third], 1)
    _tie(matrix, scale, (leave, arrive))
    handles = np.linalg.solve(matrix, right[..., None])[..., 0]
    return np.stack([batch.start, batch.start + handles[:, :2], batch.end + handles[:, 2:], batch.end], 1)


def _improve(batch: _Batch, control: Floats, u: Floats, tangents: tuple[Floats, Floats] | None) -> Floats:
    """One Gauss-Newton step of the handles on the distances along the normals.

    Only the normal part of each distance counts, as the foot points may slide;
    a small damping holds the handles where the points say nothing.

    References
    ----------
    .. [1] W. Wang, H. Pottmann and Y. Liu, "Fitting B-spline curves to point
       clouds by curvature-based squared distance minimization", ACM
       Transactions on Graphics 25(2), 2006 (tangent distance minimization).
    """
    position, speed, _ = _at(control, batch.which, u)
    pace = np.maximum(np.sqrt((speed**2).sum(1)), 1e-9)
    nx, ny = -speed[:, 1] / pace, speed[:, 0] / pace
    rest = batch.points - position
    away = nx * rest[:, 0] + ny * rest[:, 1]
    v = 1 - u
    b1, b2 = 3 * u * v * v, 3 * u * u * v
    column = np.stack([b1 * nx, b1 * ny, b2 * nx, b2 * ny], 1)
    weighted = column * batch.weight[:, None]
    upper = np.triu_indices(4)
    sums = _sums(batch, np.concatenate([weighted[:, upper[0]] * column[:, upper[1]], weighted * away[:, None]], 1))
    matrix = np.empty((len(control), 4, 4))
    matrix[:, upper[0], upper[1]] = matrix[:, upper[1], upper[0]] = sums[:, :10]
    trace = np.trace(matrix, axis1=1, axis2=2) + 1e-9
    matrix[:, np.arange(4), np.arange(4)] += (_DAMPING * trace)[:, None]
    if tangents is not None:
        _tie(matrix, trace, tangents)
    step = np.linalg.solve(matrix, sums[:, 10:, None])[..., 0]
    reach = np.linalg.norm(control[:, 3] - control[:, 0], axis=1) + 1.0
    size = np.linalg.norm(step, axis=1)
    step *= np.minimum(1.0, 0.5 * reach / np.maximum(size, 1e-12))[:, None]
    out = control.copy()
    out[:, 1] += step[:, :2]
    out[:, 2] += step[:, 2:]
    return out


def _tie(matrix: Floats, scale: Floats, tangents: tuple[Floats, Floats]) -> None:
    """Forbid handles to leave the given tangents, by a stiff penalty across them."""
    for place, tangent in zip((0, 2), tangents, strict=True):
        tied = np.isfinite(tangent[:, 0])
        normal = np.stack([-tangent[tied, 1], tangent[tied, 0]], 1)
        penalty = 1e7 * scale[tied, None, None] * normal[:, :, None] * normal[:, None, :]
        matrix[tied, place : place + 2, place : place + 2] += penalty


def _onto_tangents(batch: _Batch, control: Floats, tangents: tuple[Floats, Floats]) -> Floats:
    """Put tied handles exactly onto their tangents, at least a little forwards."""
    chord = np.linalg.norm(batch.end - batch.start, axis=1)
    least, most = 0.02 * chord, 1.5 * chord
    out = control.copy()
    for node, handle, tangent, sign in ((0, 1, tangents[0], 1.0), (3, 2, tangents[1], -1.0)):
        tied = np.isfinite(tangent[:, 0])
        arm = out[tied, handle] - out[tied, node]
        reach = np.clip(sign * (arm * tangent[tied]).sum(1), least[tied], most[tied])
        out[tied, handle] = out[tied, node] + sign * reach[:, None] * tangent[tied]
    return out


def _residual(batch: _Batch, away: Floats) -> tuple[Floats, Floats, Floats, Ints]:
    """Largest running mean, rms, largest trusted, and where, of signed distances."""
    total = np.append(0.0, np.cumsum(away * batch.weight))
    mass = np.append(0.0, np.cumsum(batch.weight))
    place = np.arange(len(away))
    low = np.maximum(place - _WINDOW, batch.offset[batch.which])
    high = np.minimum(place + _WINDOW + 1, (batch.offset + batch.size)[batch.which])
    mean = np.abs((total[high] - total[low]) / np.maximum(mass[high] - mass[low], 1.0))
    error = np.maximum.reduceat(mean, batch.offset)
    at_worst = np.where(mean >= error[batch.which], batch.at, np.iinfo(np.int64).max)
    worst = np.minimum.reduceat(at_worst, batch.offset)
    rms = np.sqrt(_sums(batch, batch.weight * away**2) / np.maximum(_sums(batch, batch.weight), 1.0))
    largest = np.maximum.reduceat(np.abs(away) * (batch.weight > 0.3), batch.offset)
    return error, rms, largest, worst


def _away_from(batch: _Batch, control: Floats, u: Floats) -> Floats:
    position, speed, _ = _at(control, batch.which, u)
    rest = batch.points - position
    pace = np.sqrt((speed**2).sum(1))
    return (speed[:, 0] * rest[:, 1] - speed[:, 1] * rest[:, 0]) / np.maximum(pace, 1e-9)


def _newton(batch: _Batch, control: Floats, u: Floats) -> Floats:
    """One step of each parameter towards the foot of its point.

    References
    ----------
    .. [1] P. J. Schneider, "An algorithm for automatically fitting digitized
       curves", Graphics Gems, 1990.
    """
    position, speed, bend = _at(control, batch.which, u)
    rest = position - batch.points
    top = (rest * speed).sum(1)
    bottom = (speed**2).sum(1) + (rest * bend).sum(1)
    step = np.where(bottom > 1e-9, top / np.maximum(bottom, 1e-9), 0.0)
    return np.clip(u - np.clip(step, -0.2, 0.2), 0, 1)


def _first_guess(track: Track, batch: _Batch, first: Ints, last: Ints) -> Floats:
    reach = np.maximum(track.along[last] - track.along[first], 1e-9)
    return (track.along[batch.at] - track.along[first][batch.which]) / reach[batch.which]


def fit_cubics(
    track: Track,
    first: Ints,
    last: Ints,
    tolerance: float,
    rms_limit: float,
    tangents: tuple[Floats, Floats] | None = None,
) -> Fits:
    """Fit one cubic to each stretch of a track.

    Parameters
    ----------
    track : Track
    first, last : (S,) int
        First and last point of each stretch; at least two points.
    tolerance, rms_limit : float
        What makes a chord good enough, px.
    tangents : ((S, 2), (S, 2)) float, optional
        Unit directions in which each curve leaves and arrives; NaN where free.
        Without them no handle is tied, and chords that fit are taken.

    Notes
    -----
    All stretches are solved together: sums over stretches give small normal
    systems, and Newton steps move all parameters at once.
    """
    batch = _batch(track, first, last)
    u = _first_guess(track, batch, first, last)
    control = _solve_free(batch, u) if tangents is None else _solve_tied(batch, u, *tangents)
    u = _newton(batch, control, u)
    for _ in range(_ROUNDS):
        control = _improve(batch, control, u, tangents)
        u = _newton(batch, control, u)
    if tangents is not None:
        control = _onto_tangents(batch, control, tangents)
    u = _newton(batch, control, u)
    error, rms, largest, worst = _residual(batch, _away_from(batch, control, u))
    chord = batch.end - batch.start
    length = np.linalg.norm(chord, axis=1)
    if tangents is not None:
        return Fits(control, np.zeros(len(first), bool), error, rms, largest, worst)
    unit = chord / np.maximum(length, 1e-9)[:, None]
    rest = batch.points - batch.start[batch.which]
    away = unit[batch.which, 0] * rest[:, 1] - unit[batch.which, 1] * rest[:, 0]
    line = _residual(batch, away)
    straight = (line[0] <= tolerance) & (line[1] <= rms_limit) & (length > 1e-6)
    control[straight] = _chords(batch.start[straight], batch.end[straight])
    error, rms, largest, worst = (
        np.where(straight, chord_s, cubic_s)
        for chord_s, cubic_s in zip(line, (error, rms, largest, worst), strict=True)
    )
    handle = np.maximum(
        np.linalg.norm(control[:, 1] - control[:, 0], axis=1), np.linalg.norm(control[:, 3] - control[:, 2], axis=1)
    )
    reach = track.along[last] - track.along[first]
    wild = ((handle > 1.2 * np.maximum(reach, 1.0)) | (length < 1e-6)) & ~straight
    few = wild & (last - first < 3)
    control[few] = _chords(batch.start[few], batch.end[few])
    straight |= few
    error = np.where(few, 0.0, np.where(wild, np.inf, error))
    return Fits(control, straight, error, rms, largest, worst)


def _chords(start: Floats, end: Floats) -> Floats:
    third = (end - start) / 3
    return np.stack([start, start + third, end - third, end], 1)


def rest_of_cubics(track: Track, first: Ints, last: Ints, control: Floats) -> tuple[Floats, Floats]:
    """Distance of the points from given curves.

    Returns
    -------
    largest, total : (S,) float64
        Largest distance of a trusted point, and the weighted sum of all, px.
    """
    batch = _batch(track, first, last)
    u = _first_guess(track, batch, first, last)
    for _ in range(_FEET):
        u = _newton(batch, control, u)
    away = np.abs(_away_from(batch, control, u))
    trusted = batch.weight > 0.3
    return np.maximum.reduceat(away * trusted, batch.offset), _sums(batch, away * trusted)
