"""What every step has."""

from collections.abc import Callable, Iterator, Sequence
from functools import lru_cache

from PySide6.QtCore import Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QApplication, QLabel, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.canvas import View
from sketchloom.app.canvas.tools import Tool
from sketchloom.app.commands import Command
from sketchloom.app.fields import Card, faded
from sketchloom.app.frame import Frame
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.app.theme.tokens import edge_on
from sketchloom.app.warp import StepState
from sketchloom.core.job import Result
from sketchloom.core.picture import Point

__all__ = ["Step", "swatch"]


def swatch(colour: str, side: int = 18) -> QPixmap:
    """Draw a swatch with an edge, so that dark and pale ones show in both themes."""
    return _swatch(colour, side, edge_on(theme.tokens, colour, theme.tokens.paper))


@lru_cache(1000)
def _swatch(colour: str, side: int, edge: str) -> QPixmap:
    pixmap = QPixmap(side * 2, side * 2)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(QColor(0, 0, 0, 0))
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(edge), 1))
    painter.setBrush(QColor(colour))
    painter.drawRoundedRect(1, 1, side - 2, side - 2, 4, 4)
    painter.end()
    return pixmap


class Step(QWidget):
    """A step's cards, and its line in the warp.

    Attributes
    ----------
    key : str
        The step's name in signals, settings and the table of stages.
    name : str
        What the warp calls it.
    view : str
        What the canvas shows while it is current.
    before : str or None
        What it shows left of the divider.
    needs : tuple of str
        Stages without whose results it has nothing to show.
    threads : bool
        Whether inks are known here, and run on to the next step.
    drawing : str or None
        The tool in hand.
    """

    tool_changed = Signal(object)
    """The tool to take in hand, or None."""
    wanted = Signal()
    """It asks to be shown."""
    card_wanted = Signal(object)
    """A card of it asks to be in sight."""

    key, name, view = "", "", "Picture"
    before: str | None = None
    needs: tuple[str, ...] = ("prepare",)
    threads = True
    drawing: str | None = None
    resting: str | None = None
    """The tool that is in hand while no other is; its hint stands in the panel."""

    def __init__(self, model: JobModel, unit: Callable[[], str]) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.model, self.unit = model, unit
        self.cards: list[Card] = []
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
        self.in_hand = Card("In hand")
        self.hint = faded()
        self.in_hand.body.addWidget(self.hint)
        away = QPushButton("Put the tool away")
        away.setToolTip("Esc does the same")
        away.clicked.connect(lambda: self.draw_with(None))
        self.in_hand.body.addWidget(away)
        self.in_hand.hide()
        self.box.addWidget(self.in_hand)
        self.tool_changed.connect(self._show_hint)
        self.build()
        self.box.addStretch()

    def _show_hint(self, tool: Tool | None) -> None:
        """Say how the tool in hand is used, beside the picture and only while it is in hand."""
        self.in_hand.setVisible(tool is not None and self.drawing != self.resting)
        if tool is not None:
            self.hint.setText(f"{tool.help} Esc puts the tool away.")

    def build(self) -> None:
        """Make the cards."""

    def attach(self, frame: Frame) -> None:
        """Take hold of what the window offers, once it stands."""

    def views(self) -> tuple[View, ...]:
        """Give the views of its own that the canvas can show."""
        return ()

    def shown_as(self, view: str) -> str:
        """Give the view that a tab shows at this step."""
        return view

    def marks(self) -> Sequence[tuple[Point, Point]]:
        """Give rectangles to number on the picture."""
        return ()

    def gaps(self) -> Sequence[tuple[Point, Point]]:
        """Give gaps to number on the picture."""
        return ()

    def chosen_area(self) -> tuple[Point, Point] | None:
        """Give the corners of what is chosen at this step, in the source."""
        return None

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give the commands of the step, each with its identifier."""
        yield from ()

    def here(self, act: Callable[[], object], card: Card | None = None) -> Callable[[], None]:
        """Make something that shows the step first, and a card of it, then acts."""

        def both() -> None:
            self.wanted.emit()
            if card is not None:
                self.open_card(card)
            act()

        return both

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""

    def select(self, key: str) -> None:
        """A layer was selected somewhere, or none."""

    def enter(self) -> None:
        """It is shown now."""

    def new_job(self) -> None:
        """Another job came in hand: nothing that was in work on the last one stays."""
        self.draw_with(None)

    def leave(self) -> None:
        """Another step is shown."""
        self.draw_with(None)

    def close_down(self) -> None:
        """The window closes."""

    def refresh(self) -> None:
        """Show the recipe in force, and what the newest result says."""
        if self.model.result is not None and self.model.result.has(*self.needs):
            self.show_result(self.model.result)

    def show_result(self, result: Result) -> None:
        """Show what the newest result says; it has what the step needs."""

    def figure(self, result: Result) -> str:
        """The key figure for the warp; the result has what the step needs."""
        return ""

    def state(self, result: Result | None, stale: bool) -> StepState:
        """How the step stands."""
        if self._trouble.isVisibleTo(self):
            return StepState("needs a look", "look")
        if result is None or not result.has(*self.needs):
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

    def open_card(self, card: Card) -> None:
        """Unfold a card, and bring it into view."""
        card.fold(False)
        self.card_wanted.emit(card)

    def add(self, card: Card, folded: bool = False) -> Card:
        """Add a card, folded or not until a maker chooses."""
        card.fold(folded)
        self.cards.append(card)
        self.box.addWidget(card)
        return card
