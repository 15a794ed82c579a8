"""Islands: what falls out of a sheet from which inks are cut away."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Ints, looked_up
from sketchloom.core.regions import GROUND

__all__ = ["Island", "cut_labels", "find_islands"]


class Island(NamedTuple):
    """A part of the sheet that hangs on nothing."""

    area: float  # px
    inside: tuple[float, float]  # px
    box: tuple[int, int, int, int]  # left, top, right, bottom, px


def find_islands(labels: np.ndarray, cut: set[int]) -> tuple[tuple[Island, ...], Ints]:
    """Find what falls out when the labels of `cut` are cut away.

    The sheet goes on beyond the picture, so all that reaches its frame hangs
    together.

    Returns
    -------
    islands : tuple of Island
        Largest first.
    parts : (H, W) int32
        1 + island; 0 elsewhere in the sheet, and -1 where it is cut away. All 0 where there is no island.
    """
    table = np.ones(256, np.uint8)
    table[list(cut)] = 0
    padded = cv2.copyMakeBorder(looked_up(table, labels), 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=1)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(padded, connectivity=4)
    held = parts[0, 0]
    parts = parts[1:-1, 1:-1]
    loose = [part for part in range(1, count) if part != held]
    loose.sort(key=lambda part: (-stats[part, cv2.CC_STAT_AREA], part))
    number = np.zeros(count, np.int32)
    number[loose] = np.arange(1, len(loose) + 1)
    number[0] = -1
    islands = []
    for part in loose:
        left, top, width, height, area = (int(value) for value in stats[part])
        left, top = left - 1, top - 1
        own = np.pad((parts[top : top + height, left : left + width] == part).view(np.uint8), 1)
        deep = cv2.distanceTransform(own, cv2.DIST_L2, 5)
        row, column = np.unravel_index(int(np.argmax(deep)), deep.shape)
        at = float(column + left) - 0.5, float(row + top) - 0.5
        islands.append(Island(float(area), at, (left, top, left + width, top + height)))
    return tuple(islands), number[parts] if loose else np.zeros(labels.shape, np.int32)


def cut_labels(labels: np.ndarray, keys: tuple[str, ...], inks: tuple[str, ...] | None, ground: str = "") -> set[int]:
    """Labels that are cut away from a stencil's sheet.

    Parameters
    ----------
    labels : (H, W) int
    keys : tuple of str
        Of the inks.
    inks : tuple of str or None
        Those that are cut away; None is all but the ground, and but what of
        its colour it encloses: the inside of a letter is no letter.
    ground : str
        Key of the ground's colour.
    """
    if inks is not None:
        return {keys.index(key) + 1 for key in inks if key in keys}
    there = set(np.flatnonzero(np.bincount(labels.ravel())).tolist()) - {GROUND}
    return {label for label in there if keys[label - 1] != ground} or there
