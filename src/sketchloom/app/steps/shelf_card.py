"""A card that shows a shelf: one thing at a time, made, changed, copied, brought in and given out."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout

from sketchloom.app.controls import Choice, narrow_box
from sketchloom.app.fields import Card, Field, LengthField, faded
from sketchloom.app.shelf import OwnShelf
from sketchloom.app.steps.desk import Desk
from sketchloom.app.steps.list_row import small_button

__all__ = ["ShelfCard"]


class ShelfCard(Card):
    """One thing of a shelf at a time; a job keeps the thing that it was made with.

    Parameters
    ----------
    step : Desk
    shelf : OwnShelf
    title, note : str
    new : callable
        Makes a new thing.
    """

    def __init__(self, step: Desk, shelf: OwnShelf, title: str, note: str, new: Callable[[], Any]) -> None:
        super().__init__(title)
        self._step, self._shelf = step, shelf
        one = shelf.kind.one
        self.body.addWidget(faded(note))
        self.which = narrow_box(f"{one.capitalize()} on the shelf")
        self.which.activated.connect(lambda _: self.show_thing())
        self.body.addWidget(self.which)
        self.called = Field()
        self.called.setAccessibleName(f"Name of the {one}")
        self.called.editingFinished.connect(self._rename)
        self.body.addWidget(self.called)
        self.lengths: dict[str, LengthField] = {}
        self.numbers: dict[str, Field] = {}
        self.texts: dict[str, Field] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self.choices: dict[str, tuple[Choice, tuple[Any, ...]]] = {}
        self.build()
        self.new = small_button("New", lambda: self._add(new()))
        self.copy = small_button("Copy", lambda: self._add(self.thing) if self.thing else None, f"Copy the {one}")
        self.remove = small_button("Remove", self._remove, f"Take the {one} off the shelf")
        self.bring, self.give = small_button("Import…", self._bring), small_button("Export…", self._give)
        for buttons in ((self.new, self.copy, self.remove), (self.bring, self.give)):
            line = QHBoxLayout()
            for button in buttons:
                line.addWidget(button)
            self.body.addLayout(line)
        shelf.changed.connect(self._list)
        if shelf.trouble:
            self.body.addWidget(faded(shelf.trouble))
        self._list()

    def build(self) -> None:
        """Make the fields of the thing."""

    def swatch_of(self, thing: Any) -> Any | None:
        """Give what is drawn beside its name."""
        return None

    @property
    def thing(self) -> Any | None:
        """The thing that is shown."""
        return self._shelf.thing(self.which.currentText())

    def add_lengths(self, fields: Mapping[str, tuple[str, int]], unset: Sequence[str] = ()) -> None:
        """Add fields for lengths, by setting: words and decimals; 0 leaves those of `unset` open."""
        for name, (words, decimals) in fields.items():
            field = LengthField(words, self._step.unit, decimals=decimals)
            field.setFixedWidth(90)
            field.committed.connect(
                lambda mm, name=name: self.change(**{name: None if name in unset and mm <= 0 else mm})
            )
            self.lengths[name] = field
            self.row(words, field)

    def add_numbers(self, fields: Mapping[str, str]) -> None:
        """Add fields for plain numbers, by setting, with their words."""
        for name, words in fields.items():
            field = Field()
            field.setAccessibleName(words)
            field.setFixedWidth(90)
            field.editingFinished.connect(lambda name=name, field=field: self._take_number(name, field))
            self.numbers[name] = field
            self.row(words, field)

    def add_texts(self, fields: Mapping[str, str]) -> None:
        """Add fields for words, by setting."""
        for name, words in fields.items():
            field = Field()
            field.setAccessibleName(words)
            field.setPlaceholderText(words)
            field.setToolTip(words)
            field.editingFinished.connect(lambda name=name, field=field: self._take_text(name, field))
            self.texts[name] = field
            self.body.addWidget(field)

    def add_choice(self, name: str, words: str, entries: Sequence[tuple[str, Any]]) -> None:
        """Add a list to choose from."""
        box, values = narrow_box(words), tuple(value for _, value in entries)
        box.addItems([label for label, _ in entries])
        box.activated.connect(lambda place: self.change(**{name: values[place]}))
        self.choices[name] = box, values
        self.body.addWidget(box)

    def add_ticks(self, fields: Mapping[str, str]) -> None:
        """Add boxes to tick."""
        for name, words in fields.items():
            box = QCheckBox(words)
            box.clicked.connect(lambda on, name=name: self.change(**{name: on}))
            self.ticks[name] = box
            self.body.addWidget(box)

    def _list(self) -> None:
        name = self.which.currentText()
        self.which.clear()
        for thing in self._shelf.things:
            mark = self.swatch_of(thing)
            if mark is None:
                self.which.addItem(thing.name)
            else:
                self.which.addItem(mark, thing.name)
        self.which.setCurrentIndex(max(0, self.which.findText(name)))
        self.aside.setText(str(len(self._shelf.things)))
        self.show_thing()

    def show_thing(self) -> None:
        """Show the thing that is chosen."""
        thing = self.thing
        for widget in (self.copy, self.remove, self.called, *self.lengths.values(), *self.numbers.values()):
            widget.setEnabled(thing is not None)
        for widget in (*self.texts.values(), *self.ticks.values(), *(box for box, _ in self.choices.values())):
            widget.setEnabled(thing is not None)
        self.which.setEnabled(thing is not None)
        if thing is None:
            self.called.show_text("")
            return
        self.called.show_text(thing.name)
        for name, field in self.lengths.items():
            field.show_mm(getattr(thing, name))
        for name, field in self.numbers.items():
            field.show_text(f"{getattr(thing, name):g}")
        for name, field in self.texts.items():
            field.show_text(getattr(thing, name))
        for name, box in self.ticks.items():
            box.setChecked(getattr(thing, name))
        for name, (box, values) in self.choices.items():
            box.setCurrentIndex(values.index(getattr(thing, name)))

    def change(self, **values: object) -> None:
        """Change the thing that is shown."""
        if self.thing is not None and not self._shelf.change(self.thing.name, **values):
            self.show_thing()

    def _rename(self) -> None:
        thing, name = self.thing, self.called.text().strip()
        if thing is None or name == thing.name:
            return
        self.called.setModified(False)
        if self._shelf.change(thing.name, name=name):
            self.which.setCurrentIndex(max(0, self.which.findText(name)))
        self.show_thing()

    def _take_number(self, name: str, field: Field) -> None:
        if not field.isModified() or self.thing is None:
            return
        field.setModified(False)
        try:
            value = float(field.text().replace(",", ".").removesuffix("%"))
            self.change(**{name: type(getattr(self.thing, name))(value)})
        except (ValueError, OverflowError):
            self._step.model.said.emit("That is no number; type one, such as 2.50.")
        self.show_thing()

    def _take_text(self, name: str, field: Field) -> None:
        if field.isModified():
            field.setModified(False)
            self.change(**{name: field.text().strip()})
            self.show_thing()

    def _add(self, thing: Any) -> None:
        own = self._shelf.add(thing)
        self.which.setCurrentIndex(max(0, self.which.findText(own.name)))
        self.show_thing()

    def _remove(self) -> None:
        if self.thing is not None:
            self._shelf.remove(self.thing.name)

    def _bring(self) -> None:
        many = self._shelf.kind.many
        path, _ = QFileDialog.getOpenFileName(self, f"Import {many}", "", f"{many.capitalize()} (*.json)")
        if path:
            self._shelf.take_in(Path(path))

    def _give(self) -> None:
        many = self._shelf.kind.many
        path, _ = QFileDialog.getSaveFileName(self, f"Export {many}", f"{many}.json", f"{many.capitalize()} (*.json)")
        if path:
            self._shelf.give_out(Path(path))
