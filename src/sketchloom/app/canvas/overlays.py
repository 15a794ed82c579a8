"""What is drawn over a view: marks, gaps, a ring, the divider, the scale; and the empty canvas."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF

from sketchloom.app.canvas.navigation import Navigated
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import legible_on
from sketchloom.core.picture import Point

__all__ = ["paint_divider", "paint_empty", "paint_gaps", "paint_marks", "paint_ring", "paint_scale"]

_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000)


def paint_marks(canvas: Navigated, painter: QPainter, marks: Sequence[tuple[Point, Point]]) -> None:
    """Frame places of the picture, with their numbers."""
    for number, (first, last) in enumerate(marks, 1):
        area = QRectF(canvas.widget_point(first), canvas.widget_point(last)).normalized()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for code, width in ((theme.tokens.on_indigo, 4), (theme.tokens.indigo, 2)):
            painter.setPen(QPen(QColor(code), width))
            painter.drawRect(area)
        tag = QRectF(area.left(), area.top(), 26, 22)
        painter.fillRect(tag, QColor(theme.tokens.indigo))
        painter.setPen(QColor(theme.tokens.on_indigo))
        painter.setFont(font(1, QFont.Weight.DemiBold))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, str(number))


def paint_gaps(canvas: Navigated, painter: QPainter, gaps: Sequence[tuple[Point, Point]]) -> None:
    """Show gaps as short lines, with their numbers."""
    painter.setFont(font(0, QFont.Weight.DemiBold))
    for number, (first, last) in enumerate(gaps, 1):
        ends = canvas.widget_point(first), canvas.widget_point(last)
        for code, width in ((theme.tokens.on_indigo, 6), (theme.tokens.madder, 3)):
            pen = QPen(QColor(code), width)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawLine(*ends)
        tag = QRectF(0, 0, 18, 18)
        tag.moveCenter((ends[0] + ends[1]) / 2 + QPointF(14, -14))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(theme.tokens.madder))
        painter.drawEllipse(tag)
        painter.setPen(QColor(theme.tokens.on_indigo))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, str(number))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_ring(canvas: Navigated, painter: QPainter, at: Point) -> None:
    """Ring a place."""
    for code, width in ((theme.tokens.on_indigo, 5), (theme.tokens.madder, 2.5)):
        painter.setPen(QPen(QColor(code), width))
        painter.drawEllipse(canvas.widget_point(at), 18, 18)


def paint_divider(canvas: Navigated, painter: QPainter, x: float) -> None:
    """Draw the line between two views, with its handle."""
    painter.resetTransform()
    indigo = QColor(theme.tokens.indigo)
    top, bottom = canvas.offset.y(), canvas.offset.y() + canvas.shown.extent().height() * canvas.zoom
    painter.setPen(QPen(indigo, 2))
    painter.drawLine(QPointF(x, top), QPointF(x, bottom))
    middle = QPointF(x, min(max((top + bottom) / 2, 60), canvas.height() - 60))
    painter.setBrush(QColor(theme.tokens.paper))
    painter.drawEllipse(middle, 13, 13)
    for sign in (-1, 1):
        painter.drawPolyline(
            QPolygonF([middle + QPointF(sign * 3, -5), middle + QPointF(sign * 8, 0), middle + QPointF(sign * 3, 5)])
        )
    painter.setBrush(Qt.BrushStyle.NoBrush)


def paint_scale(canvas: Navigated, painter: QPainter, unit: str) -> None:
    """Draw a length of a round number at the foot."""
    per_mm = canvas.shown.unit()
    if per_mm is None:
        return
    mm = {"mm": 1.0, "cm": 10.0, "in": 25.4}[unit]
    per_unit = per_mm * canvas.zoom * mm
    length = next((s for s in (0.1, 0.2, 0.5, *_STEPS) if s * per_unit >= 56), _STEPS[-1])
    painter.setFont(font(0, QFont.Weight.Medium))
    base = canvas.height() - 30
    right = 16 + length * per_unit
    bar = QPolygonF([QPointF(16, base - 5), QPointF(16, base), QPointF(right, base), QPointF(right, base - 5)])
    words = QPainterPath()
    words.addText(QPointF(16, base + 16), painter.font(), f"{length:g} {unit}")
    edge = QPen(QColor(canvas.scene.ground), 4, j=Qt.PenJoinStyle.RoundJoin)  # seen over the work, not over the ground
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(edge)
    painter.drawPolyline(bar)
    painter.drawPath(words)
    ink = QColor(legible_on(canvas.scene.ground))
    painter.setPen(ink)
    painter.drawPolyline(bar)
    painter.fillPath(words, ink)


def paint_empty(canvas: Navigated, painter: QPainter) -> None:
    """Say what an empty canvas takes."""
    painter.setPen(QColor(legible_on(canvas.scene.ground)))
    area = QRectF(canvas.rect())
    painter.setFont(font(3, QFont.Weight.DemiBold))
    painter.drawText(area.adjusted(0, 0, 0, -50), Qt.AlignmentFlag.AlignCenter, "Drop pictures here")
    painter.setFont(font(1))
    painter.drawText(
        area.adjusted(0, 40, 0, 0),
        Qt.AlignmentFlag.AlignCenter,
        "PNG, JPEG, WebP, HEIC, TIFF, BMP, GIF, PDF, or a .loom job.\n"
        "Ctrl+O opens some from a folder, Ctrl+V pastes one; “Open the demo job” is in the finder, Ctrl+K.",
    )
