"""Keys that work while they are held: S shows the source through the work, N the nodes, Space pans."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QAbstractSpinBox, QApplication, QLineEdit, QPlainTextEdit, QTextEdit, QWidget

from sketchloom.app.canvas import Canvas

__all__ = ["HeldKeys"]

_HELD = {Qt.Key.Key_S: "show_source", Qt.Key.Key_N: "show_nodes", Qt.Key.Key_Space: "pans"}
_TYPED = (QLineEdit, QAbstractSpinBox, QTextEdit, QPlainTextEdit)


class HeldKeys(QObject):
    """Watches, wherever the focus is, for keys that the canvas follows; a text that is typed keeps its own."""

    def __init__(self, canvas: Canvas, app: QApplication) -> None:
        super().__init__(canvas)
        self._canvas = canvas
        self._clicked = False
        """Whether what has the focus got it by a click; what Tab went to keeps its Space."""
        app.focusChanged.connect(self._follow)

    def _follow(self, old: QWidget | None, new: QWidget | None) -> None:
        """Watch what has the focus, and nothing else."""
        self._clicked = QApplication.mouseButtons() != Qt.MouseButton.NoButton
        if old is not None:
            old.removeEventFilter(self)
        if new is not None and new.window() is self._canvas.window():
            new.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Take a key that is pressed or let go, or leave it."""
        kind = event.type()
        if kind not in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease) or not isinstance(event, QKeyEvent):
            return False
        name = _HELD.get(Qt.Key(event.key()))
        if name is None:
            return False
        if kind == QEvent.Type.KeyRelease:
            return not event.isAutoRepeat() and self._set(name, False)
        typed = isinstance(watched, _TYPED)
        aside = event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier or QApplication.activePopupWidget() is not None
        ours = watched is self._canvas or (self._clicked and self._canvas.underMouse())
        pressed = name == "pans" and not ours  # it is the button's
        if typed or aside or pressed:
            return False
        if not event.isAutoRepeat():
            self._set(name, True)
        return True

    def _set(self, name: str, on: bool) -> bool:
        """Follow a key; tells whether that changed something."""
        changed = bool(getattr(self._canvas, name)) != on
        setattr(self._canvas, name, on)
        if changed:
            self._canvas.update()
        return changed

    def let_go(self) -> None:
        """Let go of all, as when another window is used."""
        for name in _HELD.values():
            self._set(name, False)
