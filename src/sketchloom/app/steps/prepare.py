"""Step 2, Prepare: a list of rows that put the picture right."""

from typing import NamedTuple

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout

from sketchloom.app.canvas.outline_tool import OutlineTool
from sketchloom.app.canvas.tools import AxisTool, BrushTool, CornersTool, PickTool, RectangleTool, Tool
from sketchloom.app.fields import Card, faded, gesture_id
from sketchloom.app.steps.base import Step, empty_rows
from sketchloom.app.steps.rows import RowCard, brush_slider, brush_words, name_of
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.picture import (
    Calm,
    ClearBox,
    ClearColour,
    ClearOutline,
    ClearPale,
    Crop,
    Enlarge,
    EvenLight,
    MirrorHalf,
    Paint,
    Picture,
    Point,
    Row,
    Sharpen,
    Straighten,
    Stroke,
    Turn,
    find_page,
    unit_at,
)

__all__ = ["PrepareStep"]

_CALM = 0.002
_BRUSH = 0.02
_BRUSHES = ("keep", "drop", "rub", "paint")
_PAINT = (40, 36, 34)


class _Adder(NamedTuple):
    """A button that adds a row, or takes the tool that draws one."""

    words: str
    help: str
    row: Row | None = None
    tool: str | None = None


_GROUPS = (
    (
        "Lay it right",
        (
            _Adder("Straighten", "Lays a page flat that was taken at an angle; its corners are found", Straighten()),
            _Adder("Crop", "Drag a rectangle on the picture; what lies outside goes", tool="crop"),
            _Adder("Turn right", "Turns by a quarter", Turn(quarters=1)),
            _Adder("Mirror", "Swaps left and right", Turn(mirror=True)),
            _Adder("Mirror a half", "Puts the mirror image of one half in place of the other", tool="axis"),
            _Adder("Enlarge", "Makes a small picture twice as large, with smooth edges", Enlarge()),
        ),
    ),
    (
        "Make it clean",
        (
            _Adder("Even the light", "Divides by the light on the bare paper", EvenLight()),
            _Adder("Calm noise", "Smooths grain, not edges", Calm(radius=_CALM)),
            _Adder("Sharpen", "Undoes a blur, without a halo", Sharpen()),
            _Adder("Clear pale", "Clears watermarks, pencil guides and grey fuzz", ClearPale()),
            _Adder("Rub out", "Paint over what is to go", tool="rub"),
            _Adder("Paint in", "Paint what is missing", tool="paint"),
        ),
    ),
    (
        "Clear the ground",
        (
            _Adder("By colour", "Clears what has the border's colour and hangs together with it", ClearColour()),
            _Adder("By a box", "Drag a box round the subject; the rest is cleared", tool="box"),
            _Adder("Along edges", "Click round the subject; the line follows its edges", tool="edges"),
            _Adder("By a line", "Click round the subject; straight from click to click", tool="line"),
        ),
    ),
)


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
    save_print = Signal()

    key, name, view, before = "prepare", "Prepare", "Picture", "Before"

    def build(self) -> None:
        """Make the cards."""
        self._shown: object = None
        self.chosen: int | None = None
        self.drawing: str | None = None
        self.drawing_row: int | None = None
        self._tool: Tool | None = None
        self._gesture = 0
        self.brush = _BRUSH
        self.hand = self.add(Card("In hand"))
        self.hint = faded()
        self.hand.body.addWidget(self.hint)
        self._brush_box = QVBoxLayout()
        self.hand.body.addLayout(self._brush_box)
        away = QPushButton("Put the tool away")
        away.setToolTip("Esc does the same")
        away.clicked.connect(lambda: self.draw_with(None))
        self.hand.body.addWidget(away)
        self.hand.hide()
        self.list = self.add(Card("Changes", "from top to bottom"))
        self.empty = faded("None yet. The opened picture stays as it is; every change can be switched off again.")
        self.list.body.addWidget(self.empty)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        self.list.body.addLayout(self.rows)
        self.adders: dict[str, QPushButton] = {}
        for title, adders in _GROUPS:
            self._build_group(title, adders)
        out = self.add(Card("To print, then cut round"))
        out.body.addWidget(faded("Saves the prepared picture at its finished size, and the line to cut round it."))
        self.print = QPushButton("Save PNG and cut line…")
        self.print.clicked.connect(self.save_print)
        out.body.addWidget(self.print)

    def _build_group(self, title: str, adders: tuple[_Adder, ...]) -> None:
        card = self.add(Card(title))
        grid = QGridLayout()
        grid.setSpacing(8)
        for place, adder in enumerate(adders):
            button = QPushButton(adder.words)
            button.setToolTip(adder.help)
            button.setProperty("small", True)
            if adder.row is not None:
                button.clicked.connect(lambda _=False, row=adder.row: self.append(row))
            else:
                button.setCheckable(True)
                button.clicked.connect(lambda on, tool=adder.tool: self.draw_with(tool if on else None))
            self.adders[adder.words] = button
            grid.addWidget(button, place // 2, place % 2)
        card.body.addLayout(grid)

    @property
    def longer_mm(self) -> float:
        """Mm that the opened picture's longer side is long at the finished size."""
        result = self.model.result
        if result is None:
            return 100.0
        return unit_at(result.prepared.picture) * result.scale / result.finished.px_per_mm

    def _input(self, place: int | None) -> Picture:
        """The picture that a row, or a new one at the end, works on."""
        result = self.model.result
        assert result is not None
        rows = result.prepared.done
        return result.prepared.before(min(place, len(rows))) if place is not None else result.prepared.picture

    def draw_with(self, tool: str | None, place: int | None = None) -> None:
        """Take a tool in hand, for a new row or to work on one, or put the tool away."""
        if self.model.result is None:
            return
        self.drawing, self.drawing_row = tool, place if tool else None
        self._gesture = gesture_id()
        self._tool = self._make(tool, place) if tool else None
        if self._tool is not None:
            self._tool.done.connect(self._take)
            self._tool.ended.connect(lambda: self.draw_with(None))
            self.hint.setText(self._tool.help + " Esc puts the tool away.")
        for adder in (adder for _, adders in _GROUPS for adder in adders if adder.tool):
            self.adders[adder.words].setChecked(adder.tool == tool and place is None)
        self.hand.setVisible(tool is not None)
        empty_rows(self._brush_box)
        if tool in _BRUSHES:
            self._add_brush()
        self._look()
        self.tool_changed.emit(self._tool)
        self._show_rows()

    def _make(self, tool: str, place: int | None) -> Tool:
        here = self._input(place)
        tokens = theme.tokens
        match tool:
            case "crop":
                return RectangleTool("Drag a rectangle; what lies outside goes.")
            case "box":
                return RectangleTool("Drag a box round the subject, wholly round it; the rest is cleared.")
            case "corners":
                return CornersTool(self._corners(place, here))
            case "axis":
                return AxisTool(*self._axis(place, here))
            case "edges":
                return OutlineTool(self.model.side, here)
            case "line":
                return OutlineTool()
            case "pick":
                return PickTool()
            case "keep":
                return BrushTool("Paint over what belongs to the subject.", self.brush, tokens.moss, ghost=True)
            case "drop":
                return BrushTool("Paint over what does not belong to it.", self.brush, tokens.madder, ghost=True)
            case "rub":
                return BrushTool("Paint over what is to go; each stroke can be undone.", self.brush, tokens.linen)
        colour = self._colour(place)
        return BrushTool("Paint what is missing; each stroke can be undone.", self.brush, QColor(*colour).name())

    def _corners(self, place: int | None, here: Picture) -> tuple[Point, ...]:
        row = self.model.recipe.prepare[place] if place is not None else Straighten()
        if isinstance(row, Straighten) and row.corners:
            return row.corners
        found = find_page(here.rgba)
        if found is None:
            x0, y0, x1, y1 = (share * side for share in (0.1, 0.9) for side in (here.width, here.height))
            return _in_source(here, [(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
        return _in_source(here, found.tolist())

    def _axis(self, place: int | None, here: Picture) -> tuple[Point, ...]:
        row = self.model.recipe.prepare[place] if place is not None else None
        if isinstance(row, MirrorHalf):
            return row.first, row.last, row.keep
        middle = here.width / 2
        return _in_source(here, [(middle, 0), (middle, here.height), (middle / 2, here.height / 2)])

    def _colour(self, place: int | None) -> tuple[int, int, int]:
        row = self.model.recipe.prepare[place] if place is not None else None
        if isinstance(row, Paint) and row.colour:
            return row.colour
        result = self.model.result
        inks = result.stack.layers if result else ()
        return max(inks, key=lambda layer: layer.area).ink.srgb if inks else _PAINT

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
        rows = self.model.recipe.prepare
        old = rows[place] if place is not None and place < len(rows) else None
        row = self._drawn(tool, value, old)
        if tool == "axis" or tool == "corners":  # goes on while the tool is in hand
            if place is None:
                self.drawing_row = len(rows)
                self.append(row, self._gesture, keep_tool=True)
            else:
                self._replace(place, row, self._gesture)
            return
        if tool in _BRUSHES:
            if place is None:
                self.drawing_row = len(rows)
                self.append(row, keep_tool=True)
            else:
                self._replace(place, row)
            return
        self.draw_with(None)
        if place is None:
            self.append(row)
        else:
            self._replace(place, row)

    def _drawn(self, tool: str | None, value, old: Row | None) -> Row:
        """Make the row of what was drawn, or the old one changed by it."""
        change = msgspec.structs.replace
        match tool:
            case "crop":
                return Crop(first=value[0], last=value[1])
            case "box":
                return change(old, first=value[0], last=value[1]) if old else ClearBox(first=value[0], last=value[1])
            case "corners":
                return change(old or Straighten(), corners=value)
            case "axis":
                return MirrorHalf(first=value[0], last=value[1], keep=value[2])
            case "edges" | "line":
                return ClearOutline(points=value)
            case "pick":
                return change(old, at=value, colour=None)
            case "keep" | "drop":
                return change(old, **{tool: (*getattr(old, tool), value)})
        assert isinstance(value, Stroke)
        if isinstance(old, Paint):
            return change(old, strokes=(*old.strokes, value))
        return Paint(strokes=(value,), colour=None if tool == "rub" else self._colour(None))

    def set_colour(self, place: int, colour: tuple[int, int, int]) -> None:
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
        """Change settings of a row."""
        self._replace(place, msgspec.structs.replace(self.model.recipe.prepare[place], **changes), gesture)

    def remove(self, place: int) -> None:
        """Take a row out."""
        self.draw_with(None)
        rows = list(self.model.recipe.prepare)
        gone = rows.pop(place)
        self.chosen = None
        self.model.change_rows(f"Remove {name_of(gone).lower()}", tuple(rows))

    def move_row(self, place: int, way: int) -> None:
        """Move a row up (-1) or down (1)."""
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

    def _look(self) -> None:
        """Show what the chosen row did, or what the tool in hand works on."""
        result = self.model.result
        if result is None:
            return
        done = result.prepared.done
        if self.drawing is not None:
            if self.drawing_row is None or self.drawing in ("rub", "paint"):
                self.looked.emit(None)
            elif self.drawing_row < len(done):
                before, after = result.prepared.before(self.drawing_row), done[self.drawing_row].picture
                self.looked.emit((after, before) if self.drawing in ("keep", "drop") else (before, before))
        elif self.chosen is not None and self.chosen < len(done):
            self.looked.emit((done[self.chosen].picture, result.prepared.before(self.chosen)))
        else:
            self.looked.emit(None)

    def show_result(self, result: Result) -> None:
        """Show the rows."""
        if self.chosen is not None and self.chosen >= len(result.prepared.done):
            self.chosen = None
        if self.drawing_row is not None and self.drawing_row >= len(self.model.recipe.prepare):
            self.draw_with(None)
        self._look()
        self._show_rows()

    def _show_rows(self) -> None:
        rows, result = self.model.recipe.prepare, self.model.result
        self.empty.setVisible(not rows)
        lost = tuple(done.unplaced for done in result.prepared.done) if result else ()
        held = (*lost, *(0,) * len(rows))
        kinds = tuple((type(row), row.on, self._without_sliders(row)) for row in rows)
        shown = kinds, held, theme.is_dark, self.chosen, self.drawing, self.drawing_row, self.unit(), self.longer_mm
        if shown == self._shown:
            return
        self._shown = shown
        empty_rows(self.rows)
        for place, row in enumerate(rows):
            self.rows.addWidget(RowCard(self, place, row, held[place]))

    @staticmethod
    def _without_sliders(row: Row) -> object:
        """What of a row is drawn anew when it changes; a slider keeps itself up to date."""
        changes = {Calm: {"radius": 0.0}, ClearColour: {"reach": 0.0}, ClearPale: {"level": 0.0}}.get(type(row), {})
        if isinstance(row, Sharpen):
            changes = {"radius": None if row.radius is None else 0.0}
        return msgspec.structs.replace(row, **changes)

    def figure(self, result: Result) -> str:
        """How many changes are on."""
        count = sum(row.on for row in self.model.recipe.prepare)
        return f"{count} change{'s' * (count != 1)}" if count else "as opened"


def _in_source(picture: Picture, places: list) -> tuple[Point, ...]:
    """Px of a picture as source coordinates."""
    made = []
    for x, y in places:
        u, v, w = (picture.source_of @ [x, y, 1.0]).tolist()
        made.append((round(u / w, 6), round(v / w, 6)))
    return tuple(made)
