"""The card with the kind of picture."""

from PySide6.QtWidgets import QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.source.desk import SourceDesk
from sketchloom.core.job import Result

__all__ = ["KindCard"]

_KINDS = {
    "auto": "Automatic",
    "flat": "Flat art",
    "ink": "Ink drawing",
    "lineart": "Line art to colour in",
    "photo": "Photo",
}
_WORDS = {"flat": "flat art", "ink": "an ink drawing", "lineart": "line art to colour in", "photo": "a photo"}


class KindCard(Card):
    """What kind of picture it is taken for, and why."""

    def __init__(self, step: SourceDesk) -> None:
        super().__init__("Kind of picture")
        self._step = step
        self.kinds: dict[str, QPushButton] = {}
        for mode, words in _KINDS.items():
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("choice", True)
            button.clicked.connect(
                lambda _=False, mode=mode: step.model.change("Kind of picture", "separate", mode=mode)
            )
            self.kinds[mode] = button
            self.body.addWidget(button)
        self.why = faded()
        self.body.addWidget(self.why)

    def show_result(self, result: Result) -> None:
        """Show the kind in force."""
        self.kinds[self._step.model.recipe.separate.mode].setChecked(True)
        if result.has("road"):
            self.why.setText(f"It is treated as {_WORDS[result.road.mode]}: {result.road.why}.")
