"""A tool that drags a rectangle."""

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPolygonF

from sketchloom.app.canvas.tools.drag import DragTool
from sketchloom.app.canvas.tools.draw import draw_line

__all__ = ["RectangleTool"]

_LEAST = 4.0
"""Screen pixels; a smaller one was a click."""


class RectangleTool(DragTool):
    """Drags a rectangle; gives two opposite corners."""

    help = "Drag a rectangle."

    def __init__(self, help_text: str) -> None:
        super().__init__()
        self.help = help_text

    def dragged(self, start: QPointF, end: QPointF) -> None:
        """Give the corners."""
        if min(abs(end.x() - start.x()), abs(end.y() - start.y())) > _LEAST:
            area = QRectF(start, end).normalized()
            self.done.emit((self.canvas.source_point(area.topLeft()), self.canvas.source_point(area.bottomRight())))

    def paint(self, painter: QPainter) -> None:
        """Draw it."""
        if self._from is not None and self.at is not None:
            draw_line(painter, QPolygonF(QRectF(self._from, self.at)), closed=True)
        super().paint(painter)
