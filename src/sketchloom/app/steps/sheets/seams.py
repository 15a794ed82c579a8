"""The card of seams: how what is too large for its sheet is parted."""

from PySide6.QtWidgets import QSizePolicy, QVBoxLayout

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, Elided, LengthField, faded
from sketchloom.app.measures import length_words
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, refilled
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.core.sheets import Layout, Seam, SheetSettings

__all__ = ["SeamCard", "seam_words"]

_KINDS = (("hidden", "Where it is hidden"), ("straight", "Straight"), ("none", "Not at all"))
_SEEN = 0.05
"""mm; a seam that is seen on less is hidden."""


def seam_words(seam: Seam, unit: str) -> str:
    """Say how long a seam is, and how much of it is seen."""
    length = length_words(seam.length, unit, 0)
    return f"{length}, {length_words(seam.visible, unit, 0) + ' seen' if seam.visible > _SEEN else 'hidden'}"


class SeamCard(Card):
    """Where a piece that is too large for its sheet is parted."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("Seams")
        self._step = step
        self.kind = Choice("How a piece too large for its sheet is parted")
        for key, words in _KINDS:
            self.kind.addItem(words, key)
        self.kind.activated.connect(lambda _: step.change("Seams", seam=self.kind.currentData()))
        self.row("Parted", self.kind)
        self.overlap = LengthField("Overlap at a seam", step.unit)
        self.overlap.setFixedWidth(90)
        self.overlap.committed.connect(lambda mm: step.length("Overlap at seams", "seam_overlap", mm))
        self.row("Overlap", self.overlap)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        self.told = faded("Every piece fits on its sheet whole.")
        self.body.addWidget(self.told)
        self._shown: object = None

    def show_settings(self, settings: SheetSettings, layout: Layout | None) -> None:
        """Show what is in force, and the seams that it led to."""
        self.kind.setCurrentIndex(self.kind.findData(settings.seam))
        self.overlap.show_mm(settings.seam_overlap)
        self.overlap.setEnabled(settings.seam != "none")
        unit = self._step.unit()
        if (id(layout), unit) == self._shown:
            return
        self._shown = id(layout), unit
        seams = layout.seams if layout is not None else ()
        self.aside.setText(str(len(seams)) if seams else "")
        self.told.setVisible(layout is not None and not seams and not layout.too_large)
        cuts = {cut.key: (cut, group) for group in layout.groups for cut in group.cuts} if layout is not None else {}
        with refilled(self.rows):
            for seam in seams:
                cut, group = cuts[seam.layer]
                words = Elided(f"{cut.name}: {seam_words(seam, unit)}")
                words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
                self.rows.addWidget(ListRow(words, swatch(group.colour, 14)))
