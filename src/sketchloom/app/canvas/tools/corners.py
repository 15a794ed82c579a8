"""A tool that moves the four corners of a page."""

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPolygonF

from sketchloom.app.canvas.tools.base import ARROWS, ENTER, STEP, Tool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.core.picture import Point

__all__ = ["CornersTool"]


class CornersTool(Tool):
    """Moves four corners by their handles; gives them after every move."""

    takes_tab = True
    help = "Drag the corners onto those of the page; Tab goes to the next, arrows move it, Enter ends."

    def __init__(self, corners: tuple[Point, ...]) -> None:
        super().__init__()
        self.corners = list(corners)
        self._chosen = 0
        self._touched = False

    def offer(self, corners: tuple[Point, ...]) -> None:
        """Lie where a page was found, unless a corner was moved meanwhile."""
        if not self._touched:
            self.corners = list(corners)
            if self.canvas is not None:
                self.canvas.update()

    def _places(self) -> list[QPointF]:
        return [self.canvas.widget_point(corner) for corner in self.corners]

    def press(self, at: QPointF) -> None:
        """Take hold of the nearest corner."""
        self._touched = True
        far = [(place - at).manhattanLength() for place in self._places()]
        self._chosen = far.index(min(far))
        super().press(at)

    def move(self, at: QPointF) -> None:
        """Move the corner in hand."""
        if self.down:
            self.corners[self._chosen] = self.canvas.source_point(at)
        super().move(at)

    def release(self, at: QPointF) -> None:
        """Let go of it."""
        held = self.down
        super().release(at)
        if held:
            self.corners[self._chosen] = self.canvas.source_point(at)
            self.done.emit(tuple(self.corners))

    def key(self, event: QKeyEvent) -> bool:
        """Tab chooses a corner, arrows move it."""
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._chosen = (self._chosen + (1 if key == Qt.Key.Key_Tab else -1)) % 4
        elif key in ARROWS:
            self._touched = True
            at = self._places()[self._chosen] + ARROWS[key] * (1 if shift else STEP)
            self.corners[self._chosen] = self.canvas.source_point(at)
            self.done.emit(tuple(self.corners))
        elif key in ENTER:
            self.ended.emit()
            return True
        else:
            return False
        self.canvas.update()
        return True

    def paint(self, painter: QPainter) -> None:
        """Draw the page's outline and its handles."""
        places = self._places()
        draw_line(painter, QPolygonF(places), closed=True)
        for number, place in enumerate(places):
            draw_handle(painter, place, number == self._chosen)
