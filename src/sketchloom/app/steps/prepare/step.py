"""The Prepare step: a list of rows that put the picture right."""

from collections.abc import Iterator

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.canvas.tools import BrushTool, Tool
from sketchloom.app.commands import Command
from sketchloom.app.fields import Card, faded, gesture_id
from sketchloom.app.frame import Frame
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.list_row import empty_rows, refilled
from sketchloom.app.steps.prepare.adders import ADDER_GROUPS, AddersCard
from sketchloom.app.steps.prepare.brush import brush_slider, brush_words
from sketchloom.app.steps.prepare.drawing import DRAWINGS
from sketchloom.app.steps.prepare.kinds import name_of, without_sliders
from sketchloom.app.steps.prepare.printing import PrintCard
from sketchloom.app.steps.prepare.row_card import RowCard
from sketchloom.app.theme import theme
from sketchloom.core.job import Result, largest_ink, longer_side_mm
from sketchloom.core.palette import Colour
from sketchloom.core.picture import Paint, Row

__all__ = ["PrepareStep"]

_BRUSH = 0.02
_PAINT: Colour = (40, 36, 34)
_UNKNOWN_MM = 100.0
"""The longer side, while no result tells."""


class PrepareStep(Step):
    """Rows can be added, switched off, moved and removed; the opened picture is never changed.

    Attributes
    ----------
    chosen : int or None
        The row whose settings show, and whose work the divider parts.
    drawing : str or None
        The tool in hand.
    drawing_row : int or None
        The row it works on; None where it makes a new one.
    """

    looked = Signal(object)
    """The picture to show and the one it was made from; None for the prepared and the opened one."""

    key, name, view, before = "prepare", "Prepare", "Picture", "Before"
    threads = False

    def build(self) -> None:
        """Make the cards."""
        self._shown: object = None
        self.chosen: int | None = None
        self.drawing: str | None = None
        self.drawing_row: int | None = None
        self._tool: Tool | None = None
        self._gesture = 0
        self.brush = _BRUSH
        self._brush_box = QVBoxLayout()
        self.in_hand.body.insertLayout(1, self._brush_box)
        self.list = self.add(Card("Changes", "from top to bottom"))
        self.empty = faded("None yet. The opened picture stays as it is; every change can be switched off again.")
        self.list.body.addWidget(self.empty)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        self.list.body.addLayout(self.rows)
        self.adders: dict[str, QPushButton] = {}
        for title, adders in ADDER_GROUPS:
            card = AddersCard(title, adders, self.append, self.draw_with)
            self.adders |= card.buttons
            self.add(card)
        self.print = PrintCard(self.unit)
        self.add(self.print, folded=True)

    def attach(self, frame: Frame) -> None:
        """Show rows on the canvas, and ask where pictures go."""
        self.looked.connect(frame.canvas.scene.look_at)
        self.print.asked.connect(lambda: frame.dialogs.save_print(self.print.settings))

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give a command for each button that adds a row."""
        have = lambda: self.model.job is not None  # noqa: E731
        for words, button in self.adders.items():
            command = Command(f"Prepare: {words.lower()}", self.here(button.click), can=have, help=button.toolTip())
            yield f"prepare-{words.lower().replace(' ', '-')}", command

    @property
    def longer_mm(self) -> float:
        """Mm that the opened picture's longer side is long at the finished size."""
        result = self.model.result
        return longer_side_mm(result) if result is not None and result.has("finish") else _UNKNOWN_MM

    def colour_for(self, row: Row | None) -> Colour:
        """Give the colour in which a row, or a new one, paints."""
        if isinstance(row, Paint) and row.colour:
            return row.colour
        ink = largest_ink(self.model.result) if self.model.result else None
        return ink.shown if ink else _PAINT

    def _row(self, place: int | None) -> Row | None:
        """The row at a place of the list in force, if there is one."""
        rows = self.model.recipe.prepare
        return rows[place] if place is not None and 0 <= place < len(rows) else None

    def draw_with(self, tool: str | None, place: int | None = None) -> None:
        """Take a tool in hand, for a new row or to work on one, or put the tool away."""
        result = self.model.result
        if tool is None and self.drawing is None:
            return
        if tool is not None and (
            result is None or not result.has("prepare") or (place is not None and self._row(place) is None)
        ):
            return
        self.drawing, self.drawing_row = tool, place if tool else None
        self._gesture = gesture_id()
        self._tool = None
        if tool is not None and result is not None:
            done = result.prepared.done
            here = result.prepared.picture if place is None else result.prepared.before(min(place, len(done)))
            self._tool = DRAWINGS[tool].make(self, self._row(place), here)
            self._tool.done.connect(self._take)
            self._tool.ended.connect(lambda: self.draw_with(None))
        else:
            self.model.rest()
        for adder in (adder for _, adders in ADDER_GROUPS for adder in adders if adder.tool):
            self.adders[adder.words].setChecked(adder.tool == tool and place is None)
        empty_rows(self._brush_box)
        if tool is not None and DRAWINGS[tool].brush:
            self._add_brush()
        self._look()
        self.tool_changed.emit(self._tool)
        self._show_rows()

    def _add_brush(self) -> None:
        words = faded(brush_words(self.brush, self.longer_mm, self.unit()))
        words.setObjectName("brush")

        def moved(width: float) -> None:
            self.brush = float(f"{width:.3g}")
            if isinstance(self._tool, BrushTool):
                self._tool.width = self.brush
            words.setText(brush_words(self.brush, self.longer_mm, self.unit()))

        self._brush_box.addWidget(words)
        self._brush_box.addWidget(brush_slider(self.brush, moved))

    def _take(self, value: object) -> None:
        """A tool gave what it drew."""
        place, tool = self.drawing_row, self.drawing
        if tool is None:
            return
        drawing, old = DRAWINGS[tool], self._row(place)
        if place is not None and old is None:  # the row has gone
            self.draw_with(None)
            return
        row = drawing.row(self, value, old)
        gesture = self._gesture if drawing.stays == "gesture" else None
        if not drawing.stays:
            self.draw_with(None)
        if place is None:
            self.drawing_row = len(self.model.recipe.prepare) if drawing.stays else None
            self.append(row, gesture, keep_tool=bool(drawing.stays))
        else:
            self._replace(place, row, gesture)

    def set_colour(self, place: int, colour: Colour) -> None:
        """Paint a row's strokes in another colour."""
        self.set_row(place, colour=colour)
        if self.drawing == "paint" and self.drawing_row == place:
            self.draw_with("paint", place)

    def append(self, row: Row, gesture: int | None = None, keep_tool: bool = False) -> None:
        """Add a row at the end, and choose it."""
        if not keep_tool:
            self.draw_with(None)
        self.chosen = len(self.model.recipe.prepare)
        self.model.change_rows(name_of(row), (*self.model.recipe.prepare, row), gesture)

    def _replace(self, place: int, row: Row, gesture: int | None = None) -> None:
        rows = list(self.model.recipe.prepare)
        rows[place] = row
        self.model.change_rows(name_of(row), tuple(rows), gesture)

    def set_row(self, place: int, gesture: int | None = None, **changes: object) -> None:
        """Change settings of a row that is still there."""
        row = self._row(place)
        if row is not None and {*changes} <= {*row.__struct_fields__}:
            self._replace(place, msgspec.structs.replace(row, **changes), gesture)

    def remove(self, place: int) -> None:
        """Take a row out."""
        gone = self._row(place)
        if gone is None:
            return
        self.draw_with(None)
        rows = list(self.model.recipe.prepare)
        del rows[place]
        self.chosen = None
        self.model.change_rows(f"Remove {name_of(gone).lower()}", tuple(rows))

    def move_row(self, place: int, way: int) -> None:
        """Move a row up (-1) or down (1)."""
        if self._row(place) is None or self._row(place + way) is None:
            return
        self.draw_with(None)
        rows = list(self.model.recipe.prepare)
        rows[place], rows[place + way] = rows[place + way], rows[place]
        if self.chosen in (place, place + way):
            self.chosen = 2 * place + way - self.chosen
        self.model.change_rows("Order of changes", tuple(rows))

    def choose(self, place: int | None) -> None:
        """Show a row's settings and its own before and after; None shows all changes together."""
        self.draw_with(None)
        self.chosen = place
        self._look()
        self._show_rows()

    def new_job(self) -> None:
        """Put the tool away, and let go of the row in hand."""
        super().new_job()
        self.chosen = None

    def leave(self) -> None:
        """Another step is shown: it shows all changes together."""
        super().leave()
        if self.chosen is not None:
            self.choose(None)

    def _look(self) -> None:
        """Show what the chosen row did, or what the tool in hand works on."""
        result = self.model.result
        if result is None or not result.has("prepare"):
            return
        prepared, place = result.prepared, self.drawing_row if self.drawing is not None else self.chosen
        looks_at = DRAWINGS[self.drawing].looks_at if self.drawing is not None else "result"
        if place is None or looks_at == "all":
            self.looked.emit(None)
        elif place < len(prepared.done):
            before, after = prepared.before(place), prepared.done[place].picture
            self.looked.emit((after, before) if looks_at == "result" else (before, before))
        elif self.drawing is None:
            self.looked.emit(None)

    def show_result(self, result: Result) -> None:
        """Show the rows of the recipe in force."""
        if self._row(self.chosen) is None:
            self.chosen = None
        if self.drawing_row is not None and self._row(self.drawing_row) is None:
            self.draw_with(None)
        self._look()
        self._show_rows()

    def _show_rows(self) -> None:
        rows, result = self.model.recipe.prepare, self.model.result
        self.empty.setVisible(not rows)
        lost: tuple[int, ...] = ()
        if result is not None and result.has("prepare") and result.recipe.prepare == rows:
            lost = tuple(done.unplaced for done in result.prepared.done)
        held = (*lost, *(0,) * (len(rows) - len(lost)))
        kinds = tuple((type(row), row.on, without_sliders(row)) for row in rows)
        shown = kinds, held, theme.is_dark, self.chosen, self.drawing, self.drawing_row, self.unit(), self.longer_mm
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            for place, row in enumerate(rows):
                self.rows.addWidget(RowCard(self, place, row, held[place]))

    def figure(self, result: Result) -> str:
        """How many changes are on."""
        count = sum(row.on for row in self.model.recipe.prepare)
        return f"{count} change{'s' * (count != 1)}" if count else "as opened"
