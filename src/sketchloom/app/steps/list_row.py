"""A row of a list in a step: a swatch, words, and what can be done with it."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import NamedTuple

from PySide6.QtCore import QEvent, QPoint, QSize, Qt, Signal
from PySide6.QtGui import QEnterEvent, QMouseEvent, QPixmap
from PySide6.QtWidgets import (
    QApplication,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from sketchloom.app.handing import far_enough
from sketchloom.app.theme import icon, theme

__all__ = [
    "IconButton", "ListRow", "empty_rows", "icon_button", "refilled", "small_button", "smaller_ones", "way_button",
]  # fmt: skip


@contextmanager
def refilled(rows: QVBoxLayout) -> Iterator[None]:
    """Fill a list anew, and leave the focus, and a text that is being typed, where they are.

    A part of a row is known by its accessible name, and by which of that
    name it is.
    """
    held = _held_in(rows)
    empty_rows(rows)
    yield
    for row in range(rows.count()):
        widget = rows.itemAt(row).widget()
        if widget is not None and not widget.testAttribute(Qt.WidgetAttribute.WA_WState_ExplicitShowHide):
            widget.show()  # at once: Tab and the focus find it
    if held is not None:
        _give_back(rows, held)


class _HeldFocus(NamedTuple):
    name: str
    row: int
    number: int  # among the parts of a row that can have the focus
    text: str | None  # that is being typed
    cursor: int


def _parts(widget: QWidget | None) -> list[QWidget]:
    """What of a row can have the focus, in order."""
    if widget is None:
        return []
    return [one for one in (widget, *widget.findChildren(QWidget)) if one.focusPolicy() & Qt.FocusPolicy.TabFocus]


def _name_of(widget: QWidget) -> str:
    return widget.accessibleName() or getattr(widget, "text", str)()


def _held_in(rows: QVBoxLayout) -> _HeldFocus | None:
    """What in a list has the focus."""
    focus = QApplication.focusWidget()
    for row in range(rows.count()):
        parts = _parts(rows.itemAt(row).widget())
        if focus is not None and focus in parts:
            text, cursor = None, 0
            if isinstance(focus, QLineEdit):
                focus.blockSignals(True)  # it ends with its row, not because its text was entered
                text, cursor = focus.text() if focus.isModified() else None, focus.cursorPosition()
            return _HeldFocus(_name_of(focus), row, parts.index(focus), text, cursor)
    return None


def _give_back(rows: QVBoxLayout, held: _HeldFocus) -> None:
    """Give the focus to the same part of the same row; where that has gone, or can do nothing, to one beside it."""
    listed = [_parts(rows.itemAt(row).widget()) for row in range(rows.count())]
    same = [(abs(row - held.row), row) for row, parts in enumerate(listed) if held.name in map(_name_of, parts)]
    row = min(same)[1] if same else min(held.row, len(listed) - 1)
    parts = listed[row] if listed else []
    named = [part for part in parts if _name_of(part) == held.name] or parts[held.number : held.number + 1]
    for part in (*named, *parts):
        if part.isEnabled():
            part.setFocus()
            if held.text is not None and part in named and same and isinstance(part, QLineEdit):
                part.setText(held.text)
                part.setModified(True)
                part.setCursorPosition(held.cursor)
            return


def empty_rows(rows: QVBoxLayout) -> None:
    """Take all widgets out of a list that is drawn anew."""
    while rows.count():
        widget = rows.takeAt(0).widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


class IconButton(QPushButton):
    """A small button with an icon, tinted by the look in force and by whether it can be pressed."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self._name, self._token = name, "ink"
        self._dress()
        theme.changed.connect(self._dress)

    def show_icon(self, name: str, token: str = "ink") -> None:
        """Show an icon, tinted by a token."""
        self._name, self._token = name, token
        self._dress()

    def changeEvent(self, event: QEvent) -> None:
        """What cannot be pressed is pale."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.EnabledChange:
            self._dress()

    def _dress(self) -> None:
        self.setIcon(icon(self._name, getattr(theme.tokens, self._token if self.isEnabled() else "line"), 14))


def icon_button(name: str, words: str, act: Callable[[], object], can: bool = True, side: int = 26) -> IconButton:
    """Make a small button with an icon; `words` are its help and its name."""
    button = IconButton(name)
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


def way_button(name: str, help_text: str, picture: tuple[int, int], size: tuple[int, int]) -> QToolButton:
    """Make one of several ways to choose from, with its picture over its name; sizes in px."""
    button = QToolButton()
    button.setText(name)
    button.setAccessibleName(name)
    button.setToolTip(help_text)
    button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
    button.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    button.setCheckable(True)
    button.setAutoExclusive(True)
    button.setProperty("choice", True)
    button.setIconSize(QSize(*picture))
    button.setFixedSize(*size)
    return button


class ListRow(QWidget):
    """A swatch or number, words that take the free width, and widgets behind them."""

    looked_at = Signal(bool)
    """The pointer came, or went."""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin what may become a drag."""
        self._pressed_at = event.position().toPoint() if event.button() == Qt.MouseButton.LeftButton else None
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it to another program, if it is something that can be taken there."""
        if self.dragged is not None and far_enough(self._pressed_at, event.position().toPoint()):
            self._pressed_at = None
            self.dragged()
        else:
            super().mouseMoveEvent(event)

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
        self.dragged: Callable[[], object] | None = None
        self._pressed_at: QPoint | None = None
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


def smaller_ones(many: int) -> str:
    """Say how many are not listed."""
    return "1 smaller one" if many == 1 else f"{many} smaller ones"
