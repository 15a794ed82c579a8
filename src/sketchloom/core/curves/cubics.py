"""Least-squares cubics through many stretches of points at once."""

from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, ranges

__all__ = ["Fits", "Track", "fit_arcs", "fit_cubics", "rest_of_cubics"]

_RIDGE = 1e-5
_WINDOW = 5
_ROUNDS = 4
_FEET = 2
_TRUSTED = 0.3
_DOUBT = 1.5
"""How far beyond the bounds a few points may be before all are given up."""
_DAMPING = 1e-4
_FARTHEST_STEP = 0.2
_ENOUGH, _ENOUGH_NOISY = 32, 64
"""Points that decide a cubic; more where they scatter."""
_PORTION = 32768
"""Points fitted at a time: their arrays stay in a processor's cache."""
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
    """Points of all stretches, one after the other; x and y are rows."""

    at: Ints  # (N,) into the track
    offset: Ints  # (S,)
    size: Ints  # (S,)
    points: Floats  # (2, N)
    weight: Floats  # (N,)
    start: Floats  # (2, S)
    end: Floats  # (2, S)

    def spread(self, values: Any) -> Any:
        """Repeat a value of each stretch, (..., S), for its points."""
        return np.repeat(values, self.size, axis=-1)

    def sums(self, values: Floats) -> Floats:
        """Sum over each stretch; (..., N) to (..., S)."""
        return np.asarray(np.add.reduceat(values, self.offset, axis=-1))


def _batch(track: Track, first: Ints, last: Ints) -> _Batch:
    """All points of each stretch."""
    return _gathered(track, first, last, *ranges(first, last - first + 1), last - first + 1)


