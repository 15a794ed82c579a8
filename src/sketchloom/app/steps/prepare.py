"""Step 2, Prepare: a list of rows that put the picture right."""

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.fields import Card, LogSlider, faded
from sketchloom.app.steps.base import Step, empty_rows
from sketchloom.app.theme import icon, theme
from sketchloom.core.job import Result
from sketchloom.core.picture import Calm, ClearBox, ClearColour, Crop, EvenLight, Row, Straighten, Turn

__all__ = ["PrepareStep"]

_CALM = 0.002
_ADD = (
    ("Straighten", "Lays a page flat that was taken at an angle; its corners are found", Straighten()),
    ("Even the light", "Divides by the light on the bare paper", EvenLight()),
    ("Calm noise", "Smooths grain, not edges", Calm(radius=_CALM)),
    ("Turn right", "Turns by a quarter", Turn(quarters=1)),
    ("Mirror", "Swaps left and right", Turn(mirror=True)),
    ("Clear ground", "Clears what has the border's colour and hangs together with it", ClearColour()),
)
_DRAWN = (
    ("Crop", "Drag a rectangle on the picture; what lies outside goes", "crop"),
    ("Cut out", "Drag a box round the subject; the rest is cleared", "box"),
)


def _name(row: Row) -> str:
    if isinstance(row, Turn):
        return "Mirror" if row.mirror else f"Turn right {90 * (row.quarters % 4)}°"
    return {
        Straighten: "Straighten the page",
        EvenLight: "Even the light",
        Calm: "Calm noise",
        Crop: "Crop",
        ClearColour: "Clear the ground",
        ClearBox: "Cut out a subject",
    }[type(row)]


