"""The page of preferences: a maker's own choices, in force at once, and the file of the whole workshop."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import msgspec
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFileDialog, QFormLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from sketchloom.app.controls import Choice, Number, fill_box
from sketchloom.app.fields import Card, faded
from sketchloom.app.job_model import JobModel
from sketchloom.app.over import OverPage
from sketchloom.app.settings import CHOICES, Settings
from sketchloom.app.shelf import OwnShelf
from sketchloom.core.errors import JobError, SketchLoomError
from sketchloom.core.opening import read_plain
from sketchloom.core.send import write_all
from sketchloom.core.stock import Workshop, decode_workshop, encode_workshop
from sketchloom.core.threads import MOST_THREADS

__all__ = ["PreferencesPage"]

_MOST_BYTES = 8_000_000


class PreferencesPage(OverPage):
    """One small page.

    Parameters
    ----------
    model : JobModel
        Whose shelves stocks and cutters are chosen from.
    settings : callable
        Gives those in force.
    parent : QWidget
    """

    changed = Signal(object)
    """Settings, by name, that are in force from now on."""
    said = Signal(str)

    def __init__(self, model: JobModel, settings: Callable[[], Settings], parent: QWidget) -> None:
        super().__init__("Preferences", "Each is in force at once.", parent)
        self._model, self._settings = model, settings
        card = Card("How the program works")
        form = QFormLayout()
        form.setHorizontalSpacing(18)
        form.setVerticalSpacing(8)
        card.body.addLayout(form)
        self._form = form
        self.unit = self._choice("Lengths in", "unit", [("mm", "mm"), ("cm", "cm"), ("inches", "in")])
        self.theme = self._choice("Look", "theme", [("As the system", None), ("Light", "light"), ("Dark", "dark")])
        self.threads = Number()
        self.threads.setRange(0, MOST_THREADS)
        self.threads.setSpecialValueText("One a core")
        self.threads.setButtonSymbols(Number.ButtonSymbols.NoButtons)
        self.threads.valueChanged.connect(lambda value: self._take(threads=value))
        self._add("Threads on one picture", self.threads)
        self.stock = self._choice("A new job begins with", "stock", [])
        self.cutter = self._choice("and is cut on", "cutter", [])
        self.paper = self._choice("Paper of job sheets", "paper", [("A4", "a4"), ("Letter", "letter")])
        self.folder = self._place("Pictures and jobs lie in", "folder", "Where the last one was")
        self.send_folder = self._place("Files for cutters go to", "send_folder", "Where the job is")
        self.column.addWidget(card)
        shop = Card("The whole workshop")
        shop.body.addWidget(
            faded("Stocks, cutters, presets and these settings in one file: for another machine, or to keep safe.")
        )
        self.give, self.bring = QPushButton("Export the workshop…"), QPushButton("Import a workshop…")
        self.give.clicked.connect(self._give)
        self.bring.clicked.connect(self._bring)
        line = QHBoxLayout()
        line.addWidget(self.give)
        line.addWidget(self.bring)
        line.addStretch(1)
        shop.body.addLayout(line)
        self.column.addWidget(shop)
        self.column.addStretch(1)
        for shelf in (model.shelf, model.machines):
            shelf.changed.connect(self.show_settings)

    def _add(self, words: str, widget: QWidget) -> None:
        widget.setAccessibleName(words)
        widget.setMaximumWidth(380)
        label = QLabel(words)
        label.setBuddy(widget)
        self._form.addRow(label, widget)

    def _choice(self, words: str, name: str, rows: Sequence[tuple[str, Any]]) -> Choice:
        box = Choice()
        for label, value in rows:
            box.addItem(label, value)
        box.activated.connect(lambda _: self._take(**{name: box.currentData()}))
        self._add(words, box)
        return box

    def _place(self, words: str, name: str, unset: str) -> QPushButton:
        """A button that tells a folder, and chooses another; the small one beside it lets go of it."""
        button, clear = QPushButton(), QPushButton("Any")
        button.setProperty("unset", unset)
        button.clicked.connect(lambda: self._choose(name, words))
        clear.clicked.connect(lambda: self._take(**{name: ""}))
        clear.setAccessibleName(f"{words}: any")
        clear.setToolTip(unset)
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(button, 1)
        line.addWidget(clear)
        self._add(words, row)
        button.setAccessibleName(words)
        return button

    def open(self) -> None:
        """Show it."""
        super().open()
        self.show_settings()
        self.unit.setFocus(Qt.FocusReason.OtherFocusReason)

    def show_settings(self) -> None:
        """Show what is in force."""
        if not self.isVisible():
            return
        now = self._settings()
        for box, value in ((self.unit, now.unit), (self.theme, now.theme), (self.paper, now.paper)):
            box.setCurrentIndex(max(0, box.findData(value)))
        self.threads.blockSignals(True)
        self.threads.setValue(now.threads)
        self.threads.blockSignals(False)
        for box, unset, shelf, name in (
            (self.stock, "Any stock", self._model.shelf, now.stock),
            (self.cutter, "Any cutter", self._model.machines, now.cutter),
        ):
            names = [thing.name for thing in shelf.things]
            gone = [(f"{name} (not on the shelf)", name)] if name and name not in names else []
            fill_box(box, [(unset, ""), *((one, one) for one in names), *gone], name)
        for button, folder in ((self.folder, now.folder), (self.send_folder, now.send_folder)):
            button.setText(Path(folder).name or folder if folder else button.property("unset"))
            button.setToolTip(folder or button.property("unset"))

    def _take(self, **changes: object) -> None:
        self.changed.emit(changes)
        self.show_settings()

    def _choose(self, name: str, words: str) -> None:
        folder = QFileDialog.getExistingDirectory(self, words, getattr(self._settings(), name))
        if folder:
            self._take(**{name: folder})

    @property
    def _shelves(self) -> tuple[OwnShelf, OwnShelf, OwnShelf]:
        return self._model.shelf, self._model.machines, self._model.presets

    def _give(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Export the workshop", "workshop.json", "Workshop (*.json)")
        if not name:
            return
        path = Path(name) if Path(name).suffix else Path(name).with_suffix(".json")
        settings = {choice: getattr(self._settings(), choice) for choice in CHOICES}
        try:
            write_all({path: encode_workshop(Workshop(*(shelf.things for shelf in self._shelves), settings))})
        except SketchLoomError as error:
            self.said.emit(str(error))
            return
        stocks, cutters, presets = (len(shelf.things) for shelf in self._shelves)
        self.said.emit(f"Saved {stocks} stocks, {cutters} cutters and {presets} presets as {path.name}.")

    def _bring(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Import a workshop", "", "Workshop (*.json)")
        if name:
            self.take_in(Path(name))

    def take_in(self, path: Path) -> None:
        """Add what a file holds, and take its settings; nothing of it where a part cannot be used."""
        try:
            found = decode_workshop(read_plain(path, JobError, _MOST_BYTES), path.name)
            known = {name: value for name, value in found.settings.items() if name in CHOICES}
            msgspec.convert(known, Settings)
        except SketchLoomError as error:
            self.said.emit(str(error))
            return
        except msgspec.ValidationError as error:
            self.said.emit(f"{path.name} holds settings that cannot be used ({error}).")
            return
        added = [
            f"{many} {shelf.kind.one if many == 1 else shelf.kind.many}"
            for shelf, things in zip(self._shelves, found[:3], strict=True)
            if things and (many := shelf.take(things))
        ]
        if known:
            self._take(**known)
        told = ", ".join(added) or ("No thing that is not here already" if any(found[:3]) else "Nothing")
        self.said.emit(f"{told} added from {path.name}{', and its settings taken' if known else ''}.")
