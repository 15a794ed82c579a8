"""Pages that lie over the work until they are closed."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from sketchloom.app.fields import faded
from sketchloom.app.steps.list_row import icon_button

__all__ = ["OverPage"]


class OverPage(QFrame):
    """A title, a word about it, what it holds, and a way to close it.

    Parameters
    ----------
    title, words : str
    parent : QWidget
    """

    def __init__(self, title: str, words: str, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.title = title
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 10, 14, 12)
        self.column.setSpacing(8)
        head = QHBoxLayout()
        label = QLabel(title)
        label.setProperty("role", "title")
        head.addWidget(label)
        self.told = faded(words, wrap=False)
        head.addWidget(self.told)
        head.addStretch(1)
        close = icon_button("x", f"Close {title.lower()}", self.put_away)
        head.addWidget(close)
        self.column.addLayout(head)
        self.hide()

    def open(self) -> None:
        """Show it."""
        self.show()
        self.raise_()

    def put_away(self) -> None:
        """Close it."""
        self.hide()

    def follow_unit(self) -> None:
        """Show lengths in the unit that is chosen now; pages that tell none have nothing to do."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Esc closes it."""
        if event.key() == Qt.Key.Key_Escape:
            self.put_away()
        else:
            super().keyPressEvent(event)
