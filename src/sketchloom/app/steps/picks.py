"""The card of the Separate step for details that are picked by hand."""

from typing import TYPE_CHECKING

import msgspec
from PySide6.QtWidgets import QCheckBox, QComboBox, QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, LogSlider, faded
from sketchloom.app.steps.base import empty_rows, swatch
from sketchloom.app.theme import icon, theme
from sketchloom.core.job import Result, colour_at, ink_at
from sketchloom.core.regions import Ink, Pick, usual_reach

if TYPE_CHECKING:
    from sketchloom.app.steps.separate import SeparateStep

__all__ = ["PicksCard"]

_OWN, _GROUND = "An ink of its own", "The ground"


class PicksCard(Card):
    """Areas chosen by their colour; each becomes an ink of its own, part of another, or ground."""

    def __init__(self, step: "SeparateStep") -> None:
        super().__init__("Picked by hand")
        self._step = step
        self._shown: object = None
        self.body.addWidget(faded("A detail was missed, or an area belongs elsewhere? Click it on the picture."))
        self.pick = QPushButton("Pick a detail")
        self.pick.setCheckable(True)
        self.pick.clicked.connect(lambda on: step.draw_with("pick" if on else None))
        self.body.addWidget(self.pick)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(6)
        self.body.addLayout(self.rows)

    def add_pick(self, at: tuple[float, float]) -> None:
        """Make an ink of the detail at a place."""
        result = self._step.model.result
        if result is None:
            return
        ink, seen = ink_at(result, at), colour_at(result, at)
        reach = usual_reach(seen, ink.key if ink else None) if seen else usual_reach((0, 0, 0), None)
        self._change("Pick a detail", (*self._step.model.recipe.separate.picks, Pick(at, reach)))

    def _change(self, name: str, picks: tuple[Pick, ...], gesture: int | None = None) -> None:
        self._step.model.change(name, "separate", gesture, picks=picks)

    def _set(self, place: int, gesture: int | None = None, **changes: object) -> None:
        picks = list(self._step.model.recipe.separate.picks)
        picks[place] = msgspec.structs.replace(picks[place], **changes)
        self._change("Picked detail", tuple(picks), gesture)

    def remove(self, place: int) -> None:
        """Take a pick back."""
        picks = list(self._step.model.recipe.separate.picks)
        del picks[place]
        self._change("Remove a picked detail", tuple(picks))

    def show_result(self, result: Result) -> None:
        """List the picks."""
        tones = result.tones
        usable = tones.kind == "flat" or (tones.kind == "photo" and not tones.cuts)
        self.setVisible(usable)
        picks = self._step.model.recipe.separate.picks
        if not usable or (picks and tones.picked != len(picks)):
            return
        colours = tones.shown[len(tones.shown) - tones.picked :]
        inks = tuple((ink.key, ink.name) for ink in self._step.inks_now() if ink.key not in colours)
        still = tuple(msgspec.structs.replace(pick, reach=0.0) for pick in picks)  # a slider keeps itself up to date
        shown = still, colours, inks, tones.unplaced, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        empty_rows(self.rows)
        for place, (pick, colour) in enumerate(zip(picks, colours, strict=True)):
            self.rows.addWidget(self._row(place, pick, Ink("", colour).hex, inks, place in tones.unplaced))

    def _row(self, place: int, pick: Pick, colour: str, inks: tuple, lost: bool) -> QFrame:
        row = QFrame()
        row.setObjectName("row")
        row.setProperty("chosen", True)
        box = QVBoxLayout(row)
        box.setContentsMargins(6, 5, 6, 6)
        box.setSpacing(4)
        line = QHBoxLayout()
        mark = QLabel()
        mark.setPixmap(swatch(colour))
        line.addWidget(mark)
        line.addWidget(self._target(place, pick, inks), 1)
        away = QPushButton()
        away.setIcon(icon("x", theme.tokens.ink, 14))
        away.setFixedSize(26, 26)
        away.setAccessibleName(f"Remove picked detail {place + 1}")
        away.clicked.connect(lambda: self.remove(place))
        line.addWidget(away)
        box.addLayout(line)
        if lost:
            box.addWidget(faded("Its place lies outside the picture; it does nothing."))
            return row
        reach = LogSlider(f"Reach of picked detail {place + 1}", 1.0, 60.0)
        reach.setToolTip("How unlike in colour pixels may be that go with it")
        reach.show_value(pick.reach)
        reach.moved.connect(lambda value, gesture: self._set(place, gesture, reach=round(value, 1)))
        reach.rested.connect(self._step.model.rest)
        line = QHBoxLayout()
        line.addWidget(faded("Reach", wrap=False))
        line.addWidget(reach, 1)
        box.addLayout(line)
        everywhere = QCheckBox("Everywhere, not only here")
        everywhere.setChecked(pick.everywhere)
        everywhere.clicked.connect(lambda on: self._set(place, everywhere=on))
        box.addWidget(everywhere)
        return row

    def _target(self, place: int, pick: Pick, inks: tuple) -> QComboBox:
        target = QComboBox()
        target.setAccessibleName(f"What picked detail {place + 1} becomes")
        target.addItem(_OWN)
        target.addItem(_GROUND)
        for _, name in inks:
            target.addItem(name)
        keys = [key for key, _ in inks]
        target.setCurrentIndex(1 if pick.ground else 2 + keys.index(pick.to) if pick.to in keys else 0)

        def choose(chosen: int) -> None:
            self._set(place, ground=chosen == 1, to=keys[chosen - 2] if chosen > 1 else None)

        target.activated.connect(choose)
        return target
