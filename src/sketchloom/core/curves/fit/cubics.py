"""Least-squares cubics through many stretches of points at once."""

from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, dots
from sketchloom.core.curves.fit.track import (
    TRUSTED,
    Batch,
    Fits,
    Rest,
    Track,
    batch_of,
    by_stretch,
    length,
    rest_of,
    sparse_batch,
    straight_controls,
)

__all__ = ["fit_cubics", "rest_of_cubics"]

_RIDGE = 1e-5
_ROUNDS = 4
_FEET = 2
_DOUBT = 1.5
"""How far beyond the bounds a few points may be before all are given up."""
_DAMPING = 1e-4
_FARTHEST_STEP = 0.2
_BACKWARDS, _STUMP = -0.5, 0.02
"""Cosine between a handle and the chord below which it runs backwards, unless it is so short a part of the chord."""
_LEAD = 3
"""Points from a node to where the track says which way it goes."""
_PORTION = 32768
"""Points fitted at a time: their arrays stay in a processor's cache."""
_TO_POWERS = np.array([[-1.0, 3.0, -3.0, 1.0], [3.0, -6.0, 3.0, 0.0], [-3.0, 3.0, 0.0, 0.0], [1.0, 0.0, 0.0, 0.0]])
"""From the four controls to the powers of the parameter, highest first."""
_UPPER = np.triu_indices(4)


def _basis(u: Floats) -> Floats:
    """Weights of the two handles; (2, N)."""
    v = 1 - u
    out = np.empty((2, len(u)))
    np.multiply(u, v, out=out[0])
    out[0] *= 3
    np.multiply(out[0], u, out=out[1])
    out[0] *= v
    return out


def _solve_free(batch: Batch, u: Floats) -> Floats:
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


class _Feet(NamedTuple):
    """Parameters nearer to the foot of each point, and what is left across the curve."""

    u: Floats  # (N,)
    normal: Floats  # (2, N)
    away: Floats  # (N,)


def _feet(batch: Batch, control: Floats, u: Floats) -> _Feet:
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


def _improve(batch: Batch, control: Floats, feet: _Feet, tangents: tuple[Floats, Floats] | None) -> Floats:
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
    reach = length(control[3] - control[0]) + 1.0
    step *= np.minimum(1.0, 0.5 * reach / np.maximum(np.sqrt((step * step).sum(0)), 1e-12))
    out = control.copy()
    out[1:3] += step.reshape(2, 2, -1)
    return out


def _onto_tangents(control: Floats, tangents: tuple[Floats, Floats]) -> Floats:
    """Turn tied handles onto their tangents, with at least a little length forwards."""
    chord = length(control[3] - control[0])
    out = control.copy()
    for node, handle, tangent, sign in ((0, 1, tangents[0], 1.0), (3, 2, tangents[1], -1.0)):
        tied = np.isfinite(tangent[0])
        unit = tangent[:, tied]
        arm = (unit * (out[handle][:, tied] - out[node][:, tied])).sum(0) * sign
        arm = np.clip(arm, 0.02 * chord[tied], 1.5 * chord[tied])
        out[handle][:, tied] = out[node][:, tied] + sign * arm * unit
    return out


def _first_guess(track: Track, batch: Batch, first: Ints, last: Ints) -> Floats:
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
    portions = _portions(first, last)
    if tangents is None:
        parts = [_free_cubics(track, first[k], last[k]) for k in portions]
    else:
        leave, arrive = tangents
        parts = [_cubics(track, first[k], last[k], (leave[k].T, arrive[k].T)) for k in portions]
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
    _without_spurs(track, first, last, fits)
    return _tame(fits, track.along[last] - track.along[first], last - first)


def _likely(track: Track, first: Ints, rest: Rest) -> Bools:
    """Whether a few points leave it open that all keep to the bounds."""
    return (rest.error <= _DOUBT * track.limit[first]) & (rest.rms <= _DOUBT * track.rms_limit[first])


def _chords(track: Track, first: Ints, last: Ints) -> Fits:
    """Chords, and which of them do; what they are off by is told as if it were a curve's."""
    some = sparse_batch(track, first, last)
    rest = _off_chord(some, track.ease[first])
    doubtful = np.flatnonzero((last - first + 1 > some.size) & _likely(track, first, rest))
    if len(doubtful):
        low = first[doubtful]
        _put(rest, doubtful, _off_chord(batch_of(track, low, last[doubtful]), track.ease[low]))
    straight = (rest.error <= track.limit[first]) & (rest.rms <= track.rms_limit[first])
    straight &= length(some.end - some.start) > 1e-6
    return Fits(straight_controls(some.start, some.end), straight, *rest)


