"""A sheet as it fills: where a piece fits, found on a grid and then slid into place on the outlines.

Lowest-left placement on a raster, as surveyed by Bennell & Oliveira 2008,
"The geometry of nesting problems: a tutorial", European Journal of
Operational Research 184; a grid held as one large number is tried at all
places at once.
"""

import math
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.sheets.cells import Runs, bits_of, rings_of, runs_of, touched

__all__ = ["Board", "Shape", "Spot", "shape_of"]

_ROUND = 16
"""Corners of a quarter of what lies within a distance."""
_NEAR_ENOUGH = 0.02
"""mm that a slide may end short of what it could."""
_SLIDES = 6


class Shape(NamedTuple):
    """What is laid at one turn, its low corner at the origin, mm."""

    parts: Any  # (P,) polygons
    width: float
    height: float
    low: tuple[float, float]  # where that corner lay before, after the turn
    runs: Runs
    around: tuple[Any, ...]  # what lies nearer to it than the distance


class Spot(NamedTuple):
    """Where something fits, mm."""

    x: float
    y: float
    end: float  # how far down it reaches


def shape_of(parts: Any, bounds: tuple[float, float, float, float], cell: float, distance: float) -> Shape:
    """Prepare what is laid, for a grid and a distance.

    Parameters
    ----------
    parts : (P,) array of Polygon
        mm, turned as they will lie; at most a hair simpler than they are.
    bounds : (float, float, float, float)
        Of what they stand for, which may reach a hair farther.
    cell : float
        mm
    distance : float
        mm
    """
    left, top, right, bottom = bounds
    moved = shapely.transform(parts, lambda points: points - (left, top))
    width, height = right - left, bottom - top
    columns, rows = max(1, math.ceil(width / cell - 1e-9)), max(1, math.ceil(height / cell - 1e-9))
    mask = touched([ring / cell for ring in rings_of(moved)], columns, rows)
    reach = distance / math.cos(math.pi / (4 * _ROUND))  # so that the corners lie outside, and no side inside
    around = tuple(shapely.get_parts(shapely.buffer(moved, reach, quad_segs=_ROUND)))
    return Shape(moved, width, height, (left, top), runs_of(mask), around)


