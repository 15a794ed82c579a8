"""How tools draw: lines, handles and rings that show on any picture."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font

__all__ = ["draw_handle", "draw_line", "draw_ring", "draw_words"]

_HANDLE = 7.0


def draw_line(painter: QPainter, line: QPolygonF, closed: bool = False) -> None:
    """Draw a line that shows on any picture."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for code, width in ((theme.tokens.on_indigo, 4), (theme.tokens.indigo, 2)):
        painter.setPen(QPen(QColor(code), width))
        if closed:
            painter.drawPolygon(line)
        else:
            painter.drawPolyline(line)


def draw_handle(painter: QPainter, at: QPointF, chosen: bool = False) -> None:
    """Draw a handle that can be dragged."""
    painter.setPen(QPen(QColor(theme.tokens.indigo), 2))
    painter.setBrush(QColor(theme.tokens.indigo if chosen else theme.tokens.paper))
    painter.drawEllipse(at, _HANDLE, _HANDLE)
    painter.setBrush(Qt.BrushStyle.NoBrush)


def draw_ring(painter: QPainter, at: QPointF, radius: float) -> None:
    """Draw the edge of a round brush."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for code, width in ((theme.tokens.on_indigo, 3), (theme.tokens.indigo, 1.5)):
        painter.setPen(QPen(QColor(code), width))
        painter.drawEllipse(at, radius, radius)


def draw_words(painter: QPainter, words: str, at: QPointF) -> None:
    """Write a few words round a place, on a ground of their own, so that they show on any picture."""
    t = theme.tokens
    painter.setFont(font(1))
    box = painter.fontMetrics().boundingRect(words).adjusted(-5, -2, 5, 2)
    box.moveCenter(at.toPoint())
    painter.setPen(QPen(QColor(t.line), 1))
    painter.setBrush(QColor(t.paper))
    painter.drawRoundedRect(box, 3, 3)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QColor(t.ink))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