def _off_chord(batch: Batch, ease: Floats) -> Rest:
    """What is left of the chords, eased."""
    chord = batch.end - batch.start
    unit = chord / (np.maximum(length(chord), 1e-9) * ease)
    (dx, dy), (ux, uy) = batch.points - batch.spread(batch.start), batch.spread(unit)
    return rest_of(batch, ux * dy - uy * dx)


def _put(fields: tuple[Any, ...], rows: Ints, values: tuple[Any, ...]) -> None:
    """Set some rows of every field."""
    for kept, found in zip(fields, values, strict=True):
        kept[rows] = found


def _cubics(track: Track, first: Ints, last: Ints, tangents: tuple[Floats, Floats] | None) -> Fits:
    """Fit cubics to a few points of each stretch; where these are kept to, all its points are asked."""
    some = sparse_batch(track, first, last)
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
    rest = rest_of(some, feet.away)
    thinned = last - first + 1 > some.size
    doubtful = np.flatnonzero(thinned & (_likely(track, first, rest) | (tangents is not None)))
    if len(doubtful):
        full = batch_of(track, first[doubtful], last[doubtful])
        apart = len(track.points) * np.arange(len(first))  # stretches may overlap
        u = np.interp(full.at + np.repeat(apart[doubtful], full.size), some.at + np.repeat(apart, some.size), feet.u)
        feet = _feet(full, np.ascontiguousarray(control[:, :, doubtful]), u)
        _put(rest, doubtful, rest_of(full, feet.away))
    return Fits(by_stretch(control), np.zeros(len(first), bool), *rest)


def _without_spurs(track: Track, first: Ints, last: Ints, fits: Fits) -> None:
    """Fit curves that leave or arrive backwards anew, tied to where the track goes there; changed in place.

    A handle that runs against its own curve makes a spur at the node, which
    the points say nothing of.
    """
    control = fits.control
    near = np.minimum(_LEAD, last - first)
    handles = control[:, 1] - control[:, 0], control[:, 3] - control[:, 2]
    ways = track.node[first + near] - track.node[first], track.node[last] - track.node[last - near]
    across = control[:, 3] - control[:, 0]
    back = [_runs_back(*three) for three in zip(handles, ways, (across, across), strict=True)]
    some = np.flatnonzero((back[0] | back[1]) & ~fits.straight)
    if not len(some):
        return
    ties = []
    for way, handle, is_back in zip(ways, handles, back, strict=True):
        tie = np.where(is_back[:, None], way, handle)[some]
        ties.append((tie / np.maximum(np.hypot(*tie.T), 1e-9)[:, None]).T)
    _put(fits, some, _cubics(track, first[some], last[some], (ties[0], ties[1])))


def _runs_back(handle: Floats, way: Floats, across: Floats) -> Bools:
    """Whether a handle runs against the track beside its node, and against the chord: a loop's may."""
    size, chord = length(handle.T), length(across.T)
    against = dots(handle, way) < 0
    back: Bools = against & (dots(handle, across) < _BACKWARDS * size * chord) & (size > _STUMP * chord)
    return back


def _tame(fits: Fits, reach: Floats, count: Ints) -> Fits:
    """Refuse curves whose handles run away; with hardly a point between, take the chord."""
    control = fits.control
    handle = np.maximum(length((control[:, 1] - control[:, 0]).T), length((control[:, 3] - control[:, 2]).T))
    chord = length((control[:, 3] - control[:, 0]).T)
    wild = ((handle > 1.2 * np.maximum(reach, 1.0)) | (chord < 1e-6)) & ~fits.straight
    few = wild & (count < 3)
    control[few] = straight_controls(control[few, 0].T, control[few, 3].T)
    fits.error[wild], fits.error[few] = np.inf, 0.0
    return fits._replace(straight=fits.straight | few)


def rest_of_cubics(track: Track, first: Ints, last: Ints, control: Floats) -> Floats:
    """Distance of every point of a track from the curve it lies along.

    Returns
    -------
    (N,) float64
        px; 0 for points that are not trusted.
    """
    batch = batch_of(track, first, last)
    curves = np.ascontiguousarray(np.moveaxis(control, 0, 2))
    feet = _feet(batch, curves, _first_guess(track, batch, first, last))
    for _ in range(_FEET):
        feet = _feet(batch, curves, feet.u)
    away = np.abs(feet.away) * (batch.weight > TRUSTED)
    out = np.zeros(len(track.points))
    np.maximum.at(out, batch.at, away)
    return out