class PrepareStep(Step):
    """Rows can be added, switched off, moved and removed; the opened picture is never changed."""

    tool_changed = Signal(object)
    """The tool in hand, crop or box, or None."""

    key, name, view, before = "prepare", "Prepare", "Picture", "Source"

    def build(self) -> None:
        """Make the cards."""
        self._shown: object = None
        self.drawing: str | None = None
        self.list = self.add(Card("Changes", "from top to bottom"))
        self.empty = faded("None yet. The opened picture stays as it is; every change can be switched off again.")
        self.list.body.addWidget(self.empty)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        self.list.body.addLayout(self.rows)
        add = self.add(Card("Add"))
        grid = QGridLayout()
        grid.setSpacing(8)
        self.adders: dict[str, QPushButton] = {}
        for place, (words, help_text, row) in enumerate(_ADD):
            button = self._adder(words, help_text)
            button.clicked.connect(lambda _=False, row=row: self.append(row))
            grid.addWidget(button, place // 2, place % 2)
        for place, (words, help_text, tool) in enumerate(_DRAWN):
            button = self._adder(words, help_text)
            button.setCheckable(True)
            button.clicked.connect(lambda on, tool=tool: self.draw_with(tool if on else None))
            grid.addWidget(button, 3, place)
        add.body.addLayout(grid)
        self.hint = faded()
        self.hint.hide()
        add.body.addWidget(self.hint)

    def _adder(self, words: str, help_text: str) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(help_text)
        button.setStyleSheet("padding: 6px 4px;")
        self.adders[words] = button
        return button

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""
        self.drawing = tool
        for words, help_text, name in _DRAWN:
            self.adders[words].setChecked(name == tool)
            if name == tool:
                self.hint.setText(help_text + ". Esc puts the tool away.")
        self.hint.setVisible(tool is not None)
        self.tool_changed.emit(tool)

    def take_rectangle(self, first: tuple[float, float], last: tuple[float, float]) -> None:
        """A rectangle was dragged; source coordinates."""
        row = Crop(first=first, last=last) if self.drawing == "crop" else ClearBox(first=first, last=last)
        self.draw_with(None)
        self.append(row)

    def append(self, row: Row) -> None:
        """Add a row at the end."""
        self.model.change_rows(_name(row), (*self.model.recipe.prepare, row))

    def _replace(self, place: int, row: Row, gesture: int | None = None) -> None:
        rows = list(self.model.recipe.prepare)
        rows[place] = row
        self.model.change_rows(_name(row), tuple(rows), gesture)

    def remove(self, place: int) -> None:
        """Take a row out."""
        rows = list(self.model.recipe.prepare)
        gone = rows.pop(place)
        self.model.change_rows(f"Remove {_name(gone).lower()}", tuple(rows))

    def move_row(self, place: int, way: int) -> None:
        """Move a row up (-1) or down (1)."""
        rows = list(self.model.recipe.prepare)
        rows[place], rows[place + way] = rows[place + way], rows[place]
        self.model.change_rows("Order of changes", tuple(rows))

    def show_result(self, result: Result) -> None:
        """Show the rows."""
        rows = self.model.recipe.prepare
        self.empty.setVisible(not rows)
        kinds = tuple((type(row), row.on) for row in rows)
        shown = kinds, result.unplaced, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        empty_rows(self.rows)
        for place, row in enumerate(rows):
            self.rows.addWidget(self._row(place, row, len(rows), place in result.unplaced))

    def _row(self, place: int, row: Row, count: int, lost: bool) -> QWidget:
        made = QWidget()
        column = QVBoxLayout(made)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(4)
        line = QHBoxLayout()
        line.setSpacing(4)
        on = QCheckBox(_name(row))
        on.setChecked(row.on)
        on.toggled.connect(lambda state: self._switch(place, state))
        line.addWidget(on, 1)
        for name, words, can, act in (
            ("chevron-up", "up", place > 0, lambda: self.move_row(place, -1)),
            ("chevron-down", "down", place + 1 < count, lambda: self.move_row(place, 1)),
            ("x", "away", True, lambda: self.remove(place)),
        ):
            button = QPushButton()
            button.setIcon(icon(name, theme.tokens.ink if can else theme.tokens.line, 14))
            button.setFixedSize(26, 26)
            button.setStyleSheet("padding: 1px;")
            button.setEnabled(can)
            button.setAccessibleName(f"Move {_name(row)} {words}" if words != "away" else f"Remove {_name(row)}")
            button.setToolTip(button.accessibleName())
            button.clicked.connect(act)
            line.addWidget(button)
        column.addLayout(line)
        if lost:
            note = faded("It found no place on this picture, so it does nothing.")
            note.setProperty("role", "ochre")
            column.addWidget(note)
        if isinstance(row, Calm):
            column.addWidget(faded("Grain to calm: fine to coarse"))
            column.addWidget(self._slider("Grain to calm", 0.0005, 0.01, row.radius, place, "radius"))
        if isinstance(row, ClearColour):
            column.addWidget(faded("Reach: like colours only, to unlike ones too"))
            column.addWidget(self._slider("Reach of the colour", 2, 120, row.reach, place, "reach"))
            everywhere = QCheckBox("inside the drawing too")
            everywhere.setChecked(row.everywhere)
            everywhere.toggled.connect(lambda state: self._set(place, None, everywhere=state))
            column.addWidget(everywhere)
        return made

    def _slider(self, name: str, low: float, high: float, value: float, place: int, field: str) -> LogSlider:
        slider = LogSlider(name, low, high)
        slider.setToolTip(name)
        slider.show_value(value)
        slider.moved.connect(lambda value, gesture: self._set(place, gesture, **{field: float(f"{value:.3g}")}))
        slider.rested.connect(self.model.rest)
        return slider

    def _switch(self, place: int, on: bool) -> None:
        self._set(place, None, on=on)

    def _set(self, place: int, gesture: int | None, **changes: object) -> None:
        self._replace(place, msgspec.structs.replace(self.model.recipe.prepare[place], **changes), gesture)

    def figure(self, result: Result) -> str:
        """How many changes are on."""
        count = sum(row.on for row in self.model.recipe.prepare)
        return f"{count} change{'s' * (count != 1)}" if count else "as opened"
