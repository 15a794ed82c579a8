"""Points in rows that curves are fitted to, and how well a curve keeps to them."""

from typing import Any, NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, ranges

__all__ = [
    "TRUSTED",
    "Batch",
    "Fits",
    "Rest",
    "Stretches",
    "Track",
    "batch_of",
    "by_stretch",
    "fits_well",
    "length",
    "rest_of",
    "sparse_batch",
    "straight_controls",
]

TRUSTED = 0.3
"""Least weight of a point whose distance counts by itself."""
_WINDOW = 5
_ENOUGH, _ENOUGH_NOISY = 24, 64
"""Points that decide a cubic; more where they scatter."""


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


class Stretches(NamedTuple):
    """Arcs as tracks of points, each with a first and a last.

    Attributes
    ----------
    track : Track
    sharp : (N,) bool
        Corners and junctions.
    end : (N,) bool
        First and last points of arcs.
    first, last : (A,) int
    round : (A,) bool
        Loops without a corner, which close smoothly.
    partner : (A, 2) int
        For both ends of each arc the end, ``2 arc`` or ``2 arc + 1``, of the
        arc in which its outline runs on through a junction; else -1.
    """

    track: Track
    sharp: Bools
    end: Bools
    first: Ints
    last: Ints
    round: Bools
    partner: Ints


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


def fits_well(track: Track, first: Ints, fits: Fits) -> Bools:
    """Whether each curve keeps to its points: in the mean, in the spread, and nowhere far off."""
    good = (fits.error <= track.limit[first]) & (fits.rms <= track.rms_limit[first])
    return good & (fits.largest <= track.far[first])


class Batch(NamedTuple):
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


def batch_of(track: Track, first: Ints, last: Ints) -> Batch:
    """All points of each stretch."""
    return _gathered(track, first, last, *ranges(first, last - first + 1), last - first + 1)


def sparse_batch(track: Track, first: Ints, last: Ints) -> Batch:
    """Points spread evenly over each stretch, its ends among them: as many as decide a cubic."""
    noisy = track.rms_limit[first] > track.limit[first]
    stride = -((first - last) // np.where(noisy, _ENOUGH_NOISY, _ENOUGH))
    size = -((first - last) // stride) + 1
    at, offset = ranges(np.zeros(len(first), np.int64), size)
    at *= np.repeat(stride, size)
    at += np.repeat(first, size)
    np.minimum(at, np.repeat(last, size), out=at)
    return _gathered(track, first, last, at, offset, size)


def _gathered(track: Track, first: Ints, last: Ints, at: Ints, offset: Ints, size: Ints) -> Batch:
    points = np.ascontiguousarray(track.points).view(np.complex128)[at, 0]  # a pair at once
    start, end = track.node[first].T.copy(), track.node[last].T.copy()
    return Batch(at, offset, size, np.stack([points.real, points.imag]), track.weight[at], start, end)


def length(vector: Floats) -> Floats:
    """Of vectors in columns; (2, N) to (N,)."""
    return np.sqrt(vector[0] * vector[0] + vector[1] * vector[1])


class Rest(NamedTuple):
    """What curves are off by; the last four fields of `Fits`."""

    error: Floats
    rms: Floats
    largest: Floats
    worst: Ints


def rest_of(batch: Batch, away: Floats) -> Rest:
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
    largest = np.maximum.reduceat(np.abs(away) * (batch.weight > TRUSTED), batch.offset)
    rms = np.sqrt(squares / np.maximum(mass, 1.0))
    return Rest(error, rms, largest, np.minimum.reduceat(at_worst, batch.offset))


def by_stretch(control: Floats) -> Floats:
    """(4, 2, S) to (S, 4, 2)."""
    return np.ascontiguousarray(np.moveaxis(control, 2, 0))


def straight_controls(start: Floats, end: Floats) -> Floats:
    """Controls of straight segments, (S, 4, 2); `start` and `end` are (2, S)."""
    third = (end - start) / 3
    return by_stretch(np.stack([start, start + third, end - third, end]))
