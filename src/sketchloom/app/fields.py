"""Fields for numbers with units, and small parts the steps are built from."""

from collections.abc import Callable
from itertools import count
from math import log

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QSizePolicy,
    QToolButton,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from sketchloom.app.controls import Slide
from sketchloom.app.theme import icon, theme
from sketchloom.core.errors import ArgumentError
from sketchloom.core.measures import length_words
from sketchloom.core.units import parse_length

__all__ = [
    "Card",
    "CountSlider",
    "Elided",
    "Field",
    "LengthField",
    "LogSlider",
    "MeasureField",
    "faded",
    "gesture_id",
]

gesture_id = count(1).__next__
"""Gives a number for a gesture; changes that carry the same are one step of undo."""


def faded(text: str = "", wrap: bool = True) -> QLabel:
    """Make a label for secondary text."""
    label = QLabel(text)
    label.setProperty("role", "faded")
    label.setWordWrap(wrap)
    return label


class Elided(QLabel):
    """A label that takes what room there is, and cuts its text short with dots; the tip has all of it."""

    def __init__(self, text: str = "") -> None:
        super().__init__(text)
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        self.setMinimumWidth(40)

    def setText(self, text: str) -> None:
        """Show a text."""
        super().setText(text)
        self.setToolTip(text)

    def minimumSizeHint(self) -> QSize:
        """Hardly any."""
        return QSize(40, super().minimumSizeHint().height())

    def paintEvent(self, event) -> None:
        """Draw as much of it as there is room for."""
        painter = QPainter(self)
        painter.setPen(self.palette().windowText().color())
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), self.alignment() | Qt.AlignmentFlag.AlignVCenter, words)


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
    unfolded = Signal()
    """Its answers show, by hand or as they were asked for: what is listed only then is listed now."""

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
        if not folded:
            self.unfolded.emit()

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


class MeasureField(Field):
    """A measure that can be typed with its unit; what cannot be read marks the field, and its tip says why."""

    committed = Signal(float)
    """mm, or mm2"""

    def __init__(self, name: str, help_text: str, unit: Callable[[], str]) -> None:
        super().__init__()
        self._unit, self._help = unit, f"{name}; {help_text}"
        self._value: float | None = None
        self.setAccessibleName(name)
        self.setToolTip(self._help)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.editingFinished.connect(self._commit)
        self.textEdited.connect(lambda: self._mark(None))

    def _words(self, value: float) -> str:
        """A value as the field shows it."""
        raise NotImplementedError

    def _read(self, text: str) -> float:
        """Read what was typed; raises `ArgumentError`."""
        raise NotImplementedError

    def show_value(self, value: float | None) -> None:
        """Show a value, unless one is being typed."""
        self._value = value
        if not (self.hasFocus() and self.isModified()):
            self._refresh()

    def follow_unit(self) -> None:
        """Show the value in the unit that the window shows now."""
        self.show_value(self._value)

    def put_back(self) -> None:
        """Show the value that was there before the typing."""
        self._refresh()

    def _refresh(self) -> None:
        self.setText("" if self._value is None else self._words(self._value))
        self.setModified(False)
        self._mark(None)

    def _mark(self, wrong: str | None) -> None:
        if bool(self.property("wrong")) != (wrong is not None):
            self.setProperty("wrong", wrong is not None)
            self.style().unpolish(self)
            self.style().polish(self)
        self.setToolTip(wrong or self._help)
        self.setAccessibleDescription(wrong or "")

    def _commit(self) -> None:
        if not self.isModified():
            return
        try:
            value = self._read(self.text())
        except ArgumentError as error:
            self._mark(str(error))
            if self.window().isActiveWindow():
                QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), str(error), self)
            return
        self.setModified(False)
        self._value = value
        self._refresh()
        self.committed.emit(value)


class LengthField(MeasureField):
    """A length that can be typed with its unit, and sums such as 19.5in - 1/2in."""

    def __init__(self, name: str, unit: Callable[[], str], suffix: str = "", decimals: int = 1) -> None:
        super().__init__(name, "type mm, cm or in, or a sum such as 19.5in - 1/2in", unit)
        self._suffix, self._decimals = suffix, decimals

    @property
    def mm(self) -> float | None:
        """The length shown, mm."""
        return self._value

    def show_mm(self, mm: float | None) -> None:
        """Show a length, unless one is being typed."""
        self.show_value(mm)

    def _words(self, value: float) -> str:
        return f"{length_words(value, self._unit(), self._decimals)}{self._suffix}"

    def _read(self, text: str) -> float:
        return parse_length(text.strip().removesuffix(self._suffix.strip()).strip(), self._unit())


class LogSlider(Slide):
    """A slider over a range in equal ratios; tells its value and the gesture it belongs to."""

    moved = Signal(float, int)
    rested = Signal()

    def __init__(self, name: str, low: float, high: float) -> None:
        super().__init__(name)
        self._low, self._high = low, high
        self._gesture = 0
        self.setRange(0, 200)
        self.setSingleStep(4)
        self.setPageStep(20)
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
