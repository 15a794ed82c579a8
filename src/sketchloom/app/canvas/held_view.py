"""A view that is slow to draw, held as a picture while it is moved and zoomed."""

import time
from collections.abc import Callable, Hashable

from PySide6.QtCore import QObject, QPoint, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPixmap, QTransform

__all__ = ["HeldView"]

_QUICK = 0.012
"""Seconds; what is drawn in less is drawn anew every time."""
_REST = 90
"""ms without a move after which it is drawn as it should be."""
_MOST_NEW = 0.5
"""Of the area; where more is uncovered than that, it shows once the hand rests."""


class HeldView(QObject):
    """Draws a view, or what was drawn of it last at another place or size.

    Attributes
    ----------
    rested : Signal
        It wants to be drawn exactly.
    """

    rested = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._key: Hashable = None
        self._room = QTransform()
        self._pixmap = QPixmap()
        self._took = 0.0
        self._rest = QTimer(self, interval=_REST, singleShot=True)
        self._rest.timeout.connect(self._on_rest)
        self._exact = False

    def _on_rest(self) -> None:
        self._exact = True
        self.rested.emit()

    def paint(
        self, painter: QPainter, area: QRect, key: Hashable, room: QTransform, draw: Callable[[QPainter], None]
    ) -> None:
        """Draw an area that begins at the widget's corner.

        Parameters
        ----------
        painter : QPainter
            Untransformed.
        area : QRect
        key : hashable
            Says what is drawn, but for its place.
        room : QTransform
            Where it is drawn.
        draw : callable
            Draws it, within the clip of the painter that it is given.
        """
        same = key == self._key and self._pixmap.size() == area.size() * painter.device().devicePixelRatioF()
        if same and room == self._room:
            painter.drawPixmap(area.topLeft(), self._pixmap)
            return
        if same and self._took > _QUICK and not self._exact:
            self._paint_moved(painter, area, room, draw)
            self._rest.start()
            return
        self._exact = False
        begun = time.perf_counter()
        ratio = painter.device().devicePixelRatioF()
        pixmap = QPixmap(area.size() * ratio)
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill("transparent")
        own = QPainter(pixmap)
        own.setRenderHints(painter.renderHints())
        draw(own)
        own.end()
        self._took = time.perf_counter() - begun
        self._key, self._room, self._pixmap = key, QTransform(room), pixmap
        painter.drawPixmap(area.topLeft(), pixmap)

    def _paint_moved(self, painter: QPainter, area: QRect, room: QTransform, draw: Callable[[QPainter], None]) -> None:
        move = self._room.inverted()[0] * room
        if abs(move.m11() - 1) < 1e-9 and abs(move.m22() - 1) < 1e-9:
            self._scroll(painter, area, QPoint(round(move.dx()), round(move.dy())), draw)
            painter.drawPixmap(area.topLeft(), self._pixmap)
            return
        painter.save()
        painter.setTransform(move)
        painter.drawPixmap(area.topLeft(), self._pixmap)
        painter.restore()
        covered = move.mapRect(QRectF(area)).toAlignedRect().intersected(area)
        whole = area.width() * area.height()
        if whole - covered.width() * covered.height() < _MOST_NEW * whole:
            _draw_round(painter, area, covered, draw)

    def _scroll(self, painter: QPainter, area: QRect, by: QPoint, draw: Callable[[QPainter], None]) -> None:
        """Move what is held by whole pixels, and draw what comes into sight."""
        moved = QPixmap(self._pixmap.size())
        moved.setDevicePixelRatio(self._pixmap.devicePixelRatio())
        moved.fill("transparent")
        own = QPainter(moved)
        own.drawPixmap(by, self._pixmap)
        own.setRenderHints(painter.renderHints())
        _draw_round(own, area, area.translated(by).intersected(area), draw)
        own.end()
        self._pixmap, self._room = moved, self._room * QTransform.fromTranslate(by.x(), by.y())


def _draw_round(painter: QPainter, area: QRect, covered: QRect, draw: Callable[[QPainter], None]) -> None:
    """Draw what lies in an area and not in a part of it."""
    for strip in (
        QRect(area.left(), area.top(), area.width(), covered.top() - area.top()),
        QRect(area.left(), covered.bottom() + 1, area.width(), area.bottom() - covered.bottom()),
        QRect(area.left(), covered.top(), covered.left() - area.left(), covered.height()),
        QRect(covered.right() + 1, covered.top(), area.right() - covered.right(), covered.height()),
    ):
        if strip.isValid():
            painter.save()
            painter.setClipRect(strip, Qt.ClipOperation.IntersectClip)
            draw(painter)
            painter.restore()
