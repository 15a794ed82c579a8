"""How far the samples of edges scatter about smooth curves."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats

__all__ = ["Noise", "measure_noise", "smoother"]

_RUN = 11
_REACH = 20
_TO_SIGMA = 1.4826  # of a normal distribution's median distance


class Noise(NamedTuple):
    """Standard deviations across the edge, px."""

    single: float
    """Of one sample."""
    mean: float
    """Of the running mean by which fits are judged."""


def smoother(reach: int, degree: int) -> Floats:
    """Weights of a local polynomial over ``2 reach + 1`` even steps, at its middle.

    References
    ----------
    .. [1] A. Savitzky and M. J. E. Golay, "Smoothing and differentiation of
       data by simplified least squares procedures", 1964.
    """
    place = np.arange(-reach, reach + 1) / reach
    return np.asarray(np.linalg.pinv(place[:, None] ** np.arange(degree + 1))[0])


def _left(reach: int, degree: int) -> Floats:
    return np.pad([1.0], reach) - smoother(reach, degree)


_MEAN = np.full(_RUN, 1 / _RUN)
_FINE = _left(3, 2)
_COARSE = np.convolve(_MEAN, _left(_REACH, 4))
_FINE_SHARE = float(np.sqrt((_FINE**2).sum()))
_COARSE_SHARE = float(np.sqrt((_COARSE**2).sum() / (_MEAN**2).sum()))


def measure_noise(points: Floats, plain: Bools) -> Noise:
    """Measure the scatter of samples about the curves that they lie along.

    What a local polynomial leaves of each sample, and of the running mean
    over eleven, brought to what the scatter must have been. Medians, so that
    bends too tight for the polynomial do not count.

    Parameters
    ----------
    points : (N, 2) float
        Samples about a pixel apart, arc after arc.
    plain : (N,) bool
        Samples that are no corner, no end and not on the frame.
    """
    single = _scatter(points, plain, _FINE) / _FINE_SHARE
    return Noise(single, _scatter(points, plain, _COARSE) / _COARSE_SHARE)


def _scatter(points: Floats, plain: Bools, kernel: Floats) -> float:
    from scipy import ndimage  # only pictures that are not clean need it, and it takes long to import

    reach = len(kernel) // 2
    if len(points) <= 2 * reach:
        return 0.0
    gone = np.append(0, np.cumsum(~plain))
    clear = gone[2 * reach + 1 :] == gone[: -2 * reach - 1]
    left = [ndimage.correlate1d(points[:, axis], kernel)[reach:-reach][clear] for axis in (0, 1)]
    return float(np.median(np.hypot(*left))) * _TO_SIGMA if len(left[0]) else 0.0
