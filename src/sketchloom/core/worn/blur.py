"""How wide the edges of a picture are, beyond what its pixels make of a sharp one, and how much grain lies on it."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints, places_of

__all__ = ["Wear", "grain_level", "light_of", "ramp_sigma", "wear_of"]

_LIGHT = np.array([0.35, 0.4, 0.25], np.float32)
"""Shares of red, green and blue; no ink of its own vanishes against another."""
_LINES = 192
"""Rows, and columns, that are looked at."""
_FLAT, _REACH = 3, 16
"""px; what must be even on both sides of an edge, and how long an edge may be."""
_BLOCKS = 40_000
"""Of 8 px, that grain is looked for in."""
_CALMEST = 1.2
"""The mean of all such blocks of even grain over their calmest fifth."""
_LEAST_STEP = 40.0
"""8-bit steps from one side of an edge to the other."""
_LEAST_EDGES = 20
_LOW = 40
"""Percentile of the edges' widths that is told: what is wider is a soft shade that somebody drew."""


class Wear(NamedTuple):
    """How worn a picture is."""

    grain: float  # 8-bit steps, a standard deviation
    sigma: float  # px; blur of its edges, beyond the pixels' own


def wear_of(rgb: Bytes) -> Wear:
    """Measure grain and blur of a picture, (H, W, 3) uint8; no blur where no edge tells it."""
    grain = grain_level(rgb)
    return Wear(grain, ramp_sigma(rgb, grain) or 0.0)


def light_of(rgb: Bytes) -> Floats:
    """Light of each pixel, in 8-bit steps; (H, W) float32."""
    return rgb[..., :3].astype(np.float32) @ _LIGHT


def ramp_sigma(rgb: Bytes, grain: float = 0.0) -> float | None:
    """Standard deviation in px of the blur of lone edges; None where too few can be seen.

    The variance of the derivative across an edge is that of the blur and that
    of the pixels themselves, 1/12, and of taking differences, 1/12 more; along
    a slanted line it is wider by one over the squared cosine of the slope.

    Parameters
    ----------
    rgb : (H, W, 3) uint8
    grain : float
        Of the picture, 8-bit steps.
    """
    found = np.concatenate([_variances(rgb, grain, axis) for axis in (0, 1)])
    if len(found) < _LEAST_EDGES:
        return None
    return float(np.sqrt(max(0.0, np.percentile(found, _LOW) - 1 / 12)))


def _variances(rgb: Bytes, grain: float, axis: int) -> Floats:
    """Squared widths of the edges that cross some rows, or columns, without the pixels' own; (N,) px2."""
    height, width = rgb.shape[axis], rgb.shape[1 - axis]
    if height < 7 or width < 2 * _FLAT + 4:
        return np.empty(0)
    rows = np.unique(np.linspace(3, height - 4, min(_LINES, height - 6)).astype(np.int64))
    beside = (-1, 0, 1) if grain > 1.2 else (0,)  # what stands upright stays as wide when rows are taken together

    pixels = rgb if axis == 0 else rgb.swapaxes(0, 1)

    def light_at(line: Ints, place: Ints | slice) -> Floats:
        seen = [light_of(pixels[line + k, place]) for k in beside]
        return np.asarray(seen[0] if len(seen) == 1 else np.mean(seen, axis=0))

    def beyond(off: int, row: Ints, low: Ints, high: Ints) -> Floats:
        """Steps of lines `off` beside those that are looked at, as `_stretch` gives them."""
        place = low[:, None] + np.arange((high - low).max(initial=0) + 1)
        steps = np.diff(light_at((rows[row] + off)[:, None], np.clip(place, 0, width - 1)), axis=1)
        return np.where((place[:, :-1] < high[:, None]) & (place[:, :-1] >= 0) & (place[:, 1:] < width), steps, 0.0)

    own = np.diff(light_at(rows, slice(None)), axis=1)
    return _of_rows(own, beyond, max(1.0, 2.1 * grain))


