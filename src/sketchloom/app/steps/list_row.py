"""A row of a list in a step: a swatch, words, and what can be done with it."""

from collections.abc import Callable

from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QEnterEvent, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.theme import icon, theme

__all__ = ["ListRow", "empty_rows", "icon_button", "small_button"]


def empty_rows(rows: QVBoxLayout) -> None:
    """Take all widgets out of a list that is drawn anew."""
    while rows.count():
        widget = rows.takeAt(0).widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def icon_button(name: str, words: str, act: Callable[[], object], can: bool = True, side: int = 26) -> QPushButton:
    """Make a small button with an icon; `words` are its help and its name."""
    button = QPushButton()
    button.setIcon(icon(name, theme.tokens.ink if can else theme.tokens.line, 14))
    button.setFixedSize(side, side)
    button.setStyleSheet("padding: 1px;")
    button.setEnabled(can)
    button.setAccessibleName(words)
    button.setToolTip(words)
    button.clicked.connect(lambda: act())
    return button


def small_button(words: str, act: Callable[[], object], name: str = "") -> QPushButton:
    """Make a small button with words; `name` is what a screen reader says."""
    button = QPushButton(words)
    button.setProperty("small", True)
    button.setAccessibleName(name or words)
    button.clicked.connect(lambda: act())
    return button


class ListRow(QWidget):
    """A swatch or number, words that take the free width, and widgets behind them."""

    looked_at = Signal(bool)
    """The pointer came, or went."""

    def enterEvent(self, event: QEnterEvent) -> None:
        """Tell that the pointer is here."""
        super().enterEvent(event)
        self.looked_at.emit(True)

    def leaveEvent(self, event: QEvent) -> None:
        """Tell that it went."""
        super().leaveEvent(event)
        self.looked_at.emit(False)

    def __init__(self, words: str | QWidget, *marks: QPixmap | str, behind: tuple[QWidget, ...] = ()) -> None:
        super().__init__()
        self.line = QHBoxLayout(self)
        self.line.setContentsMargins(2, 1, 0, 1)
        self.line.setSpacing(6)
        for mark in marks:
            label = QLabel()
            if isinstance(mark, str):
                label.setText(mark)
                label.setFixedWidth(20)
                label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            else:
                label.setPixmap(mark)
            self.line.addWidget(label)
        if isinstance(words, str):
            words = QLabel(words)
            words.setWordWrap(True)
        self.words = words
        self.line.addWidget(words, 1)
        for widget in behind:
            self.line.addWidget(widget)
