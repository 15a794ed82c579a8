"""Keys that work while they are held: S shows the source through the work, N the nodes."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from sketchloom.app.canvas import Canvas

__all__ = ["HeldKeys"]


class HeldKeys:
    """Watches S and N for the canvas."""

    def __init__(self, canvas: Canvas) -> None:
        self._canvas = canvas

    def take(self, event: QKeyEvent, down: bool) -> bool:
        """Take a key that is pressed or let go, or leave it."""
        if event.key() not in (Qt.Key.Key_S, Qt.Key.Key_N) or event.modifiers():
            return False
        if not event.isAutoRepeat():
            if event.key() == Qt.Key.Key_S:
                self._canvas.show_source = down
            else:
                self._canvas.show_nodes = down
            self._canvas.update()
        return True

    def let_go(self) -> None:
        """Let go of both, as when another window is used."""
        self._canvas.show_source = self._canvas.show_nodes = False
        self._canvas.update()