def _of_rows(own: Floats, beyond: Callable[[int, Ints, Ints, Ints], Floats], least: float) -> Floats:
    """Squared widths of the edges in steps between pixels; steps two rows above and below say how they slant."""
    width = own.shape[1]
    active = np.abs(own) > least
    active[:, 1:-1] |= active[:, :-2] & active[:, 2:]  # one quiet pixel does not part an edge
    row, begin, end = _runs(active)
    after = np.append(np.where(row[1:] == row[:-1], begin[1:], width + _FLAT), width + _FLAT) if len(row) else end
    before = np.append(-_FLAT, np.where(row[1:] == row[:-1], end[:-1], -_FLAT)) if len(row) else begin
    lone = (begin - before >= 2 * _FLAT) & (after - end >= 2 * _FLAT) & (end - begin <= _REACH)
    lone &= (begin >= _FLAT) & (end <= width - _FLAT)
    row, begin, end = row[lone], begin[lone], end[lone]
    steps = _stretch(own, row, begin - 2, end + 2)
    total, _, variance = _moments(steps)
    rising = np.where(np.abs(steps) > least, np.sign(steps), 0)
    wrong = np.abs(rising).sum(1) > np.abs(rising.sum(1))
    good = (np.abs(total) >= _LEAST_STEP) & ~wrong
    row, begin, end, total, variance = row[good], begin[good], end[good], total[good], variance[good]
    places = []
    for off in (-2, 2):
        sum_there, place, _ = _moments(beyond(off, row, begin - 4, end + 4))
        places.append(np.where(np.abs(sum_there - total) < 0.25 * np.abs(total), place, np.nan))
    slope = (places[1] - places[0]) / 4
    upright = np.abs(slope) < 0.5
    cosine2 = 1 / (1 + slope[upright] ** 2)
    return np.asarray(variance[upright] * cosine2 - 1 / 12)


def _stretch(steps: Floats, row: Ints, low: Ints, high: Ints) -> Floats:
    """Steps of each row from `low` to before `high`, 0 outside; (N, longest of them) float64."""
    place = low[:, None] + np.arange((high - low).max(initial=0))
    inside = (place < high[:, None]) & (place >= 0) & (place < steps.shape[1])
    return np.where(inside, steps[row[:, None], np.where(inside, place, 0)], 0.0)


def _moments(steps: Floats) -> tuple[Floats, Floats, Floats]:
    """Sum, mean place and variance of the place of each row's steps."""
    place = np.arange(steps.shape[1], dtype=np.float64)
    total = steps.sum(1)
    whole = np.where(np.abs(total) > 1e-9, total, 1.0)
    middle = (steps @ place) / whole
    return total, middle, (steps @ place**2) / whole - middle**2


def _runs(active: Bools) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Row, first and last column but one of each run."""
    padded = np.zeros((active.shape[0], active.shape[1] + 2), np.int8)
    padded[:, 1:-1] = active
    turn = np.diff(padded, axis=1)
    row, begin = places_of(turn == 1)
    end = places_of(turn == -1)[1]
    return row, begin, end


def grain_level(rgb: Bytes) -> float:
    """Standard deviation of the grain in flat areas, 8-bit steps; 0.29 is that of rounding alone.

    From second differences in blocks of 8 px, the calmest fifth; blocks with
    clipped pixels, which hide it, are left out.

    References
    ----------
    .. [1] J. Immerkaer, "Fast noise variance estimation", 1996.
    """
    side = 8
    tall, wide = rgb.shape[0] // side, rgb.shape[1] // side
    if not tall or not wide:
        return 0.0
    bands = np.unique(np.linspace(0, tall - 1, min(tall, max(1, _BLOCKS // wide))).astype(np.int64))
    part = rgb[: tall * side, : wide * side, :3].reshape(tall, side, wide * side, 3)[bands]
    light = light_of(part)
    bend = light[:, 2:] - 2 * light[:, 1:-1] + light[:, :-2]
    rough = np.zeros((len(bands), side - 2, wide * side), np.float32)
    rough[..., 1:-1] = np.abs(bend[..., 2:] - 2 * bend[..., 1:-1] + bend[..., :-2]) / 6
    mean = rough.reshape(len(bands), side - 2, wide, side).mean((1, 3)).ravel()
    clipped = ((part == 0) | (part == 255)).any(3).reshape(len(bands), side, wide, side).mean((1, 3)).ravel()
    chosen = mean[clipped < 0.02] if (clipped < 0.02).sum() >= 20 else mean
    return float(_CALMEST * np.percentile(chosen, 20) * np.sqrt(np.pi / 2))
