"""The card for details that are picked by hand."""

import msgspec
from PySide6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QPushButton, QVBoxLayout

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, LogSlider, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.app.theme import theme
from sketchloom.core.job import Result, colour_at, ink_at
from sketchloom.core.palette import keys_of
from sketchloom.core.regions import Pick, usual_reach

__all__ = ["PicksCard"]

_OWN, _GROUND = "An ink of its own", "The ground"
_MOST = 48


class PicksCard(Card):
    """Areas chosen by their colour; each becomes an ink of its own, part of another, or ground.

    A pick is known by itself, never by its place in the list: what a row says
    is done to the pick that it was made of, or to nothing if that has gone.
    """

    def __init__(self, step: SeparateDesk) -> None:
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

    @property
    def _picks(self) -> tuple[Pick, ...]:
        return self._step.model.recipe.separate.picks

    def add_pick(self, at: tuple[float, float]) -> None:
        """Make an ink of the detail at a place."""
        result = self._step.model.result
        if result is None or not result.has("tones", "tidy", "palette"):
            return
        if len(self._picks) >= _MOST:
            self._step.model.said.emit(f"{_MOST} picked details are as many as can be kept.")
            return
        ink, seen = ink_at(result, at), colour_at(result, at)
        reach = usual_reach(seen, ink.found if ink else None) if seen else usual_reach((0, 0, 0), None)
        taken = (*result.tones.keys, *(pick.key for pick in self._picks))
        key = keys_of([seen], taken)[0] if seen else ""
        self._change("Pick a detail", (*self._picks, Pick(at, reach, key=key)))

    def _change(self, name: str, picks: tuple[Pick, ...], gesture: int | None = None) -> None:
        self._step.model.change(name, "separate", gesture, picks=picks)

    def _set(self, pick: Pick, gesture: int | None = None, **changes: object) -> None:
        new = tuple(
            msgspec.structs.replace(own, **changes) if own.at == pick.at and own.key == pick.key else own
            for own in self._picks
        )
        self._change("Picked detail", new, gesture)

    def remove(self, pick: Pick) -> None:
        """Take a pick back."""
        kept = tuple(own for own in self._picks if (own.at, own.key) != (pick.at, pick.key))
        self._change("Remove a picked detail", kept)

    def show_result(self, result: Result) -> None:
        """List the picks of the recipe in force."""
        usable = result.road.mode == "flat" or (result.road.mode == "photo" and not result.tones.cuts)
        self.setVisible(usable)
        if not usable:
            return
        known = result.recipe.separate.picks == self._picks
        keys = result.tones.picked if known else tuple(pick.key for pick in self._picks)
        lost = tuple(known and place in result.tones.unplaced for place in range(len(self._picks)))
        inks = tuple((ink.key, ink.name) for ink in self._step.inks_now() if ink.key not in keys)
        still = tuple(msgspec.structs.replace(pick, reach=0.0) for pick in self._picks)  # a slider keeps itself current
        colours = tuple(self._step.colour_of(key) for key in keys)
        shown = still, colours, inks, lost, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            for number, (pick, colour, away) in enumerate(zip(self._picks, colours, lost, strict=False), 1):
                self.rows.addWidget(self._row(number, pick, colour, inks, away))

    def _row(self, number: int, pick: Pick, colour: str, inks: tuple, lost: bool) -> QFrame:
        row = QFrame()
        row.setObjectName("row")
        row.setProperty("chosen", True)
        box = QVBoxLayout(row)
        box.setContentsMargins(6, 5, 6, 6)
        box.setSpacing(4)
        away = icon_button("x", f"Remove picked detail {number}", lambda: self.remove(pick))
        box.addWidget(ListRow(self._target(number, pick, inks), swatch(colour), behind=(away,)))
        if lost:
            box.addWidget(faded("Its place lies outside the picture; it does nothing."))
            return row
        reach = LogSlider(f"Reach of picked detail {number}", 1.0, 60.0)
        reach.setToolTip("How unlike in colour pixels may be that go with it")
        reach.show_value(pick.reach)
        reach.moved.connect(lambda value, gesture: self._set(pick, gesture, reach=round(value, 1)))
        reach.rested.connect(self._step.model.rest)
        line = QHBoxLayout()
        line.addWidget(faded("Reach", wrap=False))
        line.addWidget(reach, 1)
        box.addLayout(line)
        everywhere = QCheckBox("Everywhere, not only here")
        everywhere.setChecked(pick.everywhere)
        everywhere.clicked.connect(lambda on: self._set(pick, everywhere=on))
        box.addWidget(everywhere)
        return row

    def _target(self, number: int, pick: Pick, inks: tuple) -> Choice:
        target = Choice()
        target.setAccessibleName(f"What picked detail {number} becomes")
        target.addItem(_OWN)
        target.addItem(_GROUND)
        for _, name in inks:
            target.addItem(name)
        keys = [key for key, _ in inks]
        target.setCurrentIndex(1 if pick.ground else 2 + keys.index(pick.to) if pick.to in keys else 0)

        def choose(chosen: int) -> None:
            self._set(pick, ground=chosen == 1, to=keys[chosen - 2] if chosen > 1 else None)

        target.activated.connect(choose)
        return target
