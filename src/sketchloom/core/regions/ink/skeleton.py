"""Thin strokes to lines a pixel wide, and find where they end."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints

__all__ = ["loose_ends", "thin"]


def _neighbours(mask: Bools) -> list[Bools]:
    """The eight neighbours of every pixel, from the north clockwise."""
    p = np.pad(mask, 1)
    h, w = mask.shape
    return [p[1 + dy : 1 + dy + h, 1 + dx : 1 + dx + w] for dy, dx in
            ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))]  # fmt: skip


def thin(mask: Bools) -> Bools:
    """Thin a mask to lines a pixel wide.

    References
    ----------
    .. [1] T. Y. Zhang and C. Y. Suen, "A fast parallel algorithm for thinning
       digital patterns", 1984.
    """
    out = mask.copy()
    while True:
        before = out.sum()
        for first in (True, False):
            n = _neighbours(out)
            count = sum(part.astype(np.int8) for part in n)
            turns = sum((~n[i] & n[(i + 1) % 8]).astype(np.int8) for i in range(8))
            north, east, south, west = n[0], n[2], n[4], n[6]
            if first:
                free = ~(north & east & south) & ~(east & south & west)
            else:
                free = ~(north & east & west) & ~(north & south & west)
            out &= ~((count >= 2) & (count <= 6) & (turns == 1) & free)
        if out.sum() == before:
            return out


def loose_ends(mask: Bools) -> tuple[Ints, float, Floats]:
    """Where strokes end.

    Returns
    -------
    points, width, ahead : (E, 2) int, float and (E, 2) float
        x, y of each end in px, the usual stroke width, and the way each
        stroke would go on. Strokes shorter than three widths are dots and
        dashes and do not count.
    """
    if not mask.any() or mask.all():  # no stroke, or no paper beside it
        return np.zeros((0, 2), np.int64), 0.0, np.zeros((0, 2))
    line = thin(mask)
    if not line.any():  # dots of a few pixels are thinned away
        return np.zeros((0, 2), np.int64), 0.0, np.zeros((0, 2))
    width = 2 * float(np.median(cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)[line]))
    _, part, stats, _ = cv2.connectedComponentsWithStats(line.astype(np.uint8), connectivity=8)
    long = stats[:, cv2.CC_STAT_AREA] >= max(3 * width, 8)
    long[0] = False
    count = sum(n.astype(np.int8) for n in _neighbours(line))
    y, x = np.nonzero(line & (count == 1) & long[part])
    ends = np.stack([x, y], 1)
    return ends, width, np.array([_way_on(line, end, max(4, round(2 * width))) for end in ends]).reshape(-1, 2)


def _way_on(line: Bools, end: Ints, steps: int) -> Floats:
    """Unit vector from some steps back along a line to its end."""
    at, seen = (int(end[0]), int(end[1])), set()
    for _ in range(steps):
        seen.add(at)
        x, y = at
        ahead = [
            (x + dx, y + dy)
            for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (1, -1), (-1, 1), (-1, -1))
            if 0 <= x + dx < line.shape[1] and 0 <= y + dy < line.shape[0] and line[y + dy, x + dx]
        ]
        ahead = [place for place in ahead if place not in seen]
        if not ahead:
            break
        at = ahead[0]
    way = np.array(end, float) - at
    return way / max(1e-9, float(np.hypot(*way)))
