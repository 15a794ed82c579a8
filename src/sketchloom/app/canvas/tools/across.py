"""The tool that draws one line across: straight from press to release."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPolygonF

from sketchloom.app.canvas.tools.drag import DragTool
from sketchloom.app.canvas.tools.draw import draw_line

__all__ = ["AcrossTool"]

_LEAST = 4.0


class AcrossTool(DragTool):
    """Drags a straight line; gives its ends."""

    view = "Regions"

    def __init__(self, help_text: str) -> None:
        super().__init__()
        self.help = help_text

    def dragged(self, start: QPointF, end: QPointF) -> None:
        """Give the two ends."""
        if (end - start).manhattanLength() > _LEAST:
            self.done.emit((self.canvas.source_point(start), self.canvas.source_point(end)))

    def paint(self, painter: QPainter) -> None:
        """Draw it."""
        if self._from is not None and self.at is not None:
            draw_line(painter, QPolygonF([self._from, self.at]))
        super().paint(painter)
