"""Cards of the Separate step for ink drawings: where ink ends and paper begins, and which marks count."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton

from sketchloom.app.fields import Card, LogSlider, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.histogram import Histogram
from sketchloom.core.job import Result
from sketchloom.core.regions import Ink

if TYPE_CHECKING:
    from sketchloom.app.steps.separate import SeparateStep

__all__ = ["MarksCard", "ThresholdCard"]

_FAINT, _STRENGTH = 0.9, 0.5


class ThresholdCard(Card):
    """The split between ink and paper, on its histogram."""

    def __init__(self, step: "SeparateStep") -> None:
        super().__init__("Threshold")
        self._step = step
        self.body.addWidget(faded("Darker than this share of the paper's light is ink."))
        self.histogram = Histogram("Threshold")
        self.histogram.moved.connect(
            lambda share, gesture: step.model.change("Threshold", "separate", gesture, threshold=share)
        )
        self.histogram.rested.connect(step.model.rest)
        self.body.addWidget(self.histogram)
        self.find = QPushButton("Find it by itself")
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


class MarksCard(Card):
    """Which marks of an ink drawing count."""

    def __init__(self, step: "SeparateStep") -> None:
        super().__init__("Which marks count")
        self._step = step
        self.faint, self.faint_slider = self._share(
            "Keep faint strokes that join ink",
            "Pale ends and hairlines stay where they hang together with ink",
            ("faint", _FAINT, 0.3, 0.97),
        )
        self.pale, self.pale_slider = self._share(
            "Leave out pale marks",
            "Pencil guides, watermarks and what shows through: marks that are nowhere dark",
            ("strength", _STRENGTH, 0.05, 0.95),
        )
        self.silhouette = QCheckBox("Fill the outline (silhouette)")
        self.silhouette.clicked.connect(lambda on: step.model.change("Silhouette", "separate", silhouette=on))
        self.body.addWidget(self.silhouette)
        self.swatch, self.colour_words = QLabel(), QLabel("Ink of any colour")
        self.pick, self.any = QPushButton("Pick…"), QPushButton("Any")
        self.pick.setCheckable(True)
        self.pick.setToolTip("Click a stroke on the picture: only ink of its colour counts")
        self.pick.clicked.connect(lambda on: step.draw_with("ink-colour" if on else None))
        self.any.clicked.connect(lambda: step.model.change("Ink of any colour", "separate", ink_colour=None))
        line = self.row(self.swatch)
        line.addWidget(self.colour_words, 1)
        line.addWidget(self.pick)
        line.addWidget(self.any)

    def _share(self, words: str, help_text: str, field: tuple[str, float, float, float]) -> tuple[QCheckBox, LogSlider]:
        """A switch, and a slider that shows while it is on."""
        name, usual, low, high = field
        model = self._step.model
        box = QCheckBox(words)
        box.setToolTip(help_text)
        box.clicked.connect(lambda on: model.change(words, "separate", **{name: usual if on else None}))
        slider = LogSlider(words, low, high)
        slider.moved.connect(lambda value, gesture: model.change(words, "separate", gesture, **{name: round(value, 3)}))
        slider.rested.connect(model.rest)
        self.body.addWidget(box)
        self.body.addWidget(slider)
        return box, slider

    def show_result(self, result: Result) -> None:
        """Show which count."""
        settings = self._step.model.recipe.separate
        self.setVisible(result.tones.reading is not None)
        for box, slider, value in (
            (self.faint, self.faint_slider, settings.faint),
            (self.pale, self.pale_slider, settings.strength),
        ):
            box.setChecked(value is not None)
            slider.setVisible(value is not None)
            if value is not None:
                slider.show_value(value)
        self.silhouette.setVisible(result.tones.kind == "ink")
        self.silhouette.setChecked(settings.silhouette)
        colour = settings.ink_colour
        self.any.setVisible(colour is not None)
        self.swatch.setVisible(colour is not None)
        self.colour_words.setText("Ink of any colour" if colour is None else "Only this ink")
        if colour is not None:
            self.swatch.setPixmap(swatch(Ink("", colour).hex))
