"""Step 1, Source: what was opened."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout

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
        self.start = self.add(Card("Start"))
        self.start.body.addWidget(faded("Open a picture, or look round with the demo first."))
        self.first_open, self.demo = QPushButton("Open a picture or job…"), QPushButton("Open the demo job")
        self.first_open.setProperty("primary", True)
        self.start.body.addWidget(self.first_open)
        self.start.body.addWidget(self.demo)
        self.recent = QVBoxLayout()
        self.start.body.addLayout(self.recent)
        self.filled = [self._build_picture(), self._build_detail(), self._build_kind()]
        for card in self.filled:
            card.hide()
        rights = self.add(Card("Before you cut"))
        rights.body.addWidget(
            faded("Make sure you may use the picture. Keep an untouched copy; this program never changes it.")
        )

    def show_recent(self, names: tuple[str, ...], choose: Callable[[str], None]) -> None:
        """Offer files opened before that are still there."""
        there = [name for name in names if Path(name).is_file()][:5]
        if there:
            self.recent.addWidget(faded("Opened before"))
        for name in there:
            button = QPushButton(Path(name).name)
            button.setToolTip(name)
            button.setProperty("choice", True)
            button.clicked.connect(lambda _=False, name=name: choose(name))
            self.recent.addWidget(button)

    def _build_picture(self) -> Card:
        picture = self.add(Card("Picture"))
        self.file = QLabel()
        self.file.setWordWrap(True)
        self.size = faded()
        picture.body.addWidget(self.file)
        picture.body.addWidget(self.size)
        self.open = QPushButton("Open another…")
        picture.body.addWidget(self.open)
        return picture

    def _build_detail(self) -> Card:
        detail = self.add(Card("What it is good for"))
        self.verdict = QLabel()
        self.verdict.setWordWrap(True)
        detail.body.addWidget(self.verdict)
        self.detail = faded()
        detail.body.addWidget(self.detail)
        return detail

    def _build_kind(self) -> Card:
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
        return kind

    def show_result(self, result: Result) -> None:
        """Show sizes and kind."""
        job, picture = self.model.job, self.model.picture
        if job is None or picture is None:
            return
        self.start.hide()
        for card in self.filled:
            card.show()
        self.file.setText(job.picture_name)
        self.size.setText(self._pixels())
        per_mm = result.finished.px_per_mm / result.scale
        unit = self.unit()
        finest = in_unit(2 / per_mm, unit, 2)
        report = self.model.report
        self.verdict.setText(report.verdict if report else "")
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
