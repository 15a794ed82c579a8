"""The canvas widget: one view of the work, or two with a divider, zoomed, panned, and drawn on with a tool."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen, QPolygonF, QTransform
from PySide6.QtWidgets import QSizePolicy, QWidget

from sketchloom.app.canvas.held_view import HeldView
from sketchloom.app.canvas.outlines import Outlines
from sketchloom.app.canvas.scene import Scene
from sketchloom.app.canvas.tools import Tool
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import legible_on
from sketchloom.core.arrays import Floats
from sketchloom.core.job import px_per_mm_of
from sketchloom.core.picture import Point
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["Canvas"]

_MARGIN = 56
_STILL = 4
"""Screen pixels; a pointer that moved no farther clicked."""
_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000)
_GUIDE = 0.4
"""How much of the picture shows over the view while something is drawn after it."""
_ARROWS = {Qt.Key.Key_Left: (1, 0), Qt.Key.Key_Right: (-1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class Canvas(QWidget):
    """Shows one view of the job; zooms about the pointer and pans."""

    zoom_changed = Signal(float)
    clicked = Signal(object)
    """Source point of a click with no tool in hand."""
    asked = Signal(object, object)
    """Source point of a right click, and where on the screen it was."""
    resized = Signal()

    def __init__(self, model: JobModel, unit) -> None:
        super().__init__()
        self._model, self._unit = model, unit
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(240, 160)
        self.setMouseTracking(True)
        self.setAccessibleName("Canvas")
        self.scene = Scene(model)
        self.view = "Picture"
        self.before: str | None = None
        self.divider = 0.5
        self.show_source = self.show_nodes = False
        self.tool: Tool | None = None
        self.marks: tuple[tuple[Point, Point], ...] = ()
        """Rectangles to show on the picture, with their numbers."""
        self.gaps: tuple[tuple[Point, Point], ...] = ()
        """Gaps to show on the picture, with their numbers."""
        self.outlines = Outlines()
        """Of pieces that are pointed out, at the step where pieces are worked on."""
        self.ring: Point | None = None
        """A place to point out, until the view changes."""
        self._held = {"Paths": HeldView(), "Layers": HeldView()}
        for held in self._held.values():
            held.rested.connect(self.update)
        self._zoom, self._offset = 1.0, QPointF()
        self._fitted = True
        self._drag: QPointF | None = None
        self._pressed: QPointF | None = None
        self._drags_divider = False
        self.pans = False
        """Whether a drag pans though a tool is in hand, as while Space is held."""
        model.job_changed.connect(self._new_job)
        self.scene.changed.connect(self.update)
        self.scene.resized.connect(lambda: self._fitted and self.fit())

    @property
    def selected(self) -> str:
        """The key of the selected layer's ink, or nothing."""
        return self.scene.selected

    @selected.setter
    def selected(self, key: str) -> None:
        self.scene.selected = key
        self.update()

    @property
    def lift(self) -> float:
        """How far the layers are parted, 0 to 1."""
        return self.scene.lift

    @lift.setter
    def lift(self, share: float) -> None:
        self.scene.lift = share
        self.update()

    def show_view(self, view: str, before: str | None = None) -> None:
        """Show a view, and left of the divider another."""
        self.view, self.before = view, before
        self.ring = None
        self.update()

    def take(self, tool: Tool | None) -> None:
        """Take a tool in hand, or put the one in hand away."""
        if self.tool is not None:
            self.tool.leave()
        self.tool = tool
        if tool is not None:
            tool.enter(self)
            self.setFocus()
        self.setCursor(Qt.CursorShape.CrossCursor if tool else Qt.CursorShape.ArrowCursor)
        self.update()

    @property
    def zoom(self) -> float:
        """Screen pixels per picture pixel."""
        return self._zoom

    def source_point(self, at: QPointF) -> Point:
        """Source coordinates of a point of the widget."""
        here = (at - self._offset) / self._zoom
        x, y, w = self.scene.to_source @ np.array([here.x(), here.y(), 1.0])
        return round(float(x / w), 6), round(float(y / w), 6)

    def widget_point(self, at: Point) -> QPointF:
        """Point of the widget that shows a source point."""
        x, y, w = np.linalg.solve(self.scene.to_source, np.array([at[0], at[1], 1.0]))
        return QPointF(x / w, y / w) * self._zoom + self._offset

    def _new_job(self) -> None:
        self.ring, self.outlines = None, Outlines()
        self.fit()

    def widget_points(self, source: Floats) -> Floats:
        """Points of the widget that show source points, (N, 2) each."""
        here = np.linalg.solve(self.scene.to_source, np.column_stack([source, np.ones(len(source))]).T)
        return (here[:2] / here[2] * self._zoom).T + np.array([self._offset.x(), self._offset.y()])

    def fit(self) -> None:
        """Show all of the picture."""
        size = self.scene.extent
        room_w, room_h = max(40, self.width() - 2 * _MARGIN), max(40, self.height() - 2 * _MARGIN)
        self._fitted = True
        self._set_zoom(min(room_w / size.width(), room_h / size.height()))
        self._offset = QPointF(
            (self.width() - size.width() * self._zoom) / 2, (self.height() - size.height() * self._zoom) / 2 + 12
        )
        self.update()

    def go_to(self, at: Point, zoom: float) -> None:
        """Show a source point in the middle, ringed, at least at some zoom."""
        self._fitted = False
        self._set_zoom(max(zoom, self._zoom))
        self._offset += QPointF(self.width() / 2, self.height() / 2) - self.widget_point(at)
        self.ring = at
        self.update()

    def show_round(self, at: Point, mm: float) -> None:
        """Show a source point in the middle, ringed, with so much round it; at most all of the picture."""
        result, shown = self._model.result, self.scene.picture
        if result is not None and shown is not None:
            self.fit()
            self._zoom = max(self._zoom, min(self.width(), self.height()) / (mm * px_per_mm_of(result, shown)))
            self.go_to(at, self._zoom)

    def show_area(self, low: Point, high: Point) -> None:
        """Show all between two source points, with some room round it."""
        area = QRectF(self.widget_point(low), self.widget_point(high)).normalized()
        across = max(area.width() / max(1, self.width()), area.height() / max(1, self.height()), 1e-6)
        middle = ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2)
        self._fitted = False
        self._set_zoom(self._zoom * 0.6 / across)
        self._offset += QPointF(self.width() / 2, self.height() / 2) - self.widget_point(middle)
        self.update()

    def show_real_size(self) -> None:
        """Show it as large as it will be cut, on a screen of 96 dots an inch."""
        result, shown = self._model.result, self.scene.picture
        if result is not None and shown is not None and result.has("finish", "prepare"):
            self.zoom_by(PX_PER_MM_UNSET / px_per_mm_of(result, shown) / self._zoom)

    def contextMenuEvent(self, event) -> None:
        """Ask for what the thing under the pointer can do; a right drag pans."""
        if event.reason() == event.Reason.Keyboard:
            at = QPointF(self.width() / 2, self.height() / 2)
            self.asked.emit(self.source_point(at), self.mapToGlobal(at.toPoint()))

    def pan_by(self, by: QPointF) -> None:
        """Move the picture by screen pixels."""
        self._offset += by
        self._fitted = False
        self.update()

    def zoom_by(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a point of the widget, by default its middle."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        before = (at - self._offset) / self._zoom
        self._fitted = False
        self._set_zoom(self._zoom * factor)
        self._offset = at - before * self._zoom
        self.update()

    def _set_zoom(self, zoom: float) -> None:
        self._zoom = min(max(zoom, 0.005), 64.0)
        self.zoom_changed.emit(self._zoom)

    def resizeEvent(self, event) -> None:
        """Keep the whole picture in view if it was."""
        if self._fitted:
            self.fit()
        super().resizeEvent(event)
        self.resized.emit()

    def wheelEvent(self, event) -> None:
        """Zoom about the pointer."""
        self.zoom_by(1.0015 ** event.angleDelta().y(), event.position())

    def mousePressEvent(self, event) -> None:
        """Use the tool, or take hold of the divider or of the picture."""
        self.setFocus()
        self._drag = self._pressed = event.position()
        left = event.button() == Qt.MouseButton.LeftButton
        if self.tool is not None and left and not self.pans:
            self._drag = None
            self.tool.press(event.position())
        else:
            self._drags_divider = left and self._comparing() and abs(event.position().x() - self._divider_x()) < 16

    def mouseMoveEvent(self, event) -> None:
        """Drag, or let the tool follow."""
        if self._drag is None:
            if self.tool is not None:
                self.tool.move(event.position())
            return
        if self._drags_divider:
            width = self.scene.extent.width() * self._zoom
            self.divider = min(1.0, max(0.0, (event.position().x() - self._offset.x()) / width))
        else:
            self.pan_by(event.position() - self._drag)
        self._drag = event.position()
        self.update()

    def mouseReleaseEvent(self, event) -> None:
        """Let go."""
        if self._drag is None and self.tool is not None:
            self.tool.release(event.position())
        elif self._pressed is not None and self._model.result is not None:
            moved = (event.position() - self._pressed).manhattanLength()
            if moved < _STILL and event.button() == Qt.MouseButton.RightButton:
                self.asked.emit(self.source_point(event.position()), event.globalPosition().toPoint())
            elif moved < _STILL and event.button() == Qt.MouseButton.LeftButton:
                self.clicked.emit(self.source_point(event.position()))
        self._drag = None
        self._drags_divider = False

    def mouseDoubleClickEvent(self, event) -> None:
        """Fit, or end what the tool draws."""
        if self.tool is not None:
            self.tool.finish()
        else:
            self.fit()

    def keyPressEvent(self, event) -> None:
        """Arrows pan, with Shift they move the divider; with a tool in hand they move its mark."""
        if self.tool is not None and self.tool.key(event):
            return
        if event.key() not in _ARROWS:
            super().keyPressEvent(event)
            return
        dx, dy = _ARROWS[event.key()]
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and dx:
            self.divider = min(1.0, max(0.0, self.divider - 0.02 * dx))
        else:
            self._offset += QPointF(40 * dx, 40 * dy)
            self._fitted = False
        self.update()

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Leave Tab to a tool that goes from handle to handle with it."""
        if self.tool is not None and self.tool.takes_tab:
            return False
        return super().focusNextPrevChild(forward)

    def leaveEvent(self, event) -> None:
        """What was told of the place under the pointer goes with it."""
        if self.tool is not None:
            self.tool.away()
        super().leaveEvent(event)

    def _comparing(self) -> bool:
        return self.before is not None and not self.show_source and self.tool is None and self._model.result is not None

    def _divider_x(self) -> float:
        return self._offset.x() + self.divider * self.scene.extent.width() * self._zoom

    def paintEvent(self, event) -> None:
        """Draw."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.scene.weave())
        if self._model.job is None or self.scene.picture is None:
            self._paint_empty(painter)
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._zoom < 2)
        if self.show_source:
            self._paint_view(painter, "Source")
        elif self._comparing():
            x = self._divider_x()
            painter.save()
            painter.setClipRect(QRectF(0, 0, x, self.height()))
            self._paint_view(painter, self.before or "Picture")
            painter.restore()
            painter.save()
            painter.setClipRect(QRectF(x, 0, self.width() - x, self.height()))
            self._paint_view(painter, self.view)
            painter.restore()
            self._paint_divider(painter, x)
        else:
            if self.tool is not None and self.tool.ghost:
                painter.setOpacity(0.3)
                self._paint_view(painter, "Before")
                painter.setOpacity(1.0)
            self._paint_view(painter, self.view)
            if self.tool is not None and self.tool.guide:
                painter.setOpacity(_GUIDE)
                self._paint_view(painter, "Picture")
                painter.setOpacity(1.0)
        painter.resetTransform()
        room = QTransform(self._zoom, 0, 0, self._zoom, self._offset.x(), self._offset.y())
        self.outlines.paint(painter, self.scene.to_source, room)
        self._paint_scale(painter)
        self._paint_marks(painter)
        self._paint_gaps(painter)
        self._paint_ring(painter)
        if self.tool is not None:
            self.tool.paint(painter)

    def _paint_view(self, painter: QPainter, view: str) -> None:
        room = QTransform(self._zoom, 0, 0, self._zoom, self._offset.x(), self._offset.y())
        if view not in ("Paths", "Layers"):
            self.scene.paint(painter, view, room, self.show_nodes)
            return
        held = self._held[view]
        key = self.scene.drawn(view, self.show_nodes)
        held.paint(painter, self.rect(), key, room, lambda own: self.scene.paint(own, view, room, self.show_nodes))

    def _paint_marks(self, painter: QPainter) -> None:
        for number, (first, last) in enumerate(self.marks, 1):
            area = QRectF(self.widget_point(first), self.widget_point(last)).normalized()
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for code, width in ((theme.tokens.on_indigo, 4), (theme.tokens.indigo, 2)):
                painter.setPen(QPen(QColor(code), width))
                painter.drawRect(area)
            tag = QRectF(area.left(), area.top(), 26, 22)
            painter.fillRect(tag, QColor(theme.tokens.indigo))
            painter.setPen(QColor(theme.tokens.on_indigo))
            painter.setFont(font(1, QFont.Weight.DemiBold))
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, str(number))

    def _paint_gaps(self, painter: QPainter) -> None:
        painter.setFont(font(0, QFont.Weight.DemiBold))
        for number, (first, last) in enumerate(self.gaps, 1):
            ends = self.widget_point(first), self.widget_point(last)
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

    def _paint_ring(self, painter: QPainter) -> None:
        if self.ring is None:
            return
        for code, width in ((theme.tokens.on_indigo, 5), (theme.tokens.madder, 2.5)):
            painter.setPen(QPen(QColor(code), width))
            painter.drawEllipse(self.widget_point(self.ring), 18, 18)

    def _paint_divider(self, painter: QPainter, x: float) -> None:
        painter.resetTransform()
        indigo = QColor(theme.tokens.indigo)
        top, bottom = self._offset.y(), self._offset.y() + self.scene.extent.height() * self._zoom
        painter.setPen(QPen(indigo, 2))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        middle = QPointF(x, min(max((top + bottom) / 2, 60), self.height() - 60))
        painter.setBrush(QColor(theme.tokens.paper))
        painter.drawEllipse(middle, 13, 13)
        for sign in (-1, 1):
            painter.drawPolyline(
                QPolygonF(
                    [middle + QPointF(sign * 3, -5), middle + QPointF(sign * 8, 0), middle + QPointF(sign * 3, 5)]
                )
            )
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_scale(self, painter: QPainter) -> None:
        result, shown = self._model.result, self.scene.picture
        if result is None or shown is None or not result.has("finish", "prepare"):
            return
        px_per_mm = px_per_mm_of(result, shown)
        unit = self._unit()
        mm = {"mm": 1.0, "cm": 10.0, "in": 25.4}[unit]
        per_unit = px_per_mm * self._zoom * mm
        length = next((s for s in (0.1, 0.2, 0.5, *_STEPS) if s * per_unit >= 56), _STEPS[-1])
        painter.setFont(font(0, QFont.Weight.Medium))
        base = self.height() - 30
        right = 16 + length * per_unit
        bar = QPolygonF([QPointF(16, base - 5), QPointF(16, base), QPointF(right, base), QPointF(right, base - 5)])
        words = QPainterPath()
        words.addText(QPointF(16, base + 16), painter.font(), f"{length:g} {unit}")
        edge = QPen(
            QColor(self.scene.ground), 4, j=Qt.PenJoinStyle.RoundJoin
        )  # seen over the work, not over the ground
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(edge)
        painter.drawPolyline(bar)
        painter.drawPath(words)
        ink = QColor(legible_on(self.scene.ground))
        painter.setPen(ink)
        painter.drawPolyline(bar)
        painter.fillPath(words, ink)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(QColor(legible_on(self.scene.ground)))
        area = QRectF(self.rect())
        painter.setFont(font(3, QFont.Weight.DemiBold))
        painter.drawText(area.adjusted(0, 0, 0, -50), Qt.AlignmentFlag.AlignCenter, "Drop pictures here")
        painter.setFont(font(1))
        painter.drawText(
            area.adjusted(0, 40, 0, 0),
            Qt.AlignmentFlag.AlignCenter,
            "PNG, JPEG, WebP, HEIC, TIFF, BMP, GIF, PDF, or a .loom job.\n"
            "Ctrl+O opens some from a folder, Ctrl+V pastes one; “Open the demo job” is in the finder, Ctrl+K.",
        )
