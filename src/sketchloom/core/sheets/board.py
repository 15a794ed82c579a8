"""A sheet as it fills: where a piece fits, found on a grid and then slid into place on the outlines.

Lowest-left placement on a raster, as surveyed by Bennell & Oliveira 2008,
"The geometry of nesting problems: a tutorial", European Journal of
Operational Research 184; a grid held as one large number is tried at all
places at once.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.sheets.cells import Runs, bits_of, rings_of, runs_of, touched

__all__ = ["Board", "Shape", "Spot", "cell_of", "moved_by", "shape_of"]

_ROUND = 16
"""Corners of a quarter of what lies within a distance."""
_NEAR_ENOUGH = 0.02
"""mm that a slide may end short of what it could."""
_SLIDES = 6
_REACH = 2.0
"""Cells that a slide may go."""
_WAYS = ((0.0, -1.0), (-1.0, 0.0), (0.0, -1.0))


@dataclass(frozen=True, eq=False)
class Shape:
    """What is laid at one turn, its low corner at the origin, mm.

    Attributes
    ----------
    parts : (P,) array of Polygon
    width, height : float
    runs : Runs
        Cells that it touches.
    distance : float
        mm that others keep from it.
    """

    parts: Any
    width: float
    height: float
    runs: Runs
    distance: float

    @cached_property
    def around(self) -> list[Floats]:
        """Rings round what lies nearer to it than the distance."""
        reach = self.distance / math.cos(math.pi / (4 * _ROUND))  # so that no side of it lies inside
        near = shapely.buffer(self.parts, reach, quad_segs=_ROUND)
        return rings_of([near[0] if len(near) == 1 else shapely.union_all(near)])


class Spot(NamedTuple):
    """Where the low corner of something lies, mm."""

    x: float
    y: float


def cell_of(width: float, wanted: float) -> float:
    """Give the largest cell, mm, that is no larger than wanted and divides a width."""
    return width / max(1, math.ceil(width / wanted - 1e-9))


def moved_by(parts: Any, x: float, y: float) -> Any:
    """Move polygons, mm."""
    return shapely.transform(parts, lambda points: points + np.array([x, y]))


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
    moved = moved_by(parts, -left, -top)
    width, height = right - left, bottom - top
    columns, rows = max(1, math.ceil(width / cell - 1e-9)), max(1, math.ceil(height / cell - 1e-9))
    mask = touched([ring / cell for ring in rings_of(moved)], columns, rows)
    return Shape(moved, width, height, runs_of(mask), distance)


class Board:
    """The usable part of a sheet, and what lies on it.

    Parameters
    ----------
    width, height : float
        mm that can be used.
    cell : float
        mm; divides the width.
    distance : float
        mm between what is laid.
    """

    def __init__(self, width: float, height: float, cell: float, distance: float) -> None:
        self.width, self.height, self._cell, self._distance = width, height, cell, distance
        self._columns = max(1, round(width / cell))
        self._rows = max(1, math.floor(height / cell + 1e-9))
        self._stride = self._columns + 1
        self._taken: Bools = np.zeros((0, self._stride), bool)
        self._wide: list[int] = [0]
        self._every: dict[tuple[int, int], int] = {}
        self._parts: list[Any] = []
        self._boxes: Floats = np.zeros((0, 4))
        self.used = 0.0
        """mm down to which it is taken."""

    def place(self, shape: Shape) -> Spot | None:
        """Find the lowest place, and of those the leftmost; None where there is none."""
        if shape.width > self.width + 1e-9 or shape.height > self.height + 1e-9:
            return None
        height = min(shape.runs.height, self._rows)
        rows = min(len(self._taken), self._rows - height) + 1
        free = self._places(min(shape.runs.width, self._columns), rows) & ~self._barred(shape.runs)
        if not free:
            return None
        row, column = divmod((free & -free).bit_length() - 1, self._stride)
        x = max(0.0, min(column * self._cell, self.width - shape.width))
        return Spot(*self._slid(shape, x, row * self._cell))

    def _places(self, width: int, rows: int) -> int:
        """All places at which something so wide lies on the board, in so many rows."""
        if (width, rows) not in self._every:
            line = np.zeros((rows, self._stride), bool)
            line[:, : self._columns - width + 1] = True
            self._every[width, rows] = bits_of(line)
        return self._every[width, rows]

    def _barred(self, runs: Runs) -> int:
        """Places at which some cell of it would be taken already."""
        wide, out = self._wide, 0
        for row, first, length in zip(runs.row.tolist(), runs.first.tolist(), runs.length.tolist(), strict=True):
            power = length.bit_length() - 1
            while len(wide) <= power:  # cells from which a run of twice the length meets one that is taken
                wide.append(wide[-1] | wide[-1] >> (1 << (len(wide) - 1)))
            start = row * self._stride + first
            out |= wide[power] >> start
            if length > 1 << power:
                out |= wide[power] >> (start + length - (1 << power))
        return out

    def _slid(self, shape: Shape, x: float, y: float) -> tuple[float, float]:
        """Slide up, then left, then up, for as far as nothing comes nearer than the distance."""
        for dx, dy in _WAYS:
            room = min(_REACH * self._cell, y if dy else x)
            others = self._near((x, y, x + shape.width, y + shape.height), self._distance + _REACH * self._cell)
            for _ in range(_SLIDES):
                if room <= _NEAR_ENOUGH:
                    break
                step = min(room, _apart(moved_by(shape.parts, x, y), others) - self._distance)
                if step <= _NEAR_ENOUGH:
                    break
                x, y, room = x + dx * step, y + dy * step, room - step
        return x, y

    def _near(self, box: tuple[float, float, float, float], reach: float) -> Any:
        """What lies so near to a box; (N,) array of Polygon."""
        left, top, right, bottom = self._boxes.T
        near = (left < box[2] + reach) & (right > box[0] - reach) & (top < box[3] + reach) & (bottom > box[1] - reach)
        return np.array([self._parts[place] for place in np.flatnonzero(near).tolist()], object)

    def clear(self, shape: Shape, at: Spot) -> bool:
        """Whether something lies whole on the board at a place, and not nearer to anything than the distance."""
        box = (at.x, at.y, at.x + shape.width, at.y + shape.height)
        if min(at) < -_NEAR_ENOUGH or box[2] > self.width + _NEAR_ENOUGH or box[3] > self.height + _NEAR_ENOUGH:
            return False
        others = self._near(box, self._distance + _NEAR_ENOUGH)
        return _apart(moved_by(shape.parts, *at), others) >= self._distance - _NEAR_ENOUGH / 2

    def take(self, shape: Shape, at: Spot) -> None:
        """Lay something at a place."""
        here = moved_by(shape.parts, *at)
        self._parts += list(here)
        self._boxes = np.vstack([self._boxes, shapely.bounds(here).reshape(-1, 4)])
        self.used = max(self.used, at.y + shape.height)
        low = max(0, math.floor((at.y - self._distance) / self._cell) - 1)
        high = min(self._rows, math.ceil((at.y + shape.height + self._distance) / self._cell) + 1)
        if high > len(self._taken):
            self._taken = np.vstack([self._taken, np.zeros((high - len(self._taken), self._stride), bool)])
            self._every.clear()
        if high > low:
            rings = [(ring + np.array(at)) / self._cell - (0, low) for ring in shape.around]
            self._taken[low:high, : self._columns] |= touched(rings, self._columns, high - low)
            self._wide = [bits_of(self._taken)]


def _apart(parts: Any, others: Any) -> float:
    """Least distance between some polygons and others, mm."""
    if not len(others):
        return math.inf
    if len(parts) == 1:
        return float(shapely.distance(parts[0], others).min())
    _, apart = shapely.STRtree(others).query_nearest(parts, return_distance=True, all_matches=False)
    return float(apart.min())
