"""A tool that moves an axis over which a half is mirrored."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPolygonF

from sketchloom.app.canvas.tools.base import ARROWS, ENTER, STEP, Tool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.app.theme import theme
from sketchloom.core.picture import Point

__all__ = ["AxisTool"]

_NEAR = 14.0
"""Screen pixels; so near the axis a press takes hold of it."""


class AxisTool(Tool):
    """Moves an upright or level axis; gives its ends and a place in the half that stays."""

    takes_tab = True
    help = "Drag the axis; click a half to keep it, X lays the axis the other way, Enter ends."

    def __init__(self, first: Point, last: Point, keep: Point) -> None:
        super().__init__()
        self._ends, self._keep = (first, last), keep
        self._moves = False

    def _across(self) -> tuple[bool, float, bool]:
        """Whether the axis stands, where it crosses the widget, and whether the left or upper half stays."""
        first, last = (self.canvas.widget_point(end) for end in self._ends)
        keep, middle = self.canvas.widget_point(self._keep), (first + last) / 2
        upright = abs(last.y() - first.y()) >= abs(last.x() - first.x())
        at = middle.x() if upright else middle.y()
        return upright, at, (keep.x() if upright else keep.y()) < at

    def _set(self, upright: bool, at: float, first_half: bool) -> None:
        size = self.canvas.scene.extent
        origin, zoom = self.canvas.widget_point(self.canvas.scene.corner), self.canvas.zoom
        low = origin.x() if upright else origin.y()
        high = low + (size.width() if upright else size.height()) * zoom
        at = min(max(at, low + 1), high - 1)
        start = origin.y() if upright else origin.x()
        end = start + (size.height() if upright else size.width()) * zoom
        ends = [QPointF(at, side) if upright else QPointF(side, at) for side in (start, end)]
        beside = at - 1e-3 - 0.4 * (at - low) if first_half else at + 0.4 * (high - at)
        middle = (start + end) / 2
        self._ends = tuple(self.canvas.source_point(place) for place in ends)
        self._keep = self.canvas.source_point(QPointF(beside, middle) if upright else QPointF(middle, beside))
        self.done.emit((*self._ends, self._keep))
        self.canvas.update()

    def press(self, at: QPointF) -> None:
        """Take hold of the axis, or choose a half."""
        upright, place, first_half = self._across()
        along = at.x() if upright else at.y()
        self._moves = abs(along - place) < _NEAR
        if not self._moves and (along < place) != first_half:
            self._set(upright, place, along < place)
        super().press(at)

    def move(self, at: QPointF) -> None:
        """Move the axis in hand."""
        if self.down and self._moves:
            upright, _, first_half = self._across()
            self._set(upright, at.x() if upright else at.y(), first_half)
        super().move(at)

    def key(self, event: QKeyEvent) -> bool:
        """Arrows move the axis, X turns it, Tab takes the other half."""
        upright, place, first_half = self._across()
        if event.key() == Qt.Key.Key_X:
            size, origin = self.canvas.scene.extent, self.canvas.widget_point(self.canvas.scene.corner)
            half = (size.height() if upright else size.width()) * self.canvas.zoom / 2
            self._set(not upright, (origin.y() if upright else origin.x()) + half, first_half)
        elif event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._set(upright, place, not first_half)
        elif event.key() in ARROWS:
            step = ARROWS[event.key()] * (1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else STEP)
            self._set(upright, place + step.x() + step.y(), first_half)
        elif event.key() in ENTER:
            self.done.emit((*self._ends, self._keep))
            self.ended.emit()
        else:
            return False
        return True

    def paint(self, painter: QPainter) -> None:
        """Draw the axis, and shade the half that goes."""
        upright, place, first_half = self._across()
        origin, size = self.canvas.widget_point(self.canvas.scene.corner), self.canvas.scene.extent * self.canvas.zoom
        area = QRectF(origin, size)
        goes = QRectF(area)
        if upright:
            goes.setLeft(place) if first_half else goes.setRight(place)
            line = [QPointF(place, area.top() - 20), QPointF(place, area.bottom() + 20)]
        else:
            goes.setTop(place) if first_half else goes.setBottom(place)
            line = [QPointF(area.left() - 20, place), QPointF(area.right() + 20, place)]
        veil = QColor(theme.tokens.linen)
        veil.setAlphaF(0.6)
        painter.fillRect(goes, veil)
        draw_line(painter, QPolygonF(line))
        draw_handle(painter, (line[0] + line[1]) / 2, self._moves and self.down)
