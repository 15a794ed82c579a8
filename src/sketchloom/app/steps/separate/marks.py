"""The card that says which marks of an ink drawing count."""

from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton

from sketchloom.app.fields import Card, LogSlider
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.core.job import Result
from sketchloom.core.palette import hex_of

__all__ = ["MarksCard"]

_FAINT, _STRENGTH = 0.9, 0.5


class MarksCard(Card):
    """Which marks of an ink drawing count."""

    def __init__(self, step: SeparateDesk) -> None:
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
        self.silhouette.setVisible(result.road.mode == "ink")
        self.silhouette.setChecked(settings.silhouette)
        colour = settings.ink_colour
        self.any.setVisible(colour is not None)
        self.swatch.setVisible(colour is not None)
        self.colour_words.setText("Ink of any colour" if colour is None else "Only this ink")
        if colour is not None:
            self.swatch.setPixmap(swatch(hex_of(colour)))
