"""A tool that joins two open ends of centre lines."""

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPolygonF

from sketchloom.app.canvas.tools.curve import NEAR, CurveTool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.app.job_model import JobModel
from sketchloom.core.arrays import Floats
from sketchloom.core.layers import Join
from sketchloom.core.picture import source_points

__all__ = ["JoinTool"]


class JoinTool(CurveTool):
    """Joins two open ends of centre lines."""

    help = "Drag from one end of a centre line to another; a curve joins them."

    def __init__(self, model: JobModel) -> None:
        super().__init__(model)
        self._first: tuple[str, Floats] | None = None

    def ends(self) -> list[tuple[str, Floats]]:
        """Open ends, each with the key of its ink, px."""
        if not self.result.has("finish", "mended"):
            return []
        finished, moved = self.result.finished, np.array(self.result.stack.moved)
        return [
            (layer.ink.key, (contour[end] - moved) * finished.px_per_mm + finished.origin)
            for layer in self.result.stack.strokes
            for contour, closed in zip(layer.path.contours, layer.path.closed, strict=True)
            if not closed
            for end in (0, -1)
        ]

    def _near(self, at: QPointF, ink: str | None = None) -> tuple[str, Floats] | None:
        here = self.px(at)
        ends = [end for end in self.ends() if ink in (None, end[0])]
        away = [float(np.hypot(*(end - here))) for _, end in ends]
        return ends[int(np.argmin(away))] if away and min(away) < NEAR * self.screen_px else None

    def press(self, at: QPointF) -> None:
        """Begin at an end."""
        super().press(at)
        self._first = self._near(at)
        if self._first is None:
            self.model.said.emit("No open end lies there; begin at one.")

    def release(self, at: QPointF) -> None:
        """End at another."""
        super().release(at)
        first, self._first = self._first, None
        last = self._near(at, first[0]) if first is not None else None
        if first is None or last is None or np.array_equal(first[1], last[1]):
            return
        places = source_points(self.result.picture, np.array([first[1], last[1]]))
        self.done.emit(Join(first[0], places[0], places[1]))

    def paint(self, painter: QPainter) -> None:
        """Draw the ends, and the line that is dragged."""
        if self.model.result is None:
            return
        for _, end in self.ends():
            draw_handle(painter, self.on_screen(end[None])[0])
        if self.down and self.at is not None and self._first is not None:
            draw_line(painter, QPolygonF([self.on_screen(self._first[1][None])[0], self.at]))
        super().paint(painter)
