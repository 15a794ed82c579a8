"""The card of seams: how what is too large for its sheet is parted."""

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, Elided, LengthField, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled, small_button
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.app.theme import theme
from sketchloom.core.measures import length_words
from sketchloom.core.sheets import Layout, Seam, SheetSettings

__all__ = ["SEEN", "SeamCard", "seam_words"]

_KINDS = (
    ("hidden", "Where it is hidden"), ("straight", "Straight"), ("stepped", "In steps"), ("none", "Not at all"),
)  # fmt: skip
SEEN = 0.05
"""mm; a seam that is seen on less is hidden."""


def seam_words(seam: Seam, unit: str) -> str:
    """Say what a seam costs: its length, how much of it is seen, and how often it bends."""
    length = length_words(seam.length, unit, 0)
    if seam.visible <= SEEN:
        seen = " hidden"
    elif seam.visible > seam.length - SEEN:
        seen = " seen"
    else:
        seen = f", {length_words(seam.visible, unit, 0)} seen"
    bends = f", {seam.bends} bend{'s' * (seam.bends > 1)}" if seam.bends else ""
    return f"{length}{seen}{bends}"


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
        self.numbers = QCheckBox("Number both sides, for a pen")
        self.numbers.setToolTip("Small figures beside each seam, under upper layers where that is possible")
        self.numbers.clicked.connect(lambda on: step.change("Numbers of seams", seam_numbers=on))
        self.body.addWidget(self.numbers)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        self.told = faded("Every piece fits on its sheet whole.")
        self.body.addWidget(self.told)
        self.idle = faded()
        self.body.addWidget(self.idle)
        line = QHBoxLayout()
        self.move = QPushButton("Move seams")
        self.move.setProperty("small", True)
        self.move.setCheckable(True)
        self.move.setToolTip("Shows the design with its seams, which can be dragged")
        self.move.clicked.connect(lambda on: step.draw_with("seams" if on else "lay"))
        self.back = small_button("Take all back", lambda: step.change("Seams by hand taken back", seams=()))
        self.back.setToolTip("All seams are found anew")
        line.addWidget(self.move)
        line.addWidget(self.back)
        line.addStretch()
        self.body.addLayout(line)
        self._shown: object = None

    def show_settings(self, settings: SheetSettings, layout: Layout | None) -> None:
        """Show what is in force, and the seams that it led to."""
        self.kind.setCurrentIndex(self.kind.findData(settings.seam))
        self.overlap.show_mm(settings.seam_overlap)
        self.numbers.setChecked(settings.seam_numbers)
        for widget in (self.overlap, self.numbers):
            widget.setEnabled(settings.seam != "none")
        self.back.setVisible(bool(settings.seams))
        unit = self._step.unit()
        if (id(layout), unit, theme.is_dark) == self._shown:
            return
        self._shown = id(layout), unit, theme.is_dark
        seams = layout.seams if layout is not None else ()
        self.move.setVisible(bool(seams))
        self.aside.setText(_aside(seams, unit))
        self.told.setVisible(layout is not None and not seams and not layout.too_large)
        idle = len(layout.idle_seams) if layout is not None else 0
        self.idle.setText(f"{idle} seam{'s' * (idle > 1)} by hand part{'s' * (idle == 1)} nothing now.")
        self.idle.setVisible(idle > 0)
        cuts = {cut.key: (cut, group) for group in layout.groups for cut in group.cuts} if layout is not None else {}
        with refilled(self.rows):
            for place, seam in enumerate(seams):
                cut, group = cuts[seam.layer]
                words = Elided(f"{seam_words(seam, unit)}{', by hand' if seam.by_hand else ''}")
                words.setAccessibleName(f"Seam {seam.number} of {cut.name}: {words.text()}")
                words.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
                self.rows.addWidget(
                    ListRow(words, swatch(group.colour, 14), str(seam.number), behind=self._other(place, seam, unit))
                )

    def _other(self, place: int, seam: Seam, unit: str) -> tuple[QPushButton, ...]:
        """A button that takes the next best seam, where there is one."""
        if seam.other is None or not self._step.is_own(seam.layer):
            return ()
        words = f"Take the next best for seam {seam.number}: {seam_words(seam.other, unit)}"
        return (icon_button("chevron-right", words, lambda: self._step.take_other(place)),)


def _aside(seams: tuple[Seam, ...], unit: str) -> str:
    """How many there are, and what of them is seen."""
    if not seams:
        return ""
    seen = sum(seam.visible for seam in seams if seam.visible > SEEN)
    return f"{len(seams)}, {length_words(seen, unit, 0) + ' seen' if seen else 'hidden'}"
