"""What is drawn of the way of the tool on a sheet."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath

from sketchloom.app.canvas.shapes import painter_path
from sketchloom.app.layouts import Played
from sketchloom.core.sheets import Run

__all__ = ["Way"]

_POINTS = 48
"""Of an outline that is cut as far as the tool is."""


class Way:
    """The way of the tool on a sheet: lines between its runs, and the runs.

    Parameters
    ----------
    runs : sequence of Run
        In cutting order.
    """

    def __init__(self, runs: Sequence[Run]) -> None:
        self.runs = runs
        self.travel = self._travel(len(runs))
        self._cut: dict[int, QPainterPath] = {}

    def _travel(self, many: int) -> QPainterPath:
        path = QPainterPath(QPointF(0, 0))
        for place, run in enumerate(self.runs[:many]):
            path.lineTo(*run.contour[0])
            if place + 1 < len(self.runs):
                path.moveTo(*run.contour[-1])
        return path

    def until(self, played: Played) -> tuple[QPainterPath, QPainterPath]:
        """Give the ways up to where the tool is, and what it has cut."""
        done = QPainterPath()
        for place in range(played.run):
            done.addPath(self._path(place))
        own = self._path(played.run)
        if played.share >= 1:
            done.addPath(own)
            return self._travel(played.run + 1), done
        here = QPainterPath(own.pointAtPercent(0))
        for share in np.linspace(0, played.share, _POINTS).tolist()[1:]:
            here.lineTo(own.pointAtPercent(min(1.0, share)))
        done.addPath(here)
        return self._travel(played.run + 1), done

    def _path(self, place: int) -> QPainterPath:
        if place not in self._cut:
            self._cut[place] = painter_path(self.runs[place].path)
        return self._cut[place]
