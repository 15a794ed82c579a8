"""The card with what a photo becomes."""

from PySide6.QtWidgets import QPushButton

from sketchloom.app.fields import Card, LengthField, LogSlider
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.core.job import Result

__all__ = ["PhotoCard"]

_DETAIL = (0.1, 20.0)
"""mm"""


class PhotoCard(Card):
    """Steps of light or flat colours, and how coarse."""

    def __init__(self, step: SeparateDesk) -> None:
        super().__init__("Photo")
        self._step = step
        self.ways: dict[str, QPushButton] = {}
        for way, words, help_text in (
            ("light", "Steps of light", "Each step holds all that is as dark or darker, so the layers nest"),
            ("colour", "Flat colours", "The few colours that tell the picture best"),
        ):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("choice", True)
            button.setToolTip(help_text)
            button.clicked.connect(lambda _=False, way=way: self._take_way(way))
            self.body.addWidget(button)
            self.ways[way] = button
        self.detail = LengthField("Smallest detail", step.unit, decimals=2)
        self.detail.setFixedWidth(90)
        self.detail.committed.connect(
            lambda mm: step.model.change("Smallest detail", "separate", detail=min(max(mm, 0.0), 100.0))
        )
        self.row("Smaller detail is smoothed", self.detail)
        self.slider = LogSlider("Smallest detail", *_DETAIL)
        self.slider.moved.connect(
            lambda value, gesture: step.model.change(
                "Smallest detail", "separate", gesture, detail=float(f"{value:.2g}")
            )
        )
        self.slider.rested.connect(step.model.rest)
        self.body.addWidget(self.slider)

    def _take_way(self, way: str) -> None:
        self._step.draw_with(None)
        self._step.model.change("Kind of steps", "separate", steps_by=way)

    def show_result(self, result: Result) -> None:
        """Show what is in force."""
        settings = self._step.model.recipe.separate
        self.setVisible(result.road.mode == "photo")
        self.ways[settings.steps_by].setChecked(True)
        self.detail.show_mm(settings.detail)
        self.slider.show_value(settings.detail)