def _sparse(track: Track, first: Ints, last: Ints) -> _Batch:
    """Points spread evenly over each stretch, its ends among them: as many as decide a cubic."""
    noisy = track.rms_limit[first] > track.limit[first]
    stride = -((first - last) // np.where(noisy, _ENOUGH_NOISY, _ENOUGH))
    size = -((first - last) // stride) + 1
    at, offset = ranges(np.zeros(len(first), np.int64), size)
    at *= np.repeat(stride, size)
    at += np.repeat(first, size)
    np.minimum(at, np.repeat(last, size), out=at)
    return _gathered(track, first, last, at, offset, size)


def _gathered(track: Track, first: Ints, last: Ints, at: Ints, offset: Ints, size: Ints) -> _Batch:
    points = np.ascontiguousarray(track.points).view(np.complex128)[at, 0]  # a pair at once
    start, end = track.node[first].T.copy(), track.node[last].T.copy()
    return _Batch(at, offset, size, np.stack([points.real, points.imag]), track.weight[at], start, end)


def _length(vector: Floats) -> Floats:
    """Of vectors in columns; (2, N) to (N,)."""
    return np.sqrt(vector[0] * vector[0] + vector[1] * vector[1])


def _basis(u: Floats) -> Floats:
    """Weights of the two handles; (2, N)."""
    v = 1 - u
    out = np.empty((2, len(u)))
    np.multiply(u, v, out=out[0])
    out[0] *= 3
    np.multiply(out[0], u, out=out[1])
    out[0] *= v
    return out


def _solve_free(batch: _Batch, u: Floats) -> Floats:
    """Both handles free: one 2x2 system a stretch, shared by x and y; (4, 2, S)."""
    chord = batch.end - batch.start
    rest = batch.points - batch.spread(batch.start)
    rest -= batch.spread(chord) * u  # a straight cubic runs evenly along its chord
    basis = _basis(u)
    pull = basis * batch.weight
    rows = np.empty((7, len(u)))
    np.multiply(pull[0], basis, out=rows[:2])
    np.multiply(pull[1], basis[1], out=rows[2])
    np.multiply(pull[0], rest, out=rows[3:5])
    np.multiply(pull[1], rest, out=rows[5:7])
    a11, a12, a22, *right = batch.sums(rows)
    r1, r2 = np.array(right[:2]), np.array(right[2:])
    ridge = _RIDGE * (a11 + a22) + 1e-9
    a11, a22 = a11 + ridge, a22 + ridge
    det = a11 * a22 - a12**2
    d1, d2 = (r1 * a22 - r2 * a12) / det, (r2 * a11 - r1 * a12) / det
    return np.stack([batch.start, batch.start + chord / 3 + d1, batch.end - chord / 3 + d2, batch.end])


_TO_POWERS = np.array([[-1.0, 3.0, -3.0, 1.0], [3.0, -6.0, 3.0, 0.0], [-3.0, 3.0, 0.0, 0.0], [1.0, 0.0, 0.0, 0.0]])
"""From the four controls to the powers of the parameter, highest first."""


class _Feet(NamedTuple):
    """Parameters nearer to the foot of each point, and what is left across the curve."""

    u: Floats  # (N,)
    normal: Floats  # (2, N)
    away: Floats  # (N,)


def _feet(batch: _Batch, control: Floats, u: Floats) -> _Feet:
    """One step of each parameter towards the foot of its point.

    Position and speed come from one run of Horner's rule.

    References
    ----------
    .. [1] P. J. Schneider, "An algorithm for automatically fitting digitized
       curves", Graphics Gems, 1990.
    """
    power = _TO_POWERS @ control.reshape(4, -1)
    cubic, square, linear, position = batch.spread(power.reshape(8, -1)).reshape(4, 2, -1)
    cubic *= u
    square += cubic
    speed = cubic  # in place from here on
    speed += square
    square *= u
    square += linear
    speed *= u
    speed += square
    square *= u
    position += square
    np.subtract(batch.points, position, out=position)
    normal = np.empty_like(speed)
    np.negative(speed[1], out=normal[0])
    normal[1] = speed[0]
    pace = np.einsum("ij,ij->j", speed, speed)
    np.maximum(pace, 1e-18, out=pace)
    step = np.einsum("ij,ij->j", speed, position)
    step /= pace
    np.minimum(np.maximum(step, -_FARTHEST_STEP, out=step), _FARTHEST_STEP, out=step)
    step += u
    np.minimum(np.maximum(step, 0.0, out=step), 1.0, out=step)
    normal /= np.sqrt(pace, out=pace)
    return _Feet(step, normal, np.einsum("ij,ij->j", normal, position))


_UPPER = np.triu_indices(4)


def _improve(batch: _Batch, control: Floats, feet: _Feet, tangents: tuple[Floats, Floats] | None) -> Floats:
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
    count = len(feet.u)
    slope = (_basis(feet.u)[:, None] * feet.normal).reshape(4, count)
    pull = slope * batch.weight
    rows = np.empty((14, count))
    for i, begin in enumerate((0, 4, 7, 9)):
        np.multiply(pull[i], slope[i:], out=rows[begin : begin + 4 - i])
    np.multiply(pull, feet.away, out=rows[10:])
    sums = batch.sums(rows)
    matrix = np.empty((control.shape[2], 4, 4))
    matrix[:, _UPPER[0], _UPPER[1]] = matrix[:, _UPPER[1], _UPPER[0]] = sums[:10].T
    trace = sums[0] + sums[4] + sums[7] + sums[9] + 1e-9
    matrix[:, np.arange(4), np.arange(4)] += (_DAMPING * trace)[:, None]
    for place, tangent in zip((0, 2), tangents or (), strict=False):
        tied = np.isfinite(tangent[0])
        across = np.stack([-tangent[1, tied], tangent[0, tied]], 1)
        penalty = 1e7 * trace[tied, None, None] * across[:, :, None] * across[:, None, :]
        matrix[tied, place : place + 2, place : place + 2] += penalty
    step = np.linalg.solve(matrix, sums[10:].T[..., None])[..., 0].T
    reach = _length(control[3] - control[0]) + 1.0
    step *= np.minimum(1.0, 0.5 * reach / np.maximum(np.sqrt((step * step).sum(0)), 1e-12))
    out = control.copy()
    out[1:3] += step.reshape(2, 2, -1)
    return out


def _onto_tangents(control: Floats, tangents: tuple[Floats, Floats]) -> Floats:
    """Turn tied handles onto their tangents, with at least a little length forwards."""
    chord = _length(control[3] - control[0])
    out = control.copy()
    for node, handle, tangent, sign in ((0, 1, tangents[0], 1.0), (3, 2, tangents[1], -1.0)):
        tied = np.isfinite(tangent[0])
        unit = tangent[:, tied]
        arm = (unit * (out[handle][:, tied] - out[node][:, tied])).sum(0) * sign
        arm = np.clip(arm, 0.02 * chord[tied], 1.5 * chord[tied])
        out[handle][:, tied] = out[node][:, tied] + sign * arm * unit
    return out


class _Rest(NamedTuple):
    error: Floats
    rms: Floats
    largest: Floats
    worst: Ints


def _rest(batch: _Batch, away: Floats) -> _Rest:
    """Largest running mean, rms, largest trusted value, and where, of signed distances."""
    total = np.zeros((3, len(away) + 1))
    np.multiply(away, batch.weight, out=total[0, 1:])
    total[1, 1:] = batch.weight
    np.multiply(total[0, 1:], away, out=total[2, 1:])
    mass, squares = batch.sums(total[1:, 1:])
    np.cumsum(total[:2], axis=1, out=total[:2])
    place = np.arange(len(away))
    low, high = batch.spread(np.stack([batch.offset + _WINDOW, batch.offset + batch.size - _WINDOW - 1]))
    low, high = np.maximum(place, low) - _WINDOW, np.minimum(place, high) + _WINDOW + 1
    window = np.take(total[:2], high, axis=1) - np.take(total[:2], low, axis=1)
    mean = np.abs(window[0]) / np.maximum(window[1], 1.0)
    error = np.maximum.reduceat(mean, batch.offset)
    at_worst = np.where(mean >= batch.spread(error), batch.at, np.iinfo(np.int64).max)
    largest = np.maximum.reduceat(np.abs(away) * (batch.weight > _TRUSTED), batch.offset)
    rms = np.sqrt(squares / np.maximum(mass, 1.0))
    return _Rest(error, rms, largest, np.minimum.reduceat(at_worst, batch.offset))


def _first_guess(track: Track, batch: _Batch, first: Ints, last: Ints) -> Floats:
    along = track.along[first]
    reach = np.maximum(track.along[last] - along, 1e-9)
    guess = track.along[batch.at] - batch.spread(along)
    guess /= batch.spread(reach)
    return guess


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
    Many stretches are solved together: sums over stretches give small normal
    systems, and one step moves all foot points at once. They are taken as many
    at a time as a processor's cache holds.
    """
    if tangents is not None:
        leave, arrive = tangents
        parts = [_cubics(track, first[k], last[k], (leave[k].T, arrive[k].T)) for k in _portions(first, last)]
        return Fits(*(np.concatenate(field) for field in zip(*parts, strict=True)))
    parts = [_free_cubics(track, first[k], last[k]) for k in _portions(first, last)]
    return Fits(*(np.concatenate(field) for field in zip(*parts, strict=True)))


def _portions(first: Ints, last: Ints) -> list[slice]:
    """Cut stretches in a row into portions of so many points; one where there are none."""
    total = np.cumsum(last - first + 1)
    cuts = np.searchsorted(total, np.arange(_PORTION, total[-1], _PORTION)) if len(total) else total
    places = np.unique(np.concatenate([[0], cuts, [len(first)]]))
    return [slice(low, high) for low, high in pairwise(places)] or [slice(0, 0)]


def _free_cubics(track: Track, first: Ints, last: Ints) -> Fits:
    fits = _chords(track, first, last)
    bent = np.flatnonzero(~fits.straight)
    if not len(bent):
        return fits
    _put(fits, bent, _cubics(track, first[bent], last[bent], None))
    return _tame(fits, track.along[last] - track.along[first], last - first)


def _likely(track: Track, first: Ints, rest: _Rest) -> Bools:
    """Whether a few points leave it open that all keep to the bounds."""
    return (rest.error <= _DOUBT * track.limit[first]) & (rest.rms <= _DOUBT * track.rms_limit[first])


def _chords(track: Track, first: Ints, last: Ints) -> Fits:
    """Chords, and which of them do; what they are off by is told as if it were a curve's."""
    some = _sparse(track, first, last)
    rest = _off_chord(some, track.ease[first])
    doubtful = np.flatnonzero((last - first + 1 > some.size) & _likely(track, first, rest))
    if len(doubtful):
        low = first[doubtful]
        _put(rest, doubtful, _off_chord(_batch(track, low, last[doubtful]), track.ease[low]))
    straight = (rest.error <= track.limit[first]) & (rest.rms <= track.rms_limit[first])
    straight &= _length(some.end - some.start) > 1e-6
    return Fits(_straight(some.start, some.end), straight, *rest)


def _off_chord(batch: _Batch, ease: Floats) -> _Rest:
    """What is left of the chords, eased."""
    chord = batch.end - batch.start
    unit = chord / (np.maximum(_length(chord), 1e-9) * ease)
    (dx, dy), (ux, uy) = batch.points - batch.spread(batch.start), batch.spread(unit)
    return _rest(batch, ux * dy - uy * dx)


def _put(fields: tuple[Any, ...], rows: Ints, values: tuple[Any, ...]) -> None:
    """Set some rows of every field."""
    for kept, found in zip(fields, values, strict=True):
        kept[rows] = found


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
    half = np.maximum(_length(chord) / 2, 1e-9)
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
    rest = _rest(batch, away)
    error = np.where(np.abs(s) < _MOST_BOW, rest.error, np.inf)
    return Fits(_by_stretch(control), np.zeros(len(first), bool), error, rest.rms, rest.largest, rest.worst)


def _bow(sagitta: Floats) -> Floats:
    """Keep a sagitta within a third of a turn and off nothing."""
    s = np.clip(sagitta, -_MOST_BOW, _MOST_BOW)
    return np.where(np.abs(s) < 1e-6, 1e-6, s)


def _by_stretch(control: Floats) -> Floats:
    """(4, 2, S) to (S, 4, 2)."""
    return np.ascontiguousarray(np.moveaxis(control, 2, 0))


def _straight(start: Floats, end: Floats) -> Floats:
    """Controls of straight segments, (S, 4, 2); `start` and `end` are (2, S)."""
    third = (end - start) / 3
    return _by_stretch(np.stack([start, start + third, end - third, end]))


def _cubics(track: Track, first: Ints, last: Ints, tangents: tuple[Floats, Floats] | None) -> Fits:
    """Fit cubics to a few points of each stretch; where these are kept to, all its points are asked."""
    some = _sparse(track, first, last)
    u = _first_guess(track, some, first, last)
    control = _solve_free(some, u)
    if tangents is not None:
        control = _onto_tangents(control, tangents)
    feet = _feet(some, control, u)
    for _ in range(_ROUNDS):
        control = _improve(some, control, feet, tangents)
        feet = _feet(some, control, feet.u)
    if tangents is not None:
        control = _onto_tangents(control, tangents)
    feet = _feet(some, control, feet.u)
    rest = _rest(some, feet.away)
    thinned = last - first + 1 > some.size
    doubtful = np.flatnonzero(thinned & (_likely(track, first, rest) | (tangents is not None)))
    if len(doubtful):
        full = _batch(track, first[doubtful], last[doubtful])
        apart = len(track.points) * np.arange(len(first))  # stretches may overlap
        u = np.interp(full.at + np.repeat(apart[doubtful], full.size), some.at + np.repeat(apart, some.size), feet.u)
        feet = _feet(full, np.ascontiguousarray(control[:, :, doubtful]), u)
        _put(rest, doubtful, _rest(full, feet.away))
    return Fits(_by_stretch(control), np.zeros(len(first), bool), *rest)


def _tame(fits: Fits, reach: Floats, count: Ints) -> Fits:
    """Refuse curves whose handles run away; with hardly a point between, take the chord."""
    control = fits.control
    handle = np.maximum(
        np.linalg.norm(control[:, 1] - control[:, 0], axis=1), np.linalg.norm(control[:, 3] - control[:, 2], axis=1)
    )
    length = np.linalg.norm(control[:, 3] - control[:, 0], axis=1)
    wild = ((handle > 1.2 * np.maximum(reach, 1.0)) | (length < 1e-6)) & ~fits.straight
    few = wild & (count < 3)
    control[few] = _straight(control[few, 0].T, control[few, 3].T)
    fits.error[wild], fits.error[few] = np.inf, 0.0
    return fits._replace(straight=fits.straight | few)


def rest_of_cubics(track: Track, first: Ints, last: Ints, control: Floats) -> Floats:
    """Distance of every point of a track from the curve it lies along.

    Returns
    -------
    (N,) float64
        px; 0 for points that are not trusted.
    """
    batch = _batch(track, first, last)
    curves = np.ascontiguousarray(np.moveaxis(control, 0, 2))
    feet = _feet(batch, curves, _first_guess(track, batch, first, last))
    for _ in range(_FEET):
        feet = _feet(batch, curves, feet.u)
    away = np.abs(feet.away) * (batch.weight > _TRUSTED)
    out = np.zeros(len(track.points))
    np.maximum.at(out, batch.at, away)
    return out
