"""Fields for numbers with units, and small parts the steps are built from."""

from collections.abc import Callable
from itertools import count
from math import log

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSizePolicy,
    QSlider,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from sketchloom.app.theme import icon, theme
from sketchloom.core.errors import ArgumentError
from sketchloom.core.units import MM_PER_INCH, parse_length

__all__ = ["Card", "CountSlider", "Field", "LengthField", "LogSlider", "faded", "gesture_id", "in_unit", "narrow_box"]

gesture_id = count(1).__next__
"""Gives a number for a gesture; changes that carry the same are one step of undo."""


def in_unit(mm: float, unit: str, decimals: int = 1) -> str:
    """Write a length in mm, cm or in, without the unit."""
    value = {"mm": mm, "cm": mm / 10, "in": mm / MM_PER_INCH}[unit]
    return f"{value:.{decimals + {'mm': 0, 'cm': 1, 'in': 1}[unit]}f}"


def faded(text: str = "", wrap: bool = True) -> QLabel:
    """Make a label for secondary text."""
    label = QLabel(text)
    label.setProperty("role", "faded")
    label.setWordWrap(wrap)
    return label


def narrow_box(name: str) -> QComboBox:
    """Make a list to choose from that is as wide as its panel, however long its words are."""
    box = QComboBox()
    box.setAccessibleName(name)
    box.setToolTip(name)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(8)
    return box


class _Heading(QWidget):
    """The head of a card; a click anywhere on it folds the card."""

    clicked = Signal()

    def mousePressEvent(self, event) -> None:
        """Fold, or unfold."""
        self.clicked.emit()


class Card(QFrame):
    """One question of a step: a title, something beside it, and the answers below, which its heading folds away."""

    folding = Signal(bool)
    """Whether it was folded by hand."""

    def __init__(self, title: str, aside: str = "") -> None:
        super().__init__()
        self.name = title
        self.setObjectName("card")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 9, 12, 12)
        column.setSpacing(7)
        heading = _Heading()
        head = QHBoxLayout(heading)
        head.setContentsMargins(0, 0, 0, 0)
        self.title = QLabel(title)
        self.title.setProperty("role", "title")
        self.aside = faded(aside, wrap=False)
        self._fold = QToolButton()
        self._fold.setProperty("fold", True)
        self._fold.setIconSize(QSize(14, 14))
        self._fold.clicked.connect(self._by_hand)
        heading.clicked.connect(self._by_hand)
        head.addWidget(self.title)
        head.addStretch()
        head.addWidget(self.aside)
        head.addWidget(self._fold)
        column.addWidget(heading)
        self._content = QWidget()
        self.body = QVBoxLayout(self._content)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(8)
        column.addWidget(self._content)
        self.folded = False
        theme.changed.connect(self._dress)
        self._dress()

    def fold(self, folded: bool) -> None:
        """Fold the answers away, or show them."""
        self.folded = folded
        self._content.setVisible(not folded)
        self._dress()

    def _by_hand(self) -> None:
        self.fold(not self.folded)
        self.folding.emit(self.folded)

    def _dress(self) -> None:
        self._fold.setIcon(icon("chevron-down" if self.folded else "chevron-up", theme.tokens.faded, 14))
        self._fold.setAccessibleName(f"{'Show' if self.folded else 'Fold'} {self.name}")
        self._fold.setToolTip(self._fold.accessibleName())

    def row(self, *parts: QWidget | str) -> QHBoxLayout:
        """Add widgets side by side; a text becomes a label that takes the free width."""
        line = QHBoxLayout()
        line.setSpacing(8)
        for part in parts:
            if isinstance(part, str):
                label = QLabel(part)
                label.setWordWrap(True)
                line.addWidget(label, 1)
            else:
                line.addWidget(part)
        self.body.addLayout(line)
        return line


