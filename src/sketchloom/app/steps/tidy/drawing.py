"""The card for drawing: what is drawn becomes ink, parts pieces, changes their colour or trims them."""

from collections.abc import Callable, Iterator
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QSize
from PySide6.QtWidgets import QGridLayout, QPushButton

from sketchloom.app.canvas.tools import AcrossTool, CurvedOutlineTool, FreehandTool, OutlineTool, RectangleTool, Tool
from sketchloom.app.controls import Choice, Number
from sketchloom.app.fields import Card, LengthField, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.app.steps.tidy.fine import too_fine
from sketchloom.app.steps.tidy.forms import FORM_SIDE, form_icon
from sketchloom.app.steps.tidy.new_ink import ask_for_ink
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.picture import Point
from sketchloom.core.tidy import (
    AnyWork,
    CutOut,
    Draw,
    Split,
    Trim,
    by_hand,
    ellipse,
    flattened,
    rectangle,
    regular,
    smooth,
    straight,
)

__all__ = ["FORMS", "DrawingCard"]

_NEW = "new"
_DENT = 0.55
"""How deep a star is cut in; of its radius."""


class _Form(NamedTuple):
    """A form that can be drawn."""

    words: str
    help: str
    closed: bool


FORMS = {
    "line": _Form("Line", "Drag a line.", False),
    "line-by-hand": _Form("Line by hand", "Draw a line with the pointer.", False),
    "rectangle": _Form("Rectangle", "Drag a rectangle.", True),
    "ellipse": _Form("Ellipse", "Drag a box; the ellipse fills it.", True),
    "regular": _Form("Even sides", "Drag a box; the shape with even sides fills it.", True),
    "star": _Form("Star", "Drag a box; the star fills it.", True),
    "outline": _Form("Outline", "Click round the shape.", True),
    "curved": _Form("Curved outline", "Click round the shape; a smooth curve runs through the clicks.", True),
    "by-hand": _Form("Shape by hand", "Draw round the shape with the pointer.", True),
}
_EFFECTS = {
    "draw": ("Draw in ink", True, True),
    "cut": ("Cut away", True, True),
    "part": ("Part what is crossed", True, True),
    "colour": ("Change the ink of one side", True, False),
    "keep": ("Keep only what is inside", False, True),
    "clear": ("Clear what is inside", False, True),
}
"""Words of each, and whether it takes open lines and closed ones."""
_HELP = "Of a piece that a line crosses the smaller side gets the ink."


