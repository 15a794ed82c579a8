"""What every step has."""

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.fields import Card
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.app.warp import StepState
from sketchloom.core.job import Result

__all__ = ["Step", "empty_rows", "swatch"]


def empty_rows(rows: QVBoxLayout) -> None:
    """Take all widgets out of a list that is drawn anew."""
    while rows.count():
        widget = rows.takeAt(0).widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()


def swatch(colour: str, side: int = 18) -> QPixmap:
    """Draw a swatch with a faint edge, so that pale ones show."""
    pixmap = QPixmap(side * 2, side * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(QColor(0, 0, 0, 0))
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(theme.tokens.faded), 1))
    painter.setBrush(QColor(colour))
    painter.drawRoundedRect(1, 1, side - 2, side - 2, 4, 4)
    painter.end()
    return pixmap


class Step(QWidget):
    """A step's cards, and its line in the warp.

    Attributes
    ----------
    key : str
        The step's name in signals.
    name : str
        What the warp calls it.
    view : str
        What the canvas shows while it is current.
    before : str or None
        What it shows left of the divider.
    drawing : str or None
        The tool in hand.
    """

    tool_changed = Signal(object)
    """The tool to take in hand, or None."""

    key, name, view = "", "", "Picture"
    before: str | None = None
    drawing: str | None = None

    def __init__(self, model: JobModel, unit: Callable[[], str]) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.model, self.unit = model, unit
        self.box = QVBoxLayout(self)
        self.box.setContentsMargins(14, 14, 14, 14)
        self.box.setSpacing(12)
        self._trouble = Card("This did not work")
        self._sentence = QLabel()
        self._sentence.setWordWrap(True)
        self._trouble.body.addWidget(self._sentence)
        self._copy = QPushButton("Copy details")
        self._copy.clicked.connect(lambda: QApplication.clipboard().setText(self._details))
        self._trouble.body.addWidget(self._copy)
        self._trouble.hide()
        self._details = ""
        self.box.addWidget(self._trouble)
        self.build()
        self.box.addStretch()

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""

    def build(self) -> None:
        """Make the cards."""

    def show_result(self, result: Result) -> None:
        """Show what the newest result says."""

    def figure(self, result: Result) -> str:
        """The key figure for the warp."""
        return ""

    def state(self, result: Result | None, stale: bool) -> StepState:
        """How the step stands."""
        if self._trouble.isVisibleTo(self):
            return StepState("needs a look", "look")
        if result is None:
            return StepState("", "stale")
        return StepState(self.figure(result), "stale" if stale else "done")

    @property
    def trouble(self) -> str:
        """The sentence of the last failure, or nothing."""
        return self._sentence.text() if self._trouble.isVisibleTo(self) else ""

    def show_trouble(self, sentence: str, details: str) -> None:
        """Show a failure at the step it belongs to; an empty sentence takes it away."""
        self._sentence.setText(sentence)
        self._details = details
        self._copy.setVisible(bool(details))
        self._trouble.setVisible(bool(sentence))

    def add(self, card: Card) -> Card:
        """Add a card."""
        self.box.addWidget(card)
        return card