class Field(QLineEdit):
    """A line to type in that lets go of the keys by Enter, and by Esc, which puts back what was there."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self._before = text

    def show_text(self, text: str) -> None:
        """Show a text, unless one is being typed."""
        if not (self.hasFocus() and self.isModified()):
            self._before = text
            self.setText(text)
            self.setModified(False)

    def put_back(self) -> None:
        """Show what was there before the typing."""
        self.setText(self._before)
        self.setModified(False)

    def keyPressEvent(self, event) -> None:
        """Enter takes what was typed, Esc leaves it; both give the keys back."""
        if event.key() == Qt.Key.Key_Escape:
            self.put_back()
            self.clearFocus()
            return
        super().keyPressEvent(event)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not self.isModified():
            self.clearFocus()


class LengthField(Field):
    """A length that can be typed with its unit, and sums such as 19.5in - 1/2in."""

    committed = Signal(float)
    """mm"""

    def __init__(
        self, name: str, unit: Callable[[], str], suffix: str = "", decimals: int = 1, empty: bool = False
    ) -> None:
        super().__init__()
        self._unit, self._suffix, self._decimals, self._empty = unit, suffix, decimals, empty
        self._mm: float | None = None
        self.setAccessibleName(name)
        self.setToolTip(f"{name}; type mm, cm or in, or a sum such as 19.5in - 1/2in")
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.editingFinished.connect(self._commit)
        self.textEdited.connect(lambda: self._mark(None))

    @property
    def mm(self) -> float | None:
        """The length shown, mm."""
        return self._mm

    def show_mm(self, mm: float | None) -> None:
        """Show a length, unless one is being typed."""
        self._mm = mm
        if not (self.hasFocus() and self.isModified()):
            self._refresh()

    def put_back(self) -> None:
        """Show the length that was there before the typing."""
        self._refresh()

    def _refresh(self) -> None:
        unit = self._unit()
        self.setText("" if self._mm is None else f"{in_unit(self._mm, unit, self._decimals)} {unit}{self._suffix}")
        self.setModified(False)
        self._mark(None)

    def _mark(self, wrong: str | None) -> None:
        self.setProperty("wrong", wrong is not None)
        self.style().unpolish(self)
        self.style().polish(self)
        if wrong:
            self.setToolTip(wrong)

    def _commit(self) -> None:
        if not self.isModified():
            return
        text = self.text().strip().removesuffix(self._suffix.strip()).strip()
        try:
            mm = parse_length(text, self._unit())
        except ArgumentError as error:
            self._mark(str(error))
            return
        self.setModified(False)
        self._mm = mm
        self._refresh()
        self.committed.emit(mm)


class LogSlider(QSlider):
    """A slider over a range in equal ratios; tells its value and the gesture it belongs to."""

    moved = Signal(float, int)
    rested = Signal()

    def __init__(self, name: str, low: float, high: float) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._low, self._high = low, high
        self._gesture = 0
        self.setRange(0, 200)
        self.setSingleStep(4)
        self.setPageStep(20)
        self.setAccessibleName(name)
        self._rest = QTimer(self, interval=350, singleShot=True)
        self._rest.timeout.connect(self._end)
        self.valueChanged.connect(self._tell)
        self.sliderReleased.connect(self._end)

    def show_value(self, value: float) -> None:
        """Show a value without telling."""
        ratio = max(value, self._low) / self._low
        span = self._high / self._low
        self.blockSignals(True)
        self.setValue(round(200 * min(1.0, log(ratio) / log(span))))
        self.blockSignals(False)

    def _tell(self, place: int) -> None:
        if not self._gesture:
            self._gesture = gesture_id()
        self._rest.start()
        self.moved.emit(self._low * (self._high / self._low) ** (place / 200), self._gesture)

    def _end(self) -> None:
        if self._gesture and not self.isSliderDown():
            self._gesture = 0
            self._rest.stop()
            self.rested.emit()


class CountSlider(LogSlider):
    """A slider over whole numbers from one up, in equal steps."""

    def __init__(self, name: str) -> None:
        super().__init__(name, 1, 2)
        self.setRange(1, 12)
        self.setSingleStep(1)
        self.setPageStep(1)

    def show_count(self, count: int, most: int) -> None:
        """Show a number of at most so many; one in the hand stays."""
        self.blockSignals(True)
        self.setRange(1, max(most, count))
        if not self.isSliderDown():
            self.setValue(count)
        self.blockSignals(False)

    def _tell(self, place: int) -> None:
        if not self._gesture:
            self._gesture = gesture_id()
        self._rest.start()
        self.moved.emit(float(place), self._gesture)