class DrawingCard(Card):
    """What a drawn form does, in what ink, and the forms."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Draw and part")
        self._step = step
        self._inks: object = None
        self._wanted = self._asked = ""
        """Key that is drawn with, and that of an ink which was asked for and is not there yet."""
        self.effect = Choice()
        self.effect.setAccessibleName("What a drawn line or shape does")
        for key, (words, _, _) in _EFFECTS.items():
            self.effect.addItem(words, key)
        self.effect.activated.connect(lambda _: self._follow())
        grid = QGridLayout()
        grid.setSpacing(6)
        self.tools: dict[str, QPushButton] = {}
        for place, (key, form) in enumerate(FORMS.items()):
            button = QPushButton()
            button.setCheckable(True)
            button.setAccessibleName(form.words)
            button.setToolTip(f"{form.words}: {form.help[0].lower()}{form.help[1:]}")
            button.setIconSize(QSize(FORM_SIDE, FORM_SIDE))
            button.setFixedSize(41, 34)
            button.setStyleSheet("padding: 1px;")
            button.clicked.connect(lambda on, key=key: step.draw_with(key if on else "choose"))
            grid.addWidget(button, place // 5, place % 5)
            self.tools[key] = button
        self.body.addLayout(grid)
        self.body.addWidget(self.effect)
        self.ink = Choice()
        self.ink.setAccessibleName("Ink that is drawn with")
        self.ink.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.ink.setMinimumContentsLength(12)
        self.ink.activated.connect(self._on_ink)
        self.width = self._length("Width of a line", 2.0, 0.05)
        self.gap = self._length("Gap between parted pieces", 0.0, 0.0)
        self.sides = Number()
        self.sides.setRange(3, 24)
        self.sides.setValue(5)
        self.sides.setButtonSymbols(Number.ButtonSymbols.NoButtons)
        self.sides.setAccessibleName("Sides, or points of a star")
        self._lines = {
            "ink": self.row("In the ink", self.ink),
            "width": self.row("A line is wide", self.width),
            "gap": self.row("Gap where parted", self.gap),
            "sides": self.row("Sides, or points of a star", self.sides),
        }
        self.fine = faded()
        self.body.addWidget(self.fine)
        theme.changed.connect(self._draw_icons)
        self._draw_icons()
        self._follow()

    def _length(self, name: str, mm: float, least: float) -> LengthField:
        field = LengthField(name, self._step.unit, decimals=2)
        field.setFixedWidth(90)
        field.show_mm(mm)
        field.committed.connect(lambda mm: self._take_length(field, min(max(mm, least), 1000.0)))
        return field

    def _take_length(self, field: LengthField, mm: float) -> None:
        field.show_mm(mm)
        self._tell_fine()

    def offered(self) -> Iterator[tuple[str, str, Callable[[], None]]]:
        """Give what the finder offers of the card: a key, words and what is done."""
        for key, form in FORMS.items():
            yield f"draw-{key}", f"draw: {_lower(form.words)}", lambda key=key: self._step.draw_with(key)
        for index in range(self.effect.count()):
            effect, words = self.effect.itemData(index), self.effect.itemText(index)
            yield f"drawn-{effect}", f"drawing is to {_lower(words)}", lambda effect=effect: self.choose_effect(effect)

    def choose_effect(self, key: str) -> None:
        """Choose what a drawn form does."""
        self.effect.setCurrentIndex(self.effect.findData(key))
        self._follow()

    def _follow(self) -> None:
        """Show the fields that say something now, and the forms that can be drawn."""
        effect = self.effect.currentData()
        _, opens, closes = _EFFECTS[effect]
        for key, on in (
            ("ink", effect in ("draw", "colour")),
            ("width", effect in ("draw", "cut") and not self._draws_closed),
            ("gap", effect == "part"),
            ("sides", self._step.drawing in ("regular", "star")),
        ):
            line = self._lines[key]
            for place in range(line.count()):
                widget = line.itemAt(place).widget()
                if widget is not None:
                    widget.setVisible(on)
        for key, button in self.tools.items():
            button.setEnabled(closes if FORMS[key].closed else opens)
            if button.isChecked() and not button.isEnabled():
                self._step.draw_with("choose")
        self._tell_fine()

    @property
    def _draws_closed(self) -> bool:
        """Whether the form in hand is closed, so that a width says nothing."""
        return self._step.drawing in FORMS and FORMS[self._step.drawing].closed

    def show_tool(self, tool: str | None) -> None:
        """Show which form is in hand, and its fields."""
        for key, button in self.tools.items():
            button.setChecked(tool == key)
        self.aside.setText(FORMS[tool].words if tool in FORMS else "")
        self._follow()

    def _draw_icons(self) -> None:
        for key, button in self.tools.items():
            button.setIcon(form_icon(key, theme.tokens.ink, theme.tokens.indigo))

    @property
    def key(self) -> str:
        """The ink that is drawn with; empty cuts away."""
        if self.effect.currentData() not in ("draw", "colour"):
            return ""
        return self.ink.currentData() or ""

    def _on_ink(self) -> None:
        if self.ink.currentData() == _NEW:
            self._asked = ask_for_ink(self, self._step.inks_now()) or self._asked
            self._wanted = self._asked or self._wanted
            self._fill()
        else:
            self._wanted = self.ink.currentData() or ""

    def _fill(self) -> None:
        inks, now = self._step.inks_now(), self.ink.currentData()
        self._wanted = now if now and now != _NEW else self._wanted
        self.ink.clear()
        for ink in inks:
            self.ink.addItem(swatch(ink.hex), ink.name, ink.key)
        if self._asked and self._asked not in [ink.key for ink in inks]:
            self.ink.addItem(swatch(self._asked[:7]), "The new ink", self._asked)
        self.ink.addItem("A new ink…", _NEW)
        self.ink.setCurrentIndex(max(0, self.ink.findData(self._wanted)))
        if self.ink.currentData() == _NEW:  # there is no ink yet
            self.ink.setCurrentIndex(-1)

    def forget(self) -> None:
        """Begin anew with another job."""
        self._wanted = self._asked = ""
        self._inks = None
        self.ink.clear()

    def show_result(self, result: Result) -> None:
        """Offer the inks there are, and say what the picture cannot hold."""
        inks = tuple((ink.key, ink.name, ink.hex) for ink in self._step.inks_now()), theme.is_dark
        if inks != self._inks:
            self._inks = inks
            self._fill()
        self._tell_fine()

    def _tell_fine(self) -> None:
        result, effect = self._step.model.result, self.effect.currentData()
        fields = {"part": self.gap, "draw": self.width, "cut": self.width}
        mm = (fields[effect].mm or 0.0) if effect in fields else 0.0
        px = result.scale.px_per_mm if result is not None and result.has("scale") else 0.0
        told = too_fine("gap" if effect == "part" else "line", mm, px) or (_HELP if effect == "colour" else "")
        self.fine.setVisible(bool(told))
        self.fine.setText(told)

    def made(self, form: str) -> Tool:
        """Make the tool that draws a form."""
        help_text = FORMS[form].help
        makers: dict[str, Callable[[], Tool]] = {
            "line": lambda: AcrossTool(help_text),
            "line-by-hand": lambda: FreehandTool(help_text, closed=False),
            "by-hand": lambda: FreehandTool(help_text, closed=True),
            "outline": OutlineTool,
            "curved": CurvedOutlineTool,
        }
        tool = makers.get(form, lambda: RectangleTool(help_text))()
        tool.view, tool.guide = "Regions", True
        if form in ("by-hand", "line-by-hand"):
            tool.done.connect(lambda line: self.take(form, by_hand(line.points, line.step, FORMS[form].closed)))
        else:
            tool.done.connect(lambda given: self.take(form, self._curve(form, tuple(given))))
        return tool

    def _curve(self, form: str, given: tuple[Point, ...]) -> tuple[Point, ...]:
        if form == "line":
            return straight(list(given))[:4]
        if form in ("outline", "curved"):
            return straight(list(given)) if form == "outline" else smooth(list(given))
        if form in ("regular", "star"):
            first, last = given
            return regular(first, last, self.sides.value(), _DENT if form == "star" else 0.0)
        first, last = given
        return rectangle(first, last) if form == "rectangle" else ellipse(first, last)

    def take(self, form: str, curve: tuple[Point, ...]) -> None:
        """Do with a drawn curve what is chosen."""
        words = FORMS[form].words.lower()
        name, work = self._work(FORMS[form].closed, curve)
        if work is not None:
            self._step.add_work(f"{name}: {words}", work)

    def _work(self, closed: bool, curve: tuple[Point, ...]) -> tuple[str, AnyWork | None]:
        effect = self.effect.currentData()
        if effect in ("draw", "colour") and not self.key:
            self._step.model.said.emit("Choose an ink to draw with first.")
            return "", None
        if effect in ("draw", "cut"):
            width = 0.0 if closed else self.width.mm or 2.0
            return "Draw" if self.key else "Cut away", Draw(curve=curve, ink=self.key, width=width)
        if effect in ("keep", "clear"):
            return "Trim", Trim(curve=curve, side="outside" if effect == "keep" else "inside")
        if closed:
            return "Part", CutOut(curve=curve, gap=self.gap.mm or 0.0)
        line = tuple((float(x), float(y)) for x, y in _thinned(curve))
        if effect == "colour":
            return "Change of colour", Split(line=line, ink=self.key)
        return "Part", Split(line=line, gap=self.gap.mm or 0.0)


def _lower(words: str) -> str:
    return f"{words[0].lower()}{words[1:]}"


def _thinned(curve: tuple[Point, ...]) -> np.ndarray:
    """Points along a curve of source coordinates, as dense as a picture of 4000 px needs."""
    scale = 4000.0
    return flattened(np.array(curve) * scale) / scale
