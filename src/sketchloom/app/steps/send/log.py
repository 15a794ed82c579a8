"""The card that logs a cut, and tells what the logbook knows of the job's stocks."""

import time
from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.controls import Choice, fill_box, narrow_box
from sketchloom.app.fields import Card, Field, faded
from sketchloom.app.job_model import JobModel
from sketchloom.app.log_model import Known, LogModel
from sketchloom.app.more_fields import TimeField
from sketchloom.app.steps.list_row import refilled, small_button
from sketchloom.core.job import Recipe, entries_of
from sketchloom.core.logbook import RESULTS, RULE, Entry
from sketchloom.core.measures import time_words, when_words
from sketchloom.core.sheets import Figures, Layout
from sketchloom.core.stock import preset_for, preset_words

__all__ = ["LogCard"]

Laid = tuple[Recipe, Layout, Figures]


class LogCard(Card):
    """One stock at a time, or all.

    Parameters
    ----------
    model : JobModel
    """

    photo_wanted = Signal(object)

    def __init__(self, model: JobModel) -> None:
        super().__init__("Logbook")
        self._model = model
        self._log: LogModel | None = None
        self._laid: Callable[[], Laid | None] = lambda: None
        self._entries: tuple[Entry, ...] = ()
        self._known: Known | None = None
        self._photo: Path | None = None
        self.told = faded("Say what was cut and how it went: next time it is offered.")
        self.body.addWidget(self.told)
        self.which = narrow_box("What was cut")
        self.which.activated.connect(lambda _: self._tell())
        self.body.addWidget(self.which)
        self.hints = faded()
        self.body.addWidget(self.hints)
        self.offers = QVBoxLayout()
        self.offers.setSpacing(4)
        self.body.addLayout(self.offers)
        self.result = Choice("How it went")
        for one in RESULTS:
            self.result.addItem(one.capitalize() or "Not told", one)
        self.result.setCurrentIndex(RESULTS.index(""))
        self.taken = TimeField("Time that it took")
        self.taken.setPlaceholderText("took")
        self.taken.setFixedWidth(84)
        self.row(self.result, self.taken)
        self.note = Field()
        self.note.setPlaceholderText("Note")
        self.note.setAccessibleName("Note of the cut")
        self.body.addWidget(self.note)
        self.photo = small_button("Photograph…", lambda: self.photo_wanted.emit(self._take_photo))
        self.open = small_button("Open the logbook", lambda: None)
        self.row(self.photo, self.open)
        self.log = QPushButton("Log this cut")
        self.log.clicked.connect(self._write)
        self.body.addWidget(self.log)
        self.unfolded.connect(self.show_job)

    def follow(self, log: LogModel, laid: Callable[[], Laid | None]) -> None:
        """Take hold of the logbook, and of the sheets that are cut."""
        self._log, self._laid = log, laid
        log.changed.connect(self.show_job)
        log.said.connect(lambda _: self.log.setEnabled(bool(self._entries)))  # logged, or not

    def show_job(self) -> None:
        """Show what would be logged of the job in hand, unless it is folded away."""
        laid, job = self._laid(), self._model.job
        if self.folded or self._log is None or job is None:
            return
        recipe = self._model.recipe
        presets = self._model.presets.things
        self._entries = () if laid is None else entries_of(job.name, *laid, presets)
        named = [(f"{one.stock or 'Any stock'}, {one.what}", number) for number, one in enumerate(self._entries)]
        rows = [("All sheets", -1), *named] if len(named) != 1 else named
        fill_box(self.which, rows, self.which.currentData())
        self.log.setEnabled(bool(self._entries))
        self._tell()
        cutter = recipe.sheets.cutter
        stocks = [one.stock for one in self._entries if one.stock]
        self._log.know(job.name[:200], stocks, cutter.name if cutter is not None else "", self._on_known)

    def _on_known(self, known: Known) -> None:
        self._known = known
        self._tell()

    @property
    def chosen(self) -> tuple[Entry, ...]:
        """What would be logged, without what is told of it."""
        number = self.which.currentData()
        return self._entries if number in (None, -1) else self._entries[number : number + 1]

    @property
    def _used(self) -> dict[str, float]:
        """What would be used of each stock."""
        out: dict[str, float] = {}
        for one in self.chosen:
            out[one.stock] = out.get(one.stock, 0.0) + one.used
        return out

    def _tell(self) -> None:
        entries, known = self.chosen, self._known
        planned = sum(one.planned for one in entries)
        lines = [f"Planned {time_words(planned)}." if entries else "The sheets are not laid yet."]
        if known is not None and entries:
            correction = known.correction
            if correction.times != 1.0:
                corrected = time_words(planned * correction.times)
                lines[0] = f"Planned {time_words(planned)}; as {correction.cuts} logged cuts went, {corrected}."
            for stock, used in self._used.items():
                there = known.on_hand.get(stock.casefold())
                if there is not None:
                    left = there.amount - used
                    more = "; not enough" if left < 0 else "; then less than the least" if left < there.least else ""
                    lines.append(f"{stock}: takes {used:g} of {there.amount:g} on hand{more}.")
            if known.cuts:
                cost = f", stock for {known.cost:.2f}" if known.cost else ""
                lines.append(f"This job was cut {known.cuts} time{'s' * (known.cuts != 1)}{cost}.")
        self.hints.setText("\n".join(lines))
        self.hints.setToolTip(RULE)
        self._offer()

    def _offer(self) -> None:
        """Offer what worked last, where the preset in force is another."""
        shelf, cutter = self._model.presets, self._model.recipe.sheets.cutter
        with refilled(self.offers):
            for name in self._used:
                good = self._known.last_good.get(name) if self._known is not None else None
                if good is None or good.preset is None:
                    continue
                force = preset_for(shelf.things, self._model.shelf.thing(name), cutter)
                if force is not None and preset_words(force) == preset_words(good.preset):
                    continue
                self.offers.addWidget(
                    faded(f"{name} on {good.cutter} went well {when_words(good.at)}: {preset_words(good.preset)}.")
                )
                use = small_button("Set it so again", lambda good=good, force=force: self._use(good, force))
                use.setToolTip("Changes the preset on the shelf; undo takes that back")
                self.offers.addWidget(use)

    def _use(self, good: Entry, force: object) -> None:
        shelf, preset = self._model.presets, good.preset
        if preset is None:
            return
        old = None if force is None else shelf.thing(force.name)
        if old is None:
            shelf.add(msgspec.structs.replace(preset, stock=good.stock[:40], cutter=good.cutter[:40]))
        else:
            shelf.change(old.name, force=preset.force, speed=preset.speed, passes=preset.passes, tool=preset.tool)
        self.show_job()

    def _take_photo(self, path: Path) -> None:
        self._photo = path
        self.photo.setText(path.name if len(path.name) < 18 else f"{path.name[:15]}…")

    def _write(self) -> None:
        entries = self.chosen
        if self._log is None or not entries:
            return
        planned = sum(one.planned for one in entries)
        taken, now = self.taken.seconds, int(time.time())
        told = [
            msgspec.structs.replace(
                one, at=now, result=self.result.currentData(), note=self.note.text(),
                taken=None if taken is None else taken * (one.planned / planned if planned else 1 / len(entries)),
            )
            for one in entries
        ]  # fmt: skip
        self.log.setEnabled(False)  # a second click is no second cut
        self._log.log(told, self._photo, self._clear)

    def _clear(self) -> None:
        """Forget what was told of a cut, once it is in the logbook."""
        self._photo = None
        self.photo.setText("Photograph…")
        self.taken.show_value(None)
        self.note.show_text("")
        self.note.setText("")
