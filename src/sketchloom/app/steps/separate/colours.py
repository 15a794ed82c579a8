"""The card with the colours that areas of line art take."""

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QGridLayout, QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.core.job import Result
from sketchloom.core.palette import Colour, hex_of
from sketchloom.core.regions import FILLS, Fill

__all__ = ["ColoursCard"]


class ColoursCard(Card):
    """Colours that areas take with a click."""

    def __init__(self, step: SeparateDesk) -> None:
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
            chip.setIcon(swatch(hex_of(colour), 16))
            chip.setAccessibleName(f"Colour {hex_of(colour)}")
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
        self.setVisible(result.road.mode == "lineart")
        fills = self._step.model.recipe.separate.fills
        self.again.setVisible(bool(fills))
        lost = len(result.tones.unplaced) if result.road.mode == "lineart" else 0
        self.lost.setVisible(bool(lost))
        self.lost.setText(f"{lost} clicked colour{'s have' if lost > 1 else ' has'} no area any more.")

    def fill(self, at: tuple[float, float]) -> None:
        """Give the area at a place the colour in hand."""
        fills = self._step.model.recipe.separate.fills
        self._step.model.change("Colour an area", "separate", fills=(*fills, Fill(at, self.colour)))
