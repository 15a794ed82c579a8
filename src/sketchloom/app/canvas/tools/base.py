"""What every tool has that draws on the canvas; what tools give is in source coordinates.

Each works with the pointer and with the keyboard: arrows move a mark (with
Shift by one screen pixel), Enter does what a click does, and Esc puts the
tool away.
"""

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter, QPolygonF
from PySide6.QtWidgets import QWidget

from sketchloom.app.canvas.tools.draw import draw_line

__all__ = ["ARROWS", "ENTER", "STEP", "Tool"]

STEP = 8
"""Screen pixels that an arrow moves a mark by."""
ARROWS = {
    Qt.Key.Key_Left: QPointF(-1, 0),
    Qt.Key.Key_Right: QPointF(1, 0),
    Qt.Key.Key_Up: QPointF(0, -1),
    Qt.Key.Key_Down: QPointF(0, 1),
}
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Tool(QObject):
    """What every tool has.

    Attributes
    ----------
    help : str
        How to use it, in one sentence.
    drags : bool
        Whether it draws between press and release; else a click does all.
    ghost : bool
        Whether what was cleared shows faintly meanwhile.
    guide : bool
        Whether the picture shows dimmed over the view, to draw after.
    takes_tab : bool
        Whether Tab is its own; Esc puts it away, and Tab goes on as ever.
    view : str
        What the canvas shows meanwhile.
    """

    done = Signal(object)
    ended = Signal()
    """It wants to be put away."""
    help = ""
    drags = True
    ghost = guide = False
    takes_tab = False
    view = "Picture"

    def __init__(self) -> None:
        super().__init__()
        self.gesture: int | None = None
        """What it gives now belongs to this gesture; None where each thing is a step of its own."""
        self.canvas: QWidget | None = None
        self.at: QPointF | None = None
        self.down = False
        self._by_keys = False

    def enter(self, canvas) -> None:
        """Be taken in hand."""
        self.canvas = canvas

    def leave(self) -> None:
        """Be put away."""

    def away(self) -> None:
        """The pointer left the canvas."""

    def press(self, at: QPointF) -> None:
        """The pointer went down."""
        self.at, self.down = at, True
        self.canvas.update()

    def move(self, at: QPointF) -> None:
        """The pointer moved."""
        self.at = at
        self._by_keys = False
        self.canvas.update()

    def release(self, at: QPointF) -> None:
        """The pointer went up."""
        self.at, self.down = at, False
        self.canvas.update()

    def finish(self) -> None:
        """A double click, or Shift+Enter."""

    def key(self, event: QKeyEvent) -> bool:
        """Take a key, or leave it."""
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in ARROWS:
            start = self.at or QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
            self.move(start + ARROWS[key] * (1 if shift else STEP))
            self._by_keys = True
            return True
        if key in ENTER:
            at = self.at or QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
            if shift:
                self.finish()
            elif self.down:
                self.release(at)
            else:
                self.press(at)
                if not self.drags:
                    self.release(at)
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        """Draw the mark that the keys move."""
        if self._by_keys and self.at is not None:
            for way in (QPointF(9, 0), QPointF(0, 9)):
                draw_line(painter, QPolygonF([self.at - way, self.at + way]))
