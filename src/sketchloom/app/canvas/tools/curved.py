"""The tool that draws a smooth closed curve through clicks."""

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPolygonF

from sketchloom.app.canvas.tools.base import Tool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.app.canvas.tools.outline import OutlineTool
from sketchloom.core.tidy import flattened, smooth

__all__ = ["CurvedOutlineTool"]


class CurvedOutlineTool(OutlineTool):
    """Takes clicks round a shape, through which the curve runs; gives them."""

    def __init__(self) -> None:
        super().__init__()
        self.help = (
            "Click round the shape; a smooth curve runs through the clicks. "
            "Backspace takes a click back; Enter on the first point, or Shift+Enter, closes it."
        )

    def paint(self, painter: QPainter) -> None:
        """Draw the curve as it would be, the pointer's place among the clicks."""
        place = self.canvas.widget_point
        points = [*self.clicks, *([self.canvas.source_point(self.at)] if self.at is not None and self.clicks else [])]
        if len(points) > 1:
            on_screen = [place(point) for point in points]
            curve = smooth([(at.x(), at.y()) for at in on_screen])
            line = flattened(np.array(curve))
            draw_line(painter, QPolygonF([QPointF(x, y) for x, y in line.tolist()]))
        for number, click in enumerate(self.clicks):
            draw_handle(painter, place(click), number == 0)
        Tool.paint(self, painter)
