"""The card that makes sheets ready for the knife: kerf, marks, a hanging hole, weeding and tabs."""

from typing import Any

import msgspec
from PySide6.QtWidgets import QCheckBox

from sketchloom.app.controls import Choice, Number
from sketchloom.app.fields import Card, LengthField, faded
from sketchloom.app.steps.sheets.desk import SheetsDesk
from sketchloom.core.errors import ArgumentError
from sketchloom.core.measures import in_unit, length_words
from sketchloom.core.sheets import Ready, SheetSettings, check_ready

__all__ = ["KnifeCard"]

_MARKS = (("none", "None"), ("corners", "Corners"), ("crosses", "Crosses"), ("holes", "Holes"))
_WEEDING = (("none", "None"), ("pieces", "Round pieces"), ("sheet", "Round all on a sheet"))
_HOLE = (5.0, 5.0)
"""mm: diameter of a hanging hole and its distance from edges, until others are typed."""


class KnifeCard(Card):
    """What is done to sheets before they are cut."""

    def __init__(self, step: SheetsDesk) -> None:
        super().__init__("For the knife")
        self._step = step
        self.kerf = self._length("Kerf", "kerf", 2)
        self.kerf.setToolTip(
            "What the tool takes away: outlines are led half of it aside, so that parts keep their size"
        )
        self.blade = self._length("Blade offset", "blade_offset", 2)
        self.blade.setToolTip(
            "How far the point of a blade that swivels trails its axis. Files then lead the axis, round corners too; "
            "leave it 0 where the cutter's own program does that."
        )
        self.told = faded()
        self.body.addWidget(self.told)
        self.overcut = self._length("Overcut", "overcut", 2)
        self.overcut.setToolTip("How far the tool runs on where an outline closes")
        self.marks = self._choice("Marks", "marks", _MARKS)
        self.marks.setToolTip("At the same place on every layer that lies in register")
        self.weeding = self._choice("Weeding boxes", "weeding", _WEEDING)
        self.margin = self._length("Margin of boxes", "weeding_margin", 1)
        self.lines = QCheckBox("Part large waste by lines")
        self.lines.clicked.connect(lambda on: self._change("Weeding lines", weeding_lines=on))
        self.body.addWidget(self.lines)
        self.hanging = QCheckBox("A hanging hole")
        self.hanging.setToolTip("Above the middle of the area, through every layer that lies there")
        self.hanging.clicked.connect(lambda on: self._change("Hanging hole", hole=_HOLE if on else None))
        self.body.addWidget(self.hanging)
        self.hole = LengthField("Diameter of the hanging hole", step.unit, decimals=1)
        self.away = LengthField("Distance of the hanging hole from edges", step.unit, decimals=1)
        self._hole_rows = []
        for place, (words, field) in enumerate((("Diameter", self.hole), ("From edges", self.away))):
            field.setFixedWidth(90)
            field.committed.connect(lambda mm, place=place: self._take_hole(place, mm))
            self._hole_rows.append((self.row(words, field).itemAt(0).widget(), field))
        self.tabs = Number()
        self.tabs.setRange(0, 100)
        self.tabs.setButtonSymbols(Number.ButtonSymbols.NoButtons)
        self.tabs.setFixedWidth(60)
        self.tabs.setSpecialValueText("none")
        self.tabs.setAccessibleName("Tabs of a piece")
        self.tabs.setToolTip("Places that stay uncut and hold a piece in its sheet")
        self.tabs.valueChanged.connect(lambda many: self._change("Tabs", tabs=many))
        self.row("Tabs of a piece", self.tabs)
        self.tab_width = self._length("Width of a tab", "tab_width", 1)

    def _length(self, words: str, setting: str, decimals: int) -> LengthField:
        field = LengthField(words, self._step.unit, decimals=decimals)
        field.setFixedWidth(90)
        field.committed.connect(lambda mm: self._change(words, **{setting: mm}))
        self.row(words, field)
        return field

    def _choice(self, words: str, setting: str, entries: tuple[tuple[str, str], ...]) -> Choice:
        box = Choice(words)
        for key, name in entries:
            box.addItem(name, key)
        box.activated.connect(lambda _: self._change(words, **{setting: box.currentData()}))
        self.row(words, box)
        return box

    def _take_hole(self, place: int, mm: float) -> None:
        old = self._step.model.recipe.sheets.ready.hole or _HOLE
        self._change("Hanging hole", hole=(mm, old[1]) if place == 0 else (old[0], mm))

    def _change(self, words: str, **changes: Any) -> None:
        ready = msgspec.structs.replace(self._step.model.recipe.sheets.ready, **changes)
        try:
            check_ready(ready)
        except ArgumentError as error:
            self._step.model.said.emit(str(error))
            self._step.refresh()
            return
        self._step.change(words, ready=ready)

    def show_settings(self, settings: SheetSettings) -> None:
        """Show what is in force."""
        ready, unit = settings.ready, self._step.unit()
        self.kerf.show_mm(ready.kerf)
        self.blade.show_mm(ready.blade_offset)
        told = _cutter_words(settings, unit)
        self.told.setText(told)
        self.told.setVisible(bool(told))
        own = settings.cutter.overcut if settings.cutter is not None else 0.0
        self.overcut.show_mm(own if ready.overcut is None else ready.overcut)
        for box, value in ((self.marks, ready.marks), (self.weeding, ready.weeding)):
            box.setCurrentIndex(box.findData(value))
        self.margin.show_mm(ready.weeding_margin)
        self.margin.setEnabled(ready.weeding != "none" or ready.weeding_lines)
        self.lines.setChecked(ready.weeding_lines)
        self.hanging.setChecked(ready.hole is not None)
        for label, field in self._hole_rows:
            label.setVisible(ready.hole is not None)
            field.setVisible(ready.hole is not None)
        if ready.hole is not None:
            self.hole.show_mm(ready.hole[0])
            self.away.show_mm(ready.hole[1])
        for field, value in ((self.tabs, ready.tabs),):
            field.blockSignals(True)
            field.setValue(value)
            field.blockSignals(False)
        self.tab_width.show_mm(ready.tab_width)
        self.tab_width.setEnabled(ready.tabs > 0)
        self.aside.setText(_aside(ready, unit))


def _cutter_words(settings: SheetSettings, unit: str) -> str:
    """Say what the cutter takes away, or how its blade trails, where files do not allow for it."""
    cutter, ready = settings.cutter, settings.ready
    if cutter is None or ready.kerf or ready.blade_offset:
        return ""
    if cutter.tool > 0:
        return f"This cutter takes {in_unit(cutter.tool, unit, 2)} {unit} away."
    trails = (
        f"The blade of this cutter trails by {in_unit(cutter.blade_offset, unit, 2)} {unit}; its program allows for it."
    )
    return trails if cutter.blade_offset > 0 else ""


def _aside(ready: Ready, unit: str) -> str:
    """What is done, in few words."""
    words = [
        f"kerf {length_words(ready.kerf, unit, 2)}" if ready.kerf else "",
        f"blade {length_words(ready.blade_offset, unit, 2)}" if ready.blade_offset else "",
        "marks" if ready.marks != "none" else "",
        "weeding" if ready.weeding != "none" or ready.weeding_lines else "",
        "hole" if ready.hole is not None else "",
        "tabs" if ready.tabs else "",
    ]
    some = [word for word in words if word]
    return ", ".join(some) if len(some) < 3 else f"{len(some)} things"
