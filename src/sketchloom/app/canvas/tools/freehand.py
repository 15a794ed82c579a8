"""The tool that follows the pointer: a line by hand, open or closed."""

from typing import NamedTuple

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPolygonF

from sketchloom.app.canvas.tools.brush import LineTool
from sketchloom.app.canvas.tools.draw import draw_line
from sketchloom.core.picture import Point

__all__ = ["FreehandTool", "HandLine"]

_LEAST = 4.0
"""Screen pixels; a shorter line was a click."""


class HandLine(NamedTuple):
    """A line drawn by hand."""

    points: list[Point]
    step: float  # what a screen pixel covers there, in source coordinates


class FreehandTool(LineTool):
    """Keeps the line along which the pointer is dragged, and gives it."""

    view = "Regions"

    def __init__(self, help_text: str, closed: bool) -> None:
        super().__init__()
        self.help, self._closed = help_text, closed

    def release(self, at: QPointF) -> None:
        """Give the line."""
        held = self.down
        super().release(at)
        line, self.line = [*self.line, at], []
        far = max((place - line[0]).manhattanLength() for place in line)
        if held and far > _LEAST:
            (x, y), (u, v) = (self.canvas.source_point(line[0] + QPointF(shift, 0)) for shift in (0, 100))
            step = ((u - x) ** 2 + (v - y) ** 2) ** 0.5 / 100
            self.done.emit(HandLine([self.canvas.source_point(place) for place in line], max(step, 1e-9)))

    def paint(self, painter: QPainter) -> None:
        """Draw it so far."""
        if self.line and self.at is not None:
            draw_line(painter, QPolygonF([*self.line, self.at]), closed=self._closed)
        super().paint(painter)
