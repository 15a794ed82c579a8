"""The card that says where ink ends and paper begins."""

from PySide6.QtWidgets import QCheckBox, QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.app.steps.separate.histogram import Histogram
from sketchloom.core.job import Result

__all__ = ["ThresholdCard"]


class ThresholdCard(Card):
    """The split between ink and paper, on its histogram."""

    def __init__(self, step: SeparateDesk) -> None:
        super().__init__("Threshold")
        self._step = step
        self.body.addWidget(faded("Darker than this share of the paper's light is ink."))
        self.histogram = Histogram("Threshold")
        self.histogram.moved.connect(
            lambda share, gesture: step.model.change("Threshold", "separate", gesture, threshold=share)
        )
        self.histogram.rested.connect(step.model.rest)
        self.body.addWidget(self.histogram)
        self.find = QPushButton("Find it automatically")
        self.find.clicked.connect(lambda: step.model.change("Threshold", "separate", threshold=None))
        self.body.addWidget(self.find)
        self.local = QCheckBox("Follow the strength of the strokes")
        self.local.setToolTip("For a hand that fades: every stroke is split half way between itself and the paper")
        self.local.clicked.connect(lambda on: step.model.change("Follow the strokes", "separate", local=on))
        self.body.addWidget(self.local)
        self.sure = faded()
        self.body.addWidget(self.sure)

    def show_result(self, result: Result) -> None:
        """Show how the drawing was split."""
        reading = result.tones.reading
        self.setVisible(reading is not None)
        if reading is None:
            return
        self.aside.setText(f"{100 * reading.threshold:.0f} %")
        self.histogram.show_counts(reading.histogram, reading.threshold)
        self.find.setVisible(self._step.model.recipe.separate.threshold is not None)
        self.local.setChecked(reading.local)
        words = "hardly hangs" if reading.sure > 0.97 else "partly hangs" if reading.sure > 0.85 else "hangs much"
        self.sure.setText(f"{100 * reading.sure:.0f} % sure: what is ink {words} on the threshold.")