class Board:
    """The usable part of a sheet, and what lies on it.

    Parameters
    ----------
    width, height : float
        mm that can be used.
    cell : float
        mm
    distance : float
        mm between what is laid.
    """

    def __init__(self, width: float, height: float, cell: float, distance: float) -> None:
        self.width, self.height, self._cell, self._distance = width, height, cell, distance
        self._columns = max(1, math.floor(width / cell + 1e-9))
        self._rows = max(1, math.floor(height / cell + 1e-9))
        self._stride = self._columns + 1
        self._taken: Bools = np.zeros((0, self._stride), bool)
        self._wide: list[int] | None = None
        self._valid: dict[tuple[int, int], int] = {}
        self._parts: list[Any] = []
        self._boxes: Floats = np.zeros((0, 4))
        self.used = 0.0
        """mm down to which it is taken."""

    def place(self, shape: Shape) -> Spot | None:
        """Find the lowest place, and of those the leftmost; None where there is none."""
        if shape.width > self.width + 1e-9 or shape.height > self.height + 1e-9:
            return None
        runs = shape.runs
        width, height = min(runs.width, self._columns), min(runs.height, self._rows)
        rows = min(len(self._taken), self._rows - height) + 1
        free = self._every(width, rows) & ~self._barred(runs)
        if not free:
            return None
        place = (free & -free).bit_length() - 1
        row, column = divmod(place, self._stride)
        x = min(column * self._cell, self.width - shape.width)
        y = min(row * self._cell, self.height - shape.height)
        x, y = self._slid(shape, max(0.0, x), max(0.0, y))
        return Spot(x, y, y + shape.height)

    def _every(self, width: int, rows: int) -> int:
        """All places at which something so wide lies on the board, in so many rows."""
        key = width, rows
        if key not in self._valid:
            line = np.zeros((rows, self._stride), bool)
            line[:, : self._columns - width + 1] = True
            self._valid[key] = bits_of(line)
        return self._valid[key]

    def _barred(self, runs: Runs) -> int:
        """Places at which some cell of it would be taken already."""
        if self._wide is None:
            self._wide = [bits_of(self._taken)]
        out = 0
        for row, first, length in zip(runs.row.tolist(), runs.first.tolist(), runs.length.tolist(), strict=True):
            power = length.bit_length() - 1
            while len(self._wide) <= power:
                last = self._wide[-1]
                self._wide.append(last | last >> (1 << len(self._wide) - 1))
            wide, start = self._wide[power], row * self._stride + first
            out |= wide >> start
            if length > 1 << power:
                out |= wide >> (start + length - (1 << power))
        return out

    def _slid(self, shape: Shape, x: float, y: float) -> tuple[float, float]:
        """Slide up, then left, then up, for as far as nothing comes nearer than the distance."""
        if not len(self._boxes):
            return 0.0, 0.0
        for dx, dy in ((0, -1), (-1, 0), (0, -1)):
            reach = self._distance + 2 * self._cell
            box = np.array([x, y, x + shape.width, y + shape.height]) + (-reach, -reach, reach, reach)
            near = np.flatnonzero(
                (self._boxes[:, 0] < box[2])
                & (self._boxes[:, 2] > box[0])
                & (self._boxes[:, 1] < box[3])
                & (self._boxes[:, 3] > box[1])
            )
            others = np.array([self._parts[place] for place in near.tolist()], object)
            room = min(2 * self._cell, y if dy else x)
            for _ in range(_SLIDES):
                if room <= _NEAR_ENOUGH:
                    break
                apart = _distance_of(shapely.transform(shape.parts, lambda at, x=x, y=y: at + (x, y)), others)
                step = min(room, apart - self._distance)
                if step <= _NEAR_ENOUGH:
                    break
                x, y, room = x + dx * step, y + dy * step, room - step
        return x, y

    def clear(self, shape: Shape, x: float, y: float) -> bool:
        """Whether something fits at a place, and comes not nearer to anything than the distance."""
        if x < -1e-6 or y < -1e-6 or x + shape.width > self.width + 1e-6 or y + shape.height > self.height + 1e-6:
            return False
        if not self._parts:
            return True
        here = shapely.transform(shape.parts, lambda at: at + (x, y))
        return _distance_of(here, np.array(self._parts, object)) >= self._distance - 1e-6

    def take(self, shape: Shape, x: float, y: float) -> None:
        """Lay something at a place."""
        here = shapely.transform(shape.parts, lambda at: at + (x, y))
        self._parts += list(here)
        self._boxes = np.vstack([self._boxes, shapely.bounds(here).reshape(-1, 4)])
        self.used = max(self.used, y + shape.height)
        low = max(0, math.floor((y - self._distance) / self._cell) - 1)
        high = min(self._rows, math.ceil((y + shape.height + self._distance) / self._cell) + 1)
        if high > len(self._taken):
            more = np.zeros((high - len(self._taken), self._stride), bool)
            self._taken = np.vstack([self._taken, more])
        if high > low:
            rings = [(ring + (x, y)) / self._cell - (0, low) for shape_ in shape.around for ring in rings_of([shape_])]
            groups = [rings_of([shape_]) for shape_ in shape.around]
            for group in groups:
                moved = [(ring + (x, y)) / self._cell - (0, low) for ring in group]
                self._taken[low:high, : self._columns] |= touched(moved, self._columns, high - low)
            del rings
        self._wide = None
        self._valid.clear()


def _distance_of(parts: Any, others: Any) -> float:
    """Least distance between some polygons and others, mm."""
    if not len(others):
        return math.inf
    if len(parts) == 1:
        return float(shapely.distance(parts[0], others).min())
    tree = shapely.STRtree(others)
    _, apart = tree.query_nearest(parts, return_distance=True, all_matches=False)
    return float(apart.min())
