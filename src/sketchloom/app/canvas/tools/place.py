"""The tool that moves, turns and scales a box by its handles."""

from math import atan2, degrees, hypot

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPolygonF, QTransform
from PySide6.QtWidgets import QApplication

from sketchloom.app.canvas.tools.base import ARROWS, STEP
from sketchloom.app.canvas.tools.drag import DragTool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.app.fields import gesture_id
from sketchloom.core.picture import Point

__all__ = ["PlaceTool"]

_NEAR = 13.0
_KNOB = 26.0
"""Screen pixels above the box."""
_SNAP = 15
"""Degrees, with Shift held."""


class PlaceTool(DragTool):
    """Gives by how much a box goes, turns and grows: a dict with `by`, `turn` and `scale`."""

    view = "Regions"
    help = "Drag inside to move, a corner to scale, the knob to turn (Shift: by 15°). Arrows move; Esc ends."

    def __init__(self, corners: list[Point]) -> None:
        super().__init__()
        self._corners = corners
        self._what = ""

    def _box(self) -> QPolygonF:
        return QPolygonF([self.canvas.widget_point(corner) for corner in self._corners])

    @staticmethod
    def _knob(box: QPolygonF) -> QPointF:
        across = (box[1] - box[0]) / max(1.0, hypot(*(box[1] - box[0]).toTuple()))
        return (box[0] + box[1]) / 2 + QPointF(across.y(), -across.x()) * _KNOB

    @staticmethod
    def _middle(box: QPolygonF) -> QPointF:
        return (box[0] + box[2]) / 2

    def press(self, at: QPointF) -> None:
        """Take hold of a handle, or of the box."""
        box = self._box()
        corners = [box[place] for place in range(4)]
        if (self._knob(box) - at).manhattanLength() < _NEAR:
            self._what = "turn"
        elif min((corner - at).manhattanLength() for corner in corners) < _NEAR:
            self._what = "scale"
        else:
            self._what = "by" if box.containsPoint(at, Qt.FillRule.OddEvenFill) else ""
        super().press(at)

    def _change(self, start: QPointF, end: QPointF) -> tuple[QPointF, float, float]:
        """Shift in screen pixels, degrees clockwise and factor of a drag."""
        middle = self._middle(self._box())
        one, other = start - middle, end - middle
        if self._what == "turn":
            turn = degrees(atan2(other.y(), other.x()) - atan2(one.y(), one.x()))
            turn = (turn + 180) % 360 - 180
            snapped = QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier
            return QPointF(), _SNAP * round(turn / _SNAP) if snapped else turn, 1.0
        if self._what == "scale":
            factor = hypot(*other.toTuple()) / max(1.0, hypot(*one.toTuple()))
            return QPointF(), 0.0, min(max(factor, 0.02), 50.0)
        return (end - start if self._what == "by" else QPointF()), 0.0, 1.0

    def dragged(self, start: QPointF, end: QPointF) -> None:
        """Give what the drag did."""
        self.gesture = None
        shift, turn, scale = self._change(start, end)
        self._what = ""
        if (end - start).manhattanLength() > 2:
            self._give(shift, turn, scale)

    def _give(self, shift: QPointF, turn: float, scale: float) -> None:
        middle = self._middle(self._box())
        (x, y), (u, v) = self.canvas.source_point(middle), self.canvas.source_point(middle + shift)
        if shift != QPointF() or turn or scale != 1.0:
            self.done.emit({"by": (u - x, v - y), "turn": round(turn, 3), "scale": round(scale, 4)})

    def key(self, event: QKeyEvent) -> bool:
        """Arrows move it."""
        if event.key() in ARROWS:
            if self.gesture is None:
                self.gesture = gesture_id()
            fine = event.modifiers() & Qt.KeyboardModifier.ShiftModifier
            self._give(ARROWS[event.key()] * (1 if fine else STEP), 0.0, 1.0)
            return True
        return super().key(event)

    def paint(self, painter: QPainter) -> None:
        """Draw the box where it would be, with its handles."""
        box = self._box()
        if self._from is not None and self.at is not None:
            shift, turn, scale = self._change(self._from, self.at)
            middle = self._middle(box)
            place = QTransform().translate(*(middle + shift).toTuple()).rotate(turn).scale(scale, scale)
            box = place.translate(*(-middle).toTuple()).map(box)
        draw_line(painter, box, closed=True)
        knob = self._knob(box)
        draw_line(painter, QPolygonF([(box[0] + box[1]) / 2, knob]))
        for at in (*(box[place] for place in range(4)), knob):
            draw_handle(painter, at)
