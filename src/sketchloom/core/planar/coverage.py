"""How finely the pixels along an edge were weighed when the picture was drawn."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, dots, places_of
from sketchloom.core.regions import LabelMap

__all__ = ["coarseness", "samples_of_a_pixel"]

_SAMPLES = (4, 8, 16)
"""That renderers with few of them take of each pixel."""
_CONTRAST = 96
"""8-bit steps between two sides, so that a share is known to a hundredth."""
_AGREED, _BY_CHANCE = 0.22, 8.0
"""Least length of the mean vector, where shapes one over the other blur what agrees; and for few pixels, times the
root of their number, what comes by chance."""
_MOST = 20_000
_OFF = 0.4
"""How far an edge can be off, px, times the root of the samples of a pixel."""


def coarseness(regions: LabelMap) -> float:
    """How far edges can be off because their pixels were weighed by a few samples only, px; 0 for finer ones."""
    samples = samples_of_a_pixel(regions)
    return _OFF / samples**0.5 if samples else 0.0


def samples_of_a_pixel(regions: LabelMap) -> int:
    """Tell by how many samples the coverage of edge pixels was weighed; 0 where it was done finely.

    With n samples every share is a multiple of 1/n: then the unit vectors at
    n times each share, as an angle, point one way (the mean resultant length
    of directional statistics). Of pixels along one straight edge that repeat
    each other one counts.

    References
    ----------
    .. [1] K. V. Mardia and P. E. Jupp, "Directional Statistics", 2000.
    """
    shares = np.concatenate([_shares(regions, turned) for turned in (False, True)])
    if not len(shares):
        return 0
    least = max(_AGREED, _BY_CHANCE / len(shares) ** 0.5)
    for samples in _SAMPLES:
        if abs(np.exp(2j * np.pi * samples * shares).mean()) >= least:
            return samples
    return 0


def _shares(regions: LabelMap, turned: bool) -> Floats:
    """Shares that the right side has in pixels between two that are wholly of one tone each."""
    tones = np.asarray(cv2.transpose(regions.tones), np.uint8) if turned else regions.tones
    picture = (np.swapaxes(regions.evidence, 0, 1) if turned else regions.evidence)[..., :3]
    rows, columns = places_of(tones[:, :-2] != tones[:, 2:])
    every = max(1, len(rows) // _MOST)
    rows, columns = rows[::every], columns[::every]
    middle = picture[rows, columns + 1]
    left, way, sure = _sides(picture, tones, regions.mix, rows, columns)
    before = picture[np.maximum(rows - 1, 0), columns + 1]
    sure &= (before != middle).any(1)
    share: Floats = dots(middle - left, way) / np.maximum(dots(way, way), 1e-9)
    return share[sure & (share > 0.01) & (share < 0.99)]


def _sides(
    picture: Bytes, tones: Bytes, mix: Floats, rows: np.ndarray, columns: np.ndarray
) -> tuple[Floats, Floats, Bools]:
    """Colour of the tone on the left, the way to that on the right, and whether both are there whole and far apart."""
    ends = []
    whole = np.ones(len(rows), bool)
    for step in (0, 2):
        colour = mix[tones[rows, columns + step]]
        whole &= (np.abs(picture[rows, columns + step] - colour) < 1).all(1)
        ends.append(colour)
    way = ends[1] - ends[0]
    return ends[0], way, whole & (np.abs(way).max(1, initial=0) >= _CONTRAST)
