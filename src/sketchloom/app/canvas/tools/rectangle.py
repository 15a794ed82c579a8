"""A tool that drags a rectangle."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPolygonF

from sketchloom.app.canvas.tools.base import Tool
from sketchloom.app.canvas.tools.draw import draw_line

__all__ = ["RectangleTool"]

_LEAST = 4.0
"""Screen pixels; a smaller one was a click."""


class RectangleTool(Tool):
    """Drags a rectangle; gives two opposite corners."""

    help = "Drag a rectangle."

    def __init__(self, help_text: str) -> None:
        super().__init__()
        self.help = help_text
        self._from: QPointF | None = None

    def press(self, at: QPointF) -> None:
        """Begin at a corner."""
        self._from = at
        super().press(at)

    def release(self, at: QPointF) -> None:
        """End at the other corner."""
        super().release(at)
        start, self._from = self._from, None
        if start is not None and min(abs(at.x() - start.x()), abs(at.y() - start.y())) > _LEAST:
            area = QRectF(start, at).normalized()
            self.done.emit((self.canvas.source_point(area.topLeft()), self.canvas.source_point(area.bottomRight())))

    def paint(self, painter: QPainter) -> None:
        """Draw it."""
        if self._from is not None and self.at is not None:
            draw_line(painter, QPolygonF(QRectF(self._from, self.at)), closed=True)
        super().paint(painter)
