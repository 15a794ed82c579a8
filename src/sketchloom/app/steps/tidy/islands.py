"""The card with the islands of a stencil, and the bridges that hold them."""

from typing import get_args

import msgspec
import numpy as np
from PySide6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout

from sketchloom.app.canvas.tools.bridges import Ends
from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, CountSlider, LengthField, faded
from sketchloom.app.steps.list_row import ListRow, refilled, small_button, smaller_ones
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.app.steps.tidy.fine import too_fine
from sketchloom.core.job import Result
from sketchloom.core.measures import area_words
from sketchloom.core.picture import source_points
from sketchloom.core.regions import ground_key
from sketchloom.core.tidy import (
    MOST_BRIDGES,
    Bridge,
    Bridging,
    Direction,
    Island,
    cut_labels,
    find_islands,
    proposed_bridges,
)

__all__ = ["IslandsCard"]

_MOST_SHOWN = 8
_WAYS = {"nearest": "To the nearest", "upright": "Upright", "level": "Level"}


class IslandsCard(Card):
    """What would fall out of a sheet from which the inks are cut away; each can be held."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Islands")
        self._step = step
        self._shown: object = None
        self.words = faded()
        self.body.addWidget(self.words)
        self.width = LengthField("Width of a bridge", step.unit, decimals=2)
        self.width.setFixedWidth(90)
        self.width.show_mm(2.0)
        self.width.committed.connect(self._set_width)
        self.row("Bridges are wide", self.width)
        self.way = Choice()
        self.way.setAccessibleName("Direction of bridges")
        self.way.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.way.setMinimumContentsLength(9)
        for key in get_args(Direction):
            self.way.addItem(_WAYS[key], key)
        self.way.activated.connect(lambda _: self._follow())
        self.row("They run", self.way)
        self.count = CountSlider("Bridges of an island")
        self.count.show_count(2, MOST_BRIDGES)
        self.many = faded("2 an island", wrap=False)
        self.count.moved.connect(lambda value, gesture: self._set_count(int(value), gesture))
        self.count.rested.connect(step.model.rest)
        line = self.row(self.many)
        line.addWidget(self.count, 1)
        self.always = QCheckBox("Always hold every island")
        self.always.setToolTip("Islands that come with other settings are held too")
        self.always.clicked.connect(self._switch)
        self.body.addWidget(self.always)
        self.all = QPushButton("Hold all islands")
        self.all.clicked.connect(self.hold_all)
        self.body.addWidget(self.all)
        self.tool = QPushButton("Lay or drag bridges")
        self.tool.setCheckable(True)
        self.tool.clicked.connect(lambda on: step.draw_with("bridge" if on else "choose"))
        self.body.addWidget(self.tool)
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)

    @property
    def _rule(self) -> Bridging:
        return Bridging(self.width.mm or 2.0, self.count.value(), self.way.currentData())

    def _switch(self, on: bool) -> None:
        name = "Hold every island" if on else "Hold islands by hand"
        self._step.model.change(name, "tidy", bridges=self._rule if on else None)

    def _set_width(self, mm: float) -> None:
        self.width.show_mm(min(max(mm, 0.05), 1000.0))
        self._follow()

    def _set_count(self, count: int, gesture: int) -> None:
        self.many.setText(f"{count} an island")
        self._follow(gesture)

    def _follow(self, gesture: int | None = None) -> None:
        """Where bridges come by themselves, lay them as the fields say now."""
        if self._step.model.recipe.tidy.bridges is not None:
            self._step.model.change("Bridges", "tidy", gesture, bridges=self._rule)

    def _hold(self, name: str, which: int | None) -> None:
        """Look for bridges that hold one island, by its place among those of the newest result, or all; lay them."""
        result, model = self._step.model.result, self._step.model
        if result is None or not result.has("tidy", "scale", "picture"):
            return
        wide, count, way = self.width.mm or 2.0, self.count.value(), self.way.currentData()

        def look(_: object) -> list[Bridge]:
            regions = result.regions
            cut = cut_labels(regions.labels, regions.keys, result.recipe.tidy.cut_away, ground_key(result.ground))
            islands, parts = find_islands(regions.labels, cut)
            numbers = range(1, len(islands) + 1)
            ends = proposed_bridges(parts, numbers, count, wide * result.scale.px_per_mm, way)
            own = ends if which is None else ends[which : which + 1]  # as they lie among those of the others
            places = [source_points(result.picture, np.array(two, float)) for bridges in own for two in bridges]
            return [Bridge(first=first, last=last, width=wide) for first, last in places]

        def lay(bridges: list[Bridge]) -> None:
            if model.result is not None and model.result.picture is not result.picture:
                return  # another picture came meanwhile
            if bridges:
                self._step.add_work(name, *bridges, mirrored=False)
            else:
                model.said.emit("No bridge finds a place there; lay one by hand.")

        model.side.enqueue(look, lay, "tidy")

    def laid(self) -> list[Ends]:
        """Ends of the bridges that were laid by hand."""
        return [
            (one.first, one.last) for one in self._step.model.recipe.tidy.work if isinstance(one, Bridge) and one.on
        ]

    def move_bridge(self, move: tuple[Ends, Ends]) -> None:
        """Lay a bridge elsewhere."""
        before, after = move
        work = self._step.model.recipe.tidy.work
        moved = tuple(
            msgspec.structs.replace(one, first=after[0], last=after[1])
            if isinstance(one, Bridge) and (one.first, one.last) == before
            else one
            for one in work
        )
        self._step.model.change("Drag a bridge", "tidy", work=moved)

    def hold_all(self) -> None:
        """Lay bridges to every island."""
        self._hold("Hold all islands", None)

    def show_result(self, result: Result) -> None:
        """List the islands."""
        rule = self._step.model.recipe.tidy.bridges
        self.always.setChecked(rule is not None)
        if rule is not None:
            self.width.show_mm(rule.width)
            self.count.show_count(rule.count, MOST_BRIDGES)
            self.many.setText(f"{rule.count} an island")
            self.way.setCurrentIndex(self.way.findData(rule.direction))
        islands = result.tidied.islands
        many = len(islands)
        laid = result.tidied.bridges + sum(isinstance(one, Bridge) and one.on for one in result.recipe.tidy.work)
        self.aside.setText(f"{many} would fall out" if many else f"{laid} bridges" if laid else "")
        self.setVisible(bool(many or laid or rule is not None))
        held = f" {laid} bridge{'s' * (laid != 1)} laid." if laid else ""
        self.words.setText(
            f"As a stencil {many} island{'s' * (many != 1)} would fall out.{held}"
            if many
            else f"As a stencil nothing would fall out.{held}"
        )
        fine = too_fine("bridge", self.width.mm or 0.0, result.scale.px_per_mm)
        if fine:
            self.words.setText(f"{self.words.text()} {fine}")
        self.all.setEnabled(bool(many) and not result.preview)
        shown = islands[:_MOST_SHOWN], many, result.preview
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            if result.preview:
                return
            for place, island in enumerate(islands[:_MOST_SHOWN]):
                self.rows.addWidget(self._row(result, place, island))
            if many > _MOST_SHOWN:
                self.rows.addWidget(faded(f"and {smaller_ones(many - _MOST_SHOWN)}"))

    def _row(self, result: Result, place: int, island: Island) -> ListRow:
        area = island.area / result.scale.px_per_mm**2
        words = area_words(area, self._step.unit())
        hold = small_button("Hold it", lambda: self._hold("Hold an island", place), f"Hold island {place + 1}")
        return ListRow(words, str(place + 1), behind=(hold,))
