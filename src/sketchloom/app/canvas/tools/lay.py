"""A tool that moves and turns pieces on their sheets, snapping to edges and to neighbours."""

from collections.abc import Callable
from typing import Any, NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QTransform

from sketchloom.app.canvas.tools.base import Tool
from sketchloom.app.theme import theme
from sketchloom.core.sheets import Laid, Sheet

__all__ = ["LayTool", "Moved"]

_SNAP = 7.0
"""Screen pixels within which an edge or a neighbour draws a piece to it."""
_STILL = 3.0
_STEP, _FINE = 1.0, 0.1
"""mm that an arrow moves a piece, and with Shift."""
_NUDGES = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class Moved(NamedTuple):
    """Where a hand wants something: the low corner of its extent on a sheet, mm."""

    laid: Laid
    sheet: Sheet
    x: float
    y: float


class LayTool(Tool):
    """Drags pieces on the view of Sheets.

    Parameters
    ----------
    scene : SheetScene
    distance : callable
        mm between pieces.
    """

    view = "Sheets"
    help = "Drag a piece to move it, also to another sheet of its stock. Arrows move it, Shift less far; R turns it."
    turned = Signal(float)
    """By how many degrees the chosen piece is to be turned."""
    chosen = Signal(object)
    """What was clicked, or None."""

    def __init__(self, scene: Any, distance: Callable[[], float]) -> None:
        super().__init__()
        self._scene, self._distance = scene, distance
        self._held: tuple[Laid, Sheet, QPointF] | None = None
        """What is dragged, its sheet, and where in the view it was taken."""
        self._begun = QPointF()
        self._moves = False

    def press(self, at: QPointF) -> None:
        """Take hold of a piece."""
        super().press(at)
        here = self.canvas.view_point(at)
        hit = self._scene.hit(here)
        self._begun, self._moves = at, False
        self._held = (hit.laid, hit.sheet, here) if hit is not None and hit.laid is not None else None
        self.chosen.emit(hit.laid if hit is not None else None)

    def move(self, at: QPointF) -> None:
        """Drag it."""
        super().move(at)
        self._follow()
        if self._held is not None and self.down and not self._moves:
            self._moves = (at - self._begun).manhattanLength() > _STILL
            if self._moves:
                self._scene.lifted = self._held[0]
                self._scene.renew()

    def release(self, at: QPointF) -> None:
        """Lay it down."""
        super().release(at)
        self._follow()
        held, self._held = self._held, None
        if held is None or not self._moves:
            return
        self._moves = False
        low = self._low(held, at)
        target = self._target(held, low)
        if target is None:
            self._scene.lifted = None
            self._scene.renew()
            self.done.emit(None)
            return
        sheet, corner = target
        self.done.emit(Moved(held[0], sheet, low.x() - corner.x(), low.y() - corner.y()))

    def _follow(self) -> None:
        """Sheets may be laid anew under the hand: hold on to the same piece, or let go of one that is gone."""
        if self._held is None:
            return
        now = self._scene.now(self._held[0])
        found = self._scene.corner_of(now) if now is not None else None
        if found is None:
            self._held, self._moves = None, False
        elif now is not self._held[0]:
            self._held = now, found[0], self._held[2]
            self._scene.lifted = now if self._moves else None

    def key(self, event) -> bool:
        """Arrows move the chosen piece, R turns it."""
        chosen = self._scene.chosen
        if chosen is None:
            return False
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if event.key() in _NUDGES:
            found = self._scene.corner_of(chosen)
            if found is None:
                return False
            dx, dy = (value * (_FINE if fine else _STEP) for value in _NUDGES[event.key()])
            left, top, _, _ = chosen.bounds
            self.done.emit(Moved(chosen, found[0], left + dx, top + dy))
            return True
        if event.key() == Qt.Key.Key_R:
            self.turned.emit(-90.0 if fine else 90.0)
            return True
        return False

    def _low(self, held: tuple[Laid, Sheet, QPointF], at: QPointF) -> QPointF:
        """Where the low corner of what is dragged lies in the view, snapped."""
        laid, _, begun = held
        found = self._scene.corner_of(laid)
        corner = found[1] if found is not None else QPointF()
        left, top, right, bottom = laid.bounds
        low = corner + QPointF(left, top) + self.canvas.view_point(at) - begun
        target = self._target(held, low)
        if target is None:
            return low
        sheet, home = target
        size = right - left, bottom - top
        x, y = (low - home).x(), (low - home).y()
        reach = _SNAP / self.canvas.zoom
        ux, uy, width, height = sheet.group.room
        lines_x, lines_y = [ux, ux + width - size[0]], [uy, uy + height - size[1]]
        gap = self._distance()
        for other in sheet.laid:
            if other is laid:
                continue
            a, b, c, d = other.bounds
            if b - gap - reach < y + size[1] and y < d + gap + reach:
                lines_x += [a - gap - size[0], c + gap, a, c - size[0]]
            if a - gap - reach < x + size[0] and x < c + gap + reach:
                lines_y += [b - gap - size[1], d + gap, b, d - size[1]]
        x = min((line for line in lines_x if abs(line - x) <= reach), key=lambda line: abs(line - x), default=x)
        y = min((line for line in lines_y if abs(line - y) <= reach), key=lambda line: abs(line - y), default=y)
        return home + QPointF(x, y)

    def _target(self, held: tuple[Laid, Sheet, QPointF], low: QPointF) -> tuple[Sheet, QPointF] | None:
        """The sheet of the same stock over which the middle of what is dragged lies, and its corner."""
        left, top, right, bottom = held[0].bounds
        middle = low + QPointF((right - left) / 2, (bottom - top) / 2)
        for sheet, corner in zip(self._scene.layout.sheets, self._scene.corners, strict=True):
            area = QRectF(corner.x(), corner.y(), *sheet.size)
            if sheet.group.key == held[1].group.key and area.contains(middle):
                return sheet, corner
        return None

    def paint(self, painter: QPainter) -> None:
        """Draw what is dragged where it would lie."""
        self._follow()
        if self._held is None or not self._moves or self.at is None:
            return
        laid, sheet, _ = self._held
        low = self._low(self._held, self.at)
        left, top, _, _ = laid.bounds
        by = low - QPointF(left, top)
        zoom, offset = self.canvas.zoom, self.canvas.offset
        painter.setTransform(QTransform(zoom, 0, 0, zoom, offset.x() + zoom * by.x(), offset.y() + zoom * by.y()))
        painter.setOpacity(0.85)
        allowed = self._target(self._held, low) is not None
        pen = QPen(QColor(theme.tokens.indigo if allowed else theme.tokens.madder), 2)
        pen.setCosmetic(True)
        for path, ink, kind in self._scene.paths(laid, sheet.group.colour):
            if kind == "cut":
                painter.fillPath(path, ink)
            painter.strokePath(path, pen)
        painter.setOpacity(1.0)
        painter.resetTransform()
