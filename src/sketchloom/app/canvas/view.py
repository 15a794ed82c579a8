"""The canvas widget: one view of the work, or two with a divider, zoomed, panned, and drawn on with a tool."""

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QTransform
from PySide6.QtWidgets import QSizePolicy

from sketchloom.app.canvas.held_view import HeldView
from sketchloom.app.canvas.navigation import Navigated
from sketchloom.app.canvas.outlines import Outlines
from sketchloom.app.canvas.overlays import (
    paint_divider,
    paint_empty,
    paint_gaps,
    paint_marks,
    paint_ring,
    paint_scale,
)
from sketchloom.app.canvas.tools import Tool
from sketchloom.app.canvas.views import WORK
from sketchloom.app.job_model import JobModel
from sketchloom.core.picture import Point

__all__ = ["Canvas"]

_STILL = 4
"""Screen pixels; a pointer that moved no farther clicked."""
_GUIDE = 0.4
"""How much of the picture shows over the view while something is drawn after it."""
_ARROWS = {Qt.Key.Key_Left: (1, 0), Qt.Key.Key_Right: (-1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


class Canvas(Navigated):
    """Shows one view of the job; zooms about the pointer and pans."""

    clicked = Signal(str)
    """Key of the layer that was clicked with no tool in hand, or nothing."""
    double_clicked = Signal(str)
    """Key of the layer that was double clicked with no tool in hand, or nothing."""
    asked = Signal(object, object)
    """Source point of a right click, or None beside the picture's views, and where on the screen it was."""
    resized = Signal()

    def __init__(self, model: JobModel, unit) -> None:
        super().__init__(model)
        self._unit = unit
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumSize(240, 160)
        self.setMouseTracking(True)
        self.setAccessibleName("Canvas")
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
        self._held: dict[str, HeldView] = {}
        self._drag: QPointF | None = None
        self._pressed: QPointF | None = None
        self._drags_divider = False
        self.pans = False
        """Whether a drag pans though a tool is in hand, as while Space is held."""
        model.job_changed.connect(self._new_job)
        self.scene.changed.connect(self.update)

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
        self._enter(view)
        self.before = before
        self.ring = None
        self.update()

    def show_outlines(self, outlines: Outlines) -> None:
        """Show outlines of pieces that are pointed out."""
        self.outlines = outlines
        self.update()

    def point_out(self, at: Point | None) -> None:
        """Ring a place, or none."""
        self.ring = at
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

    def _new_job(self) -> None:
        self.ring, self.outlines = None, Outlines()
        self.fit()

    def contextMenuEvent(self, event) -> None:
        """Ask for what the thing under the pointer can do; a right drag pans."""
        if event.reason() == event.Reason.Keyboard:
            self._ask(QPointF(self.width() / 2, self.height() / 2))

    def _ask(self, at: QPointF) -> None:
        here = self.source_point(at) if self.shown.room == WORK else None
        self.asked.emit(here, self.mapToGlobal(at.toPoint()))

    @property
    def working(self) -> Tool | None:
        """The tool in hand, where what it works on is shown."""
        tool = self.tool
        return tool if tool is not None and self.views[tool.view].room == self.shown.room else None

    def resizeEvent(self, event) -> None:
        """Let the bars follow."""
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
        if self.working is not None and left and not self.pans:
            self._drag = None
            self.working.press(event.position())
        else:
            self._drags_divider = left and self._comparing() and abs(event.position().x() - self._divider_x()) < 16

    def mouseMoveEvent(self, event) -> None:
        """Drag, or let the tool follow."""
        if self._drag is None:
            if self.working is not None:
                self.working.move(event.position())
            return
        if self._drags_divider:
            width = self.shown.extent().width() * self._zoom
            self.divider = min(1.0, max(0.0, (event.position().x() - self._offset.x()) / width))
        else:
            self.pan_by(event.position() - self._drag)
        self._drag = event.position()
        self.update()

    def mouseReleaseEvent(self, event) -> None:
        """Let go."""
        if self._drag is None and self.working is not None:
            self.working.release(event.position())
        elif self._pressed is not None and self.model.result is not None:
            moved = (event.position() - self._pressed).manhattanLength()
            if moved < _STILL and event.button() == Qt.MouseButton.RightButton:
                self._ask(event.position())
            elif moved < _STILL and event.button() == Qt.MouseButton.LeftButton:
                self.clicked.emit(self.shown.hit(self.view_point(event.position())))
        self._drag = None
        self._drags_divider = False

    def mouseDoubleClickEvent(self, event) -> None:
        """Tell where, or end what the tool draws."""
        if self.working is not None:
            self.working.finish()
        elif self.model.result is not None:
            self.double_clicked.emit(self.shown.hit(self.view_point(event.position())))

    def keyPressEvent(self, event) -> None:
        """Arrows pan, with Shift they move the divider; with a tool in hand they move its mark."""
        if self.working is not None and self.working.key(event):
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
        if self.working is not None and self.working.takes_tab:
            return False
        return super().focusNextPrevChild(forward)

    def leaveEvent(self, event) -> None:
        """What was told of the place under the pointer goes with it."""
        if self.working is not None:
            self.working.away()
        super().leaveEvent(event)

    def _comparing(self) -> bool:
        return (
            self.before is not None and not self.show_source and self.working is None and self.model.result is not None
        )

    def _divider_x(self) -> float:
        return self._offset.x() + self.divider * self.shown.extent().width() * self._zoom

    def paintEvent(self, event) -> None:
        """Draw."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), self.scene.weave())
        if self.model.job is None or self.scene.picture is None:
            paint_empty(self, painter)
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self._zoom < 2)
        if self.show_source and self.shown.room == WORK:
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
            paint_divider(self, painter, x)
        else:
            tool = self.working
            if tool is not None and tool.ghost:
                painter.setOpacity(0.3)
                self._paint_view(painter, "Before")
                painter.setOpacity(1.0)
            self._paint_view(painter, self.view)
            if tool is not None and tool.guide:
                painter.setOpacity(_GUIDE)
                self._paint_view(painter, "Picture")
                painter.setOpacity(1.0)
        painter.resetTransform()
        if self.shown.room == WORK:
            self._paint_pointed_out(painter)
        paint_scale(self, painter, self._unit())
        if self.working is not None:
            self.working.paint(painter)

    def _room(self) -> QTransform:
        return QTransform(self._zoom, 0, 0, self._zoom, self._offset.x(), self._offset.y())

    def _paint_pointed_out(self, painter: QPainter) -> None:
        """What is pointed out on the picture."""
        self.outlines.paint(painter, self.scene.to_source, self._room())
        paint_marks(self, painter, self.marks)
        paint_gaps(self, painter, self.gaps)
        if self.ring is not None:
            paint_ring(self, painter, self.ring)

    def _paint_view(self, painter: QPainter, key: str) -> None:
        view, room = self.views[key], self._room()
        if view.fresh is None:
            view.paint(painter, room, self.show_nodes)
            return
        if key not in self._held:
            self._held[key] = HeldView()
            self._held[key].rested.connect(self.update)
        fresh = view.fresh(self.show_nodes)
        self._held[key].paint(painter, self.rect(), fresh, room, lambda own: view.paint(own, room, self.show_nodes))
