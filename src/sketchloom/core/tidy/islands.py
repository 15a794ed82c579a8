"""Islands: what falls out of a sheet from which inks are cut away, and the bridges that hold it."""

from typing import Literal, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.regions import GROUND

__all__ = ["MOST_BRIDGES", "Direction", "Island", "cut_labels", "find_islands", "proposed_bridges"]

MOST_BRIDGES = 8
"""Of one island."""
Direction = Literal["nearest", "upright", "level"]
_RIM = 16
"""px round an island that are looked at, and as much again as it is large."""
_INTO = 1.5
"""px that a bridge reaches into what it joins, at least."""


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
        1 + island; 0 elsewhere in the sheet, and -1 where it is cut away.
    """
    table = np.ones(256, np.uint8)
    table[list(cut)] = 0
    sheet = table[labels]
    padded = np.pad(sheet, 1, constant_values=1)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(padded, connectivity=4)
    held = parts[0, 0]
    parts = parts[1:-1, 1:-1]
    loose = [part for part in range(1, count) if part != held]
    loose.sort(key=lambda part: (-stats[part, cv2.CC_STAT_AREA], part))
    number = np.zeros(count, np.int32)
    number[loose] = np.arange(1, len(loose) + 1)
    out = np.where(sheet > 0, number[parts], -1).astype(np.int32)
    islands = []
    for part in loose:
        left, top, width, height, area = (int(value) for value in stats[part])
        left, top = left - 1, top - 1
        own = np.pad((parts[top : top + height, left : left + width] == part).view(np.uint8), 1)
        deep = cv2.distanceTransform(own, cv2.DIST_L2, 5)
        row, column = np.unravel_index(int(np.argmax(deep)), deep.shape)
        at = float(column + left) - 0.5, float(row + top) - 0.5
        islands.append(Island(float(area), at, (left, top, left + width, top + height)))
    return tuple(islands), out


def proposed_bridges(
    parts: Ints, island: int, count: int, width: float, direction: Direction = "nearest"
) -> list[tuple[Floats, Floats]]:
    """Ends of the bridges that hold an island: to the nearest of the sheet, or straight up and down, or sideways.

    Parameters
    ----------
    parts : (H, W) int
        As `find_islands` gives them.
    island : int
        From 1 up.
    count : int
        Bridges; fewer where there is no place for so many.
    width : float
        Of a bridge, px.
    direction : {'nearest', 'upright', 'level'}

    Returns
    -------
    list of (2,) pairs
        px; each reaches a little into the island and into what holds it.
    """
    own, other, shift = _window(parts, island, direction)
    found = _nearest(own, other) if direction == "nearest" else _rays(own, other, direction)
    found = [(first + shift, last + shift) for first, last in found]
    middle = np.argwhere(own).mean(0)[::-1] + 0.5 + shift
    chosen: list[tuple[Floats, Floats]] = []
    angles: list[float] = []
    for first, last in found:
        angle = float(np.arctan2(*(first - middle)[::-1]))
        apart = [abs(np.angle(np.exp(1j * (angle - known)))) for known in angles]
        if all(turn > 1.2 * np.pi / count for turn in apart) or not angles:
            way = (last - first) / max(1e-9, float(np.hypot(*(last - first))))
            into = max(_INTO, width / 2)
            chosen.append((first - way * into, last + way * into))
            angles.append(angle)
        if len(chosen) == count:
            break
    return chosen


def _window(parts: Ints, island: int, direction: Direction) -> tuple[Bools, Bools, Floats]:
    """An island and the rest of the sheet, in a window that shows what holds it on all sides; and where it begins."""
    height, width = parts.shape
    mine = parts == island
    rows, columns = np.flatnonzero(mine.any(1)), np.flatnonzero(mine.any(0))
    top, bottom, left, right = int(rows[0]), int(rows[-1]) + 1, int(columns[0]), int(columns[-1]) + 1
    if direction != "nearest":  # a ray goes on to the frame
        y0, y1, x0, x1 = (0, height, left, right) if direction == "upright" else (top, bottom, 0, width)
        own = mine[y0:y1, x0:x1]
        return own, (parts[y0:y1, x0:x1] >= 0) & ~own, np.array([x0, y0], float)
    rim = _RIM + max(bottom - top, right - left)
    while True:
        y0, y1 = max(0, top - rim), min(height, bottom + rim)
        x0, x1 = max(0, left - rim), min(width, right + rim)
        own = mine[y0:y1, x0:x1]
        other = (parts[y0:y1, x0:x1] >= 0) & ~own
        sides = (other[:, : left - x0], other[:, right - x0 :], other[: top - y0], other[bottom - y0 :])
        if all(side.any() for side in sides) or (y1 - y0, x1 - x0) == (height, width):
            return own, other, np.array([x0, y0], float)
        rim *= 2


def _nearest(own: Bools, other: Bools) -> list[tuple[Floats, Floats]]:
    """From each edge pixel of an island the way to the nearest of the rest, shortest first."""
    edge = own & (cv2.erode(own.view(np.uint8), np.ones((3, 3), np.uint8)) == 0)
    away, near = cv2.distanceTransformWithLabels(
        (~other).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE, labelType=cv2.DIST_LABEL_PIXEL
    )
    places = np.argwhere(other)
    table = np.zeros((int(near.max()) + 1, 2))
    table[near[other]] = places
    y, x = np.nonzero(edge)
    order = np.lexsort((x, y, np.rint(2 * away[y, x])))
    ends = table[near[y[order], x[order]]]
    return [
        (np.array([column + 0.5, row + 0.5]), np.array([end[1] + 0.5, end[0] + 0.5]))
        for row, column, end in zip(y[order], x[order], ends, strict=True)
    ]


def _rays(own: Bools, other: Bools, direction: Direction) -> list[tuple[Floats, Floats]]:
    """Straight ways from an island along rows or columns, shortest first, of equal ones the middle one."""
    upright = direction == "upright"
    mine, rest = (own.T, other.T) if upright else (own, other)
    found = []
    rows = np.flatnonzero(mine.any(1))
    for row in rows.tolist():
        columns = np.flatnonzero(mine[row])
        held = np.flatnonzero(rest[row])
        for start, ends in ((columns[-1], held[held > columns[-1]][:1]), (columns[0], held[held < columns[0]][-1:])):
            end = int(ends[0]) if len(ends) else (rest.shape[1] if start == columns[-1] else -1)
            pair = np.array([start + 0.5, row + 0.5]), np.array([end + 0.5, row + 0.5])
            found.append((abs(end - start), abs(row - rows.mean()), pair))
    found.sort(key=lambda one: (one[0], one[1], float(one[2][0][1]), float(one[2][0][0])))
    return [(one[::-1].copy(), end[::-1].copy()) if upright else (one, end) for _, _, (one, end) in found]


def cut_labels(labels: np.ndarray, keys: tuple[str, ...], inks: tuple[str, ...] | None) -> set[int]:
    """Labels that are cut away: those of some inks, or all but the ground."""
    if inks is None:
        return {label for label in np.unique(labels).tolist() if label != GROUND}
    return {keys.index(key) + 1 for key in inks if key in keys}
