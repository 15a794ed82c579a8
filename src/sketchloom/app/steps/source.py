"""Step 1, Source: what was opened."""

from PySide6.QtWidgets import QLabel, QPushButton

from sketchloom.app.fields import Card, faded, in_unit
from sketchloom.app.steps.base import Step
from sketchloom.core.job import Result

__all__ = ["SourceStep"]

_KINDS = {"auto": "Found by itself", "flat": "Flat art", "ink": "Ink drawing"}
_WORDS = {"flat": "flat art", "ink": "ink drawing"}


class SourceStep(Step):
    """The picture, its size at the finished size, and its kind."""

    key, name, view = "source", "Source", "Picture"

    def build(self) -> None:
        """Make the cards."""
        picture = self.add(Card("Picture"))
        self.file = QLabel()
        self.file.setWordWrap(True)
        self.size = faded()
        picture.body.addWidget(self.file)
        picture.body.addWidget(self.size)
        self.open = QPushButton("Open another…")
        picture.body.addWidget(self.open)
        detail = self.add(Card("At the finished size"))
        self.detail = QLabel()
        self.detail.setWordWrap(True)
        detail.body.addWidget(self.detail)
        kind = self.add(Card("Kind of picture"))
        self.kinds: dict[str, QPushButton] = {}
        for mode, words in _KINDS.items():
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("choice", True)
            button.clicked.connect(
                lambda _=False, mode=mode: self.model.change("Kind of picture", "separate", mode=mode)
            )
            self.kinds[mode] = button
            kind.body.addWidget(button)
        self.why = faded()
        kind.body.addWidget(self.why)
        rights = self.add(Card("Before you cut"))
        rights.body.addWidget(
            faded("Make sure you may use the picture. Keep an untouched copy; this program never changes it.")
        )

    def show_result(self, result: Result) -> None:
        """Show sizes and kind."""
        job, picture = self.model.job, self.model.picture
        if job is None or picture is None:
            return
        self.file.setText(job.picture_name)
        self.size.setText(self._pixels())
        per_mm = result.finished.px_per_mm / result.scale
        unit = self.unit()
        finest = in_unit(2 / per_mm, unit, 2)
        self.detail.setText(
            f"{per_mm:.1f} pixels a mm ({per_mm * 25.4:.0f} an inch). "
            f"The smallest detail that survives is about {finest} {unit}."
        )
        self.kinds[self.model.recipe.separate.mode].setChecked(True)
        self.why.setText(f"It is treated as {_WORDS[result.tones.kind]}: {result.tones.why}.")

    def _pixels(self) -> str:
        picture = self.model.picture
        return f"{picture.width} × {picture.height} px" if picture else ""

    def figure(self, result: Result) -> str:
        """Pixels."""
        return self._pixels()
