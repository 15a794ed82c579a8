"""The card with what is too small to cut."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from sketchloom.app.fields import Card, Field, LogSlider, faded
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Result
from sketchloom.core.units import parse_area

if TYPE_CHECKING:
    from sketchloom.app.steps.separate.step import SeparateStep

__all__ = ["SpecksCard"]


class SpecksCard(Card):
    """The least area of a piece, and how many went."""

    def __init__(self, step: "SeparateStep") -> None:
        super().__init__("Specks")
        self._step = step
        self.least = Field()
        self.least.setFixedWidth(90)
        self.least.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.least.setAccessibleName("Least area of a piece")
        self.least.setToolTip("Pieces and holes smaller than this join a neighbour; type mm2 or in2")
        self.least.editingFinished.connect(self._type)
        self.row("Smaller pieces join a neighbour", self.least)
        self.slider = LogSlider("Least area of a piece", 0.02, 50)
        self.slider.moved.connect(
            lambda value, gesture: step.model.change("Least area", "tidy", gesture, least_area=float(f"{value:.2g}"))
        )
        self.slider.rested.connect(step.model.rest)
        self.body.addWidget(self.slider)
        self.gone = faded()
        self.body.addWidget(self.gone)

    def _type(self) -> None:
        if not self.least.isModified():
            return
        self.least.setModified(False)
        try:
            area = parse_area(self.least.text().replace("mm²", "mm2").replace("in²", "in2"), "mm")
        except ArgumentError as error:
            self.gone.setText(str(error))
            return
        self._step.model.change("Least area", "tidy", least_area=min(max(area, 0.0), 1e6))

    def show_result(self, result: Result) -> None:
        """Show the least area, and what it took."""
        least = self._step.model.recipe.tidy.least_area
        self.least.show_text(f"{least:g} mm²")
        self.slider.show_value(least)
        if result.has("tidy"):
            gone = result.tidied.gone
            words = "Nothing is that small." if not gone else f"{gone} speck{'s' * (gone > 1)} removed."
            told = result.tidied.floor / result.scale.px_per_mm**2
            if not result.preview and told > 1.05 * least:
                words += f" This picture is worn and tells no piece under {told:.2g} mm², so that counts."
            self.gone.setText(words)
