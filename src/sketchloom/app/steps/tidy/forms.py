"""Little pictures of the forms that can be drawn."""

from math import cos, pi, sin

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPainterPath, QPen, QPixmap, QPolygonF

__all__ = ["FORM_SIDE", "form_icon"]

FORM_SIDE = 22
"""px, of a picture."""


def _round(count: int, dent: float = 1.0) -> QPolygonF:
    """Corners round the middle, every other one nearer to it."""
    far = [9.0 if number % 2 == 0 or dent == 1.0 else 9.0 * dent for number in range(count)]
    turn = [2 * pi * number / count - pi / 2 for number in range(count)]
    return QPolygonF([QPointF(11 + r * cos(a), 11 + r * sin(a)) for r, a in zip(far, turn, strict=True)])


def _path(form: str) -> QPainterPath:
    path = QPainterPath()
    if form == "line":
        path.moveTo(3, 18)
        path.lineTo(19, 4)
    elif form == "line-by-hand":
        path.moveTo(3, 16)
        path.cubicTo(8, 2, 11, 22, 19, 5)
    elif form == "rectangle":
        path.addRect(QRectF(3, 5, 16, 12))
    elif form == "ellipse":
        path.addEllipse(QRectF(2.5, 5, 17, 12))
    elif form in ("regular", "star"):
        path.addPolygon(_round(6) if form == "regular" else _round(10, 0.45))
        path.closeSubpath()
    elif form == "outline":
        path.addPolygon(QPolygonF([QPointF(4, 17), QPointF(3, 7), QPointF(12, 3), QPointF(19, 10), QPointF(14, 18)]))
        path.closeSubpath()
    elif form == "curved":
        path.moveTo(4, 16)
        path.cubicTo(0, 5, 9, 0, 14, 6)
        path.cubicTo(24, 8, 19, 20, 13, 17)
        path.cubicTo(10, 15, 6, 22, 4, 16)
    else:
        path.moveTo(5, 17)
        path.cubicTo(-2, 8, 8, 1, 11, 6)
        path.cubicTo(17, 0, 23, 9, 16, 12)
        path.cubicTo(20, 20, 10, 21, 7, 18)
    return path


def form_icon(form: str, ink: str, checked: str) -> QIcon:
    """Draw a form; `ink` and `checked` are its colour on a button, and on one that is down."""
    icon = QIcon()
    for code, state in ((ink, QIcon.State.Off), (checked, QIcon.State.On)):
        for mode, share in ((QIcon.Mode.Normal, 1.0), (QIcon.Mode.Disabled, 0.35)):
            pixmap = QPixmap(2 * FORM_SIDE, 2 * FORM_SIDE)
            pixmap.setDevicePixelRatio(2)
            pixmap.fill(QColor(0, 0, 0, 0))
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setOpacity(share)
            pen = QPen(QColor(code), 1.7)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
            painter.setPen(pen)
            painter.drawPath(_path(form))
            painter.end()
            icon.addPixmap(pixmap, mode, state)
    return icon
