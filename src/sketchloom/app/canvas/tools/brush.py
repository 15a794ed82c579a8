"""Tools that keep the line along which the pointer is dragged, and paint with it."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from sketchloom.app.canvas.tools.base import Tool
from sketchloom.app.canvas.tools.draw import draw_ring
from sketchloom.core.picture import Stroke

__all__ = ["BrushTool", "LineTool"]


class LineTool(Tool):
    """Keeps the line along which the pointer was dragged."""

    def __init__(self) -> None:
        super().__init__()
        self.line: list[QPointF] = []

    def press(self, at: QPointF) -> None:
        """Begin a stroke."""
        self.line = [at]
        super().press(at)

    def move(self, at: QPointF) -> None:
        """Go on with it."""
        if self.down and (at - self.line[-1]).manhattanLength() > 2:
            self.line.append(at)
        super().move(at)


class BrushTool(LineTool):
    """Draws strokes with a round brush; stays in hand."""

    help = "Paint with the pointer; each stroke can be undone."

    def __init__(self, help_text: str, width: float, colour: str, ghost: bool = False) -> None:
        super().__init__()
        self.help, self.width, self.colour, self.ghost = help_text, width, colour, ghost

    def _screen_width(self) -> float:
        """Of the brush where it is, in screen pixels."""
        at = self.at or QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
        (x0, y0), (x1, y1) = (self.canvas.source_point(at + QPointF(shift, 0)) for shift in (0, 100))
        return self.width * 100 / max(1e-9, ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5)

    def release(self, at: QPointF) -> None:
        """End it."""
        held = self.down
        super().release(at)
        if held:
            line, self.line = [*self.line, at], []
            points = tuple(self.canvas.source_point(place) for place in line)
            self.done.emit(Stroke(points if line[0] != at or len(line) > 2 else points[:1], round(self.width, 6)))

    def paint(self, painter: QPainter) -> None:
        """Draw the stroke in hand and the brush."""
        wide = self._screen_width()
        if self.line:
            tint = QColor(self.colour)
            tint.setAlphaF(0.6)
            painter.setPen(QPen(tint, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
            painter.drawPolyline(QPolygonF([*self.line, self.at or self.line[-1]]))
        if self.at is not None:
            draw_ring(painter, self.at, wide / 2)
        super().paint(painter)
