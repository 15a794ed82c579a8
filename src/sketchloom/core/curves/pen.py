"""A pen that draws paths."""

from typing import Any

import numpy as np
from fontTools.pens.basePen import BasePen

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.path import Path

__all__ = ["OutlinePen"]

_SAME = 1e-9


class OutlinePen(BasePen):
    """Gathers contours as cubic segments; quadratic curves, as TrueType fonts have them, become the same cubic."""

    def __init__(self, glyphs: Any = None) -> None:
        super().__init__(glyphs)
        self.contours: list[tuple[Floats, Bools]] = []
        self._points: list[Any] = []
        self._straight: list[bool] = []

    def _moveTo(self, pt: Any) -> None:  # noqa: N802
        self._points, self._straight = [pt], []

    def _lineTo(self, pt: Any) -> None:  # noqa: N802
        start = self._points[-1]
        if pt != start:
            way = pt[0] - start[0], pt[1] - start[1]
            self._points.extend((start[0] + way[0] * k / 3, start[1] + way[1] * k / 3) for k in (1, 2))
            self._points.append(pt)
            self._straight.append(True)

    def _curveToOne(self, pt1: Any, pt2: Any, pt3: Any) -> None:  # noqa: N802
        self._points.extend((pt1, pt2, pt3))
        self._straight.append(False)

    @property
    def path(self) -> Path:
        """All that was closed so far."""
        return Path(tuple(points for points, _ in self.contours), tuple(straight for _, straight in self.contours))

    def _closePath(self) -> None:  # noqa: N802
        if np.abs(np.subtract(self._points[-1], self._points[0])).max() <= _SAME:
            self._points[-1] = self._points[0]
        self._lineTo(self._points[0])
        self.contours.append((np.array(self._points, float), np.array(self._straight, bool)))
