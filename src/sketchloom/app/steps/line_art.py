"""Cards of the Separate step for line art: colours for its areas, and leaks to close."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.fields import Card, faded, in_unit
from sketchloom.app.steps.base import empty_rows, swatch
from sketchloom.core.job import Result
from sketchloom.core.picture import unit_at
from sketchloom.core.regions import FILLS, Bridge, Colour, Fill, Ink

if TYPE_CHECKING:
    from sketchloom.app.steps.separate import SeparateStep

__all__ = ["ColoursCard", "LeaksCard"]

_MOST_SHOWN = 12


class ColoursCard(Card):
    """Colours that areas take with a click."""

    def __init__(self, step: "SeparateStep") -> None:
        super().__init__("Colour the areas")
        self._step = step
        self.colour: Colour | None = FILLS[0]
        self.body.addWidget(faded("The colours are proposed; choose one and click the areas that are to have it."))
        self._chips = QGridLayout()
        self._chips.setSpacing(4)
        self.body.addLayout(self._chips)
        self.chips: list[QPushButton] = []
        for place, colour in enumerate((*FILLS, None)):
            self._chip(place, colour)
        other = QPushButton("Other…")
        other.setProperty("small", True)
        other.clicked.connect(self._ask)
        self._chips.addWidget(other, 1, 4, 1, 2)
        self.brush = QPushButton("Colour areas by clicking")
        self.brush.setCheckable(True)
        self.brush.clicked.connect(lambda on: step.draw_with("fill" if on else None))
        self.body.addWidget(self.brush)
        self.again = QPushButton("Take all proposed colours")
        self.again.clicked.connect(lambda: step.model.change("Proposed colours", "separate", fills=()))
        self.body.addWidget(self.again)
        self.lost = faded()
        self.body.addWidget(self.lost)

    def _chip(self, place: int, colour: Colour | None) -> None:
        chip = QPushButton()
        chip.setCheckable(True)
        chip.setAutoExclusive(True)
        chip.setChecked(place == 0)
        chip.setProperty("small", True)
        if colour is None:
            chip.setText("–")
            chip.setToolTip("No colour: the area stays paper")
            chip.setAccessibleName("No colour")
        else:
            chip.setIcon(swatch(Ink("", colour).hex, 16))
            chip.setAccessibleName(f"Colour {Ink('', colour).hex}")
        chip.clicked.connect(lambda: self.take(colour))
        self._chips.addWidget(chip, place // 5, place % 5)
        self.chips.append(chip)

    def _ask(self) -> None:
        chosen = QColorDialog.getColor(QColor(0, 0, 0), self, "Colour for areas")
        if chosen.isValid():
            self.take((chosen.red(), chosen.green(), chosen.blue()))

    def take(self, colour: Colour | None) -> None:
        """Take a colour, and the tool that gives it."""
        self.colour = colour
        self._step.draw_with("fill")

    def show_result(self, result: Result) -> None:
        """Show what can be done."""
        self.setVisible(result.tones.kind == "lineart")
        fills = self._step.model.recipe.separate.fills
        self.again.setVisible(bool(fills))
        lost = len(result.tones.unplaced) if result.tones.kind == "lineart" else 0
        self.lost.setVisible(bool(lost))
        self.lost.setText(f"{lost} clicked colour{'s have' if lost > 1 else ' has'} no area any more.")

    def fill(self, at: tuple[float, float]) -> None:
        """Give the area at a place the colour in hand."""
        fills = self._step.model.recipe.separate.fills
        self._step.model.change("Colour an area", "separate", fills=(*fills, Fill(at, self.colour)))


class LeaksCard(Card):
    """Where outlines are open, each with a bridge to close it."""

    def __init__(self, step: "SeparateStep") -> None:
        super().__init__("Leaks")
        self._step = step
        self.words = faded()
        self.body.addWidget(self.words)
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)
        self.all = QPushButton("Close all")
        self.all.clicked.connect(self.close_all)
        self.open_again = QPushButton("Open those I closed")
        self.open_again.clicked.connect(lambda: step.model.change("Open the leaks", "separate", bridges=()))
        self.body.addWidget(self.all)
        self.body.addWidget(self.open_again)
        self._leaks: tuple[Bridge, ...] = ()
        self._shown: object = None

    def close_all(self) -> None:
        """Close every leak that is listed."""
        if self._leaks:
            self.close_leaks(self._leaks)

    def close_leaks(self, leaks: tuple[Bridge, ...]) -> None:
        """Close leaks with their bridges."""
        bridges = self._step.model.recipe.separate.bridges
        name = "Close a leak" if len(leaks) == 1 else f"Close {len(leaks)} leaks"
        self._step.model.change(name, "separate", bridges=(*bridges, *leaks))

    def show_result(self, result: Result) -> None:
        """List them."""
        self.setVisible(result.tones.kind == "lineart")
        settings, unit = self._step.model.recipe.separate, self._step.unit()
        self._leaks = () if settings.close_gaps else result.tones.leaks
        many = len(self._leaks)
        closed = len(settings.bridges) + (len(result.tones.leaks) if settings.close_gaps else 0)
        self.aside.setText(f"{closed} closed" if closed else "")
        self.words.setText(
            "Every outline closes." if not many else "Areas run into each other where an outline is open."
        )
        self.all.setVisible(many > 1)
        self.open_again.setVisible(bool(settings.bridges))
        per_unit = unit_at(result.prepared.picture) / result.finished.px_per_mm
        shown = self._leaks, unit, per_unit
        if shown == self._shown:
            return
        self._shown = shown
        empty_rows(self.rows)
        for number, leak in enumerate(self._leaks[:_MOST_SHOWN], 1):
            (x0, y0), (x1, y1) = leak.first, leak.last
            gap = max(0.0, ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5 - leak.width) * per_unit
            self.rows.addWidget(self._row(number, leak, f"{in_unit(gap, unit)} {unit} open"))
        if many > _MOST_SHOWN:
            self.rows.addWidget(faded(f"and {many - _MOST_SHOWN} more"))

    def _row(self, number: int, leak: Bridge, words: str) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 1, 0, 1)
        tag = QLabel(str(number))
        tag.setAlignment(Qt.AlignmentFlag.AlignCenter)
        tag.setFixedWidth(20)
        line.addWidget(tag)
        line.addWidget(QLabel(words), 1)
        close = QPushButton("Close it")
        close.setProperty("small", True)
        close.setAccessibleName(f"Close leak {number}")
        close.clicked.connect(lambda: self.close_leaks((leak,)))
        line.addWidget(close)
        return row
