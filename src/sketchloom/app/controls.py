"""List boxes, number boxes and sliders that leave the wheel to the panel, and letters to the window."""

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QComboBox, QSlider, QSpinBox

__all__ = ["Choice", "Number", "Slide", "dots_box", "fill_box", "narrow_box"]

_REST = 700
"""Milliseconds after which a number that is typed is taken."""


class _Still:
    """What the wheel turns only once it was clicked; until then the panel scrolls."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Turn it, if it is in hand."""
        if self.hasFocus():  # type: ignore[attr-defined]
            super().wheelEvent(event)  # type: ignore[misc]
        else:
            event.ignore()


class Choice(_Still, QComboBox):
    """A list box: the wheel turns it only once it was clicked, and letters are the window's commands."""

    def __init__(self, name: str = "") -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)  # the wheel gives no focus
        if name:
            self.setAccessibleName(name)
            self.setToolTip(name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows choose, Space opens it; a letter is no choice."""
        if event.text().isprintable() and event.text().strip() and not self.view().isVisible():
            event.ignore()
        else:
            super().keyPressEvent(event)


class Number(_Still, QSpinBox):
    """A whole number: what is typed is one change, and the wheel turns it only once it was clicked."""

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setKeyboardTracking(False)
        self.lineEdit().setFocusPolicy(Qt.FocusPolicy.ClickFocus)  # Tab stops at the number once
        self._rest = QTimer(self, interval=_REST, singleShot=True)
        self._rest.timeout.connect(self.interpretText)  # typing that rests is taken as if by Enter
        self.lineEdit().textEdited.connect(lambda _: self._rest.start())


def dots_box(name: str) -> Number:
    """Make a box for dots an inch, of what is printed."""
    box = Number()
    box.setRange(30, 2400)
    box.setValue(300)
    box.setFixedWidth(80)
    box.setButtonSymbols(Number.ButtonSymbols.NoButtons)
    box.setAccessibleName(name)
    return box


class Slide(_Still, QSlider):
    """A slider that the wheel moves only once it was clicked."""

    def __init__(self, name: str) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)


def narrow_box(name: str) -> Choice:
    """Make a list to choose from that is as wide as its panel, however long its words are."""
    box = Choice(name)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(8)
    return box


def fill_box(box: QComboBox, rows: Sequence[tuple[str, Any]], chosen: Any) -> None:
    """Fill a list with words and what they stand for, unless it holds them, and choose one; the first if it is gone."""
    if list(rows) != [(box.itemText(at), box.itemData(at)) for at in range(box.count())]:
        box.clear()
        for words, key in rows:
            box.addItem(words, key)
    place = next((at for at, (_, key) in enumerate(rows) if key == chosen), 0)
    box.setCurrentIndex(place)
