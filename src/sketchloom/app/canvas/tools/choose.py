"""The tool that chooses pieces: a click for one, a drag for all in a box; it tells what lies under the pointer."""

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QApplication

from sketchloom.app.canvas.tools.drag import DragTool
from sketchloom.app.canvas.tools.draw import draw_line
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.core.picture import Point

__all__ = ["ChooseTool", "Chosen"]

_STILL = 4.0


class Chosen(NamedTuple):
    """What was pointed at: one place, or all within a closed line."""

    places: tuple[Point, ...]
    add: bool


class ChooseTool(DragTool):
    """Chooses with clicks and boxes; Shift adds to what is chosen."""

    hovered = Signal(object)
    """Source point under the pointer, or None once it has left the canvas."""
    sent_away = Signal()
    """The choice goes to the ground."""
    view = "Regions"
    help = "Click a piece, or drag a box round several; Shift adds. Delete sends them to the ground."

    def __init__(self, by_hand: bool = False) -> None:
        super().__init__()
        self.words = ""
        """What is told of the piece under the pointer."""
        self._line: list[QPointF] | None = [] if by_hand else None
        if by_hand:
            self.help = "Draw a line round pieces, or click one; Shift adds. Delete sends them to the ground."

    def press(self, at: QPointF) -> None:
        """Begin a box, or a line round."""
        if self._line is not None:
            self._line = [at]
        super().press(at)

    def move(self, at: QPointF) -> None:
        """Tell what lies there."""
        super().move(at)
        if self.down and self._line is not None:
            self._line.append(at)
        if not self.down:
            self.hovered.emit(self.canvas.source_point(at))

    def away(self) -> None:
        """Tell nothing any more."""
        self.words = ""
        self.hovered.emit(None)
        self.canvas.update()

    def dragged(self, start: QPointF, end: QPointF) -> None:
        """Choose."""
        add = bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)
        round_line = self._line
        if round_line is None:
            box = QRectF(start, end).normalized()
            round_line = [box.topLeft(), box.topRight(), box.bottomRight(), box.bottomLeft()]
        else:
            self._line = []
        if max((place - start).manhattanLength() for place in (*round_line, end)) <= _STILL:
            round_line = [end]
        self.done.emit(Chosen(tuple(map(self.canvas.source_point, round_line)), add))

    def key(self, event: QKeyEvent) -> bool:
        """Delete sends the choice to the ground."""
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.sent_away.emit()
            return True
        return super().key(event)

    def paint(self, painter: QPainter) -> None:
        """Draw the box, and the words beside the pointer."""
        if self._from is not None and self.at is not None:
            box = QPolygonF(QRectF(self._from, self.at))
            draw_line(painter, box if self._line is None else QPolygonF(self._line), closed=True)
        elif self.words and self.at is not None:
            painter.setFont(font(1))
            area = QRectF(painter.fontMetrics().boundingRect(self.words)).adjusted(-8, -5, 8, 5)
            area.moveTopLeft(self.at + QPointF(16, 14))
            area.moveRight(min(area.right(), self.canvas.width() - 8))
            area.moveBottom(min(area.bottom(), self.canvas.height() - 8))
            painter.setPen(QColor(theme.tokens.line))
            painter.setBrush(QColor(theme.tokens.paper))
            painter.drawRoundedRect(area, 6, 6)
            painter.setPen(QColor(theme.tokens.ink))
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, self.words)
            painter.setBrush(Qt.BrushStyle.NoBrush)
        super().paint(painter)
