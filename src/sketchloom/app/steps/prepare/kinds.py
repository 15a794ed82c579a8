"""The kinds of rows of Prepare in the window: one entry each, with its name and its settings."""

from collections.abc import Callable
from typing import Any, NamedTuple

import msgspec
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QColorDialog, QHBoxLayout, QPushButton, QVBoxLayout

from sketchloom.app.fields import LengthField, LogSlider, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow
from sketchloom.app.steps.prepare.desk import PrepareDesk
from sketchloom.core.palette import hex_of
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
    Row,
    Sharpen,
    Straighten,
    Turn,
    parts_of,
)

__all__ = ["KINDS", "RowKind", "lost_words", "name_of", "without_sliders"]


class _Panel:
    """Where the settings of a row are put, one under the other."""

    def __init__(self, step: PrepareDesk, place: int, column: QVBoxLayout) -> None:
        self.step, self.place, self.column = step, place, column

    def set(self, gesture: int | None = None, **changes: object) -> None:
        """Change settings of the row."""
        self.step.set_row(self.place, gesture, **changes)

    def draw(self, tool: str) -> Callable[[], None]:
        """Give what takes a tool in hand to work on the row."""
        return lambda: self.step.draw_with(tool, self.place)

    def say(self, words: str) -> None:
        """Put a sentence."""
        self.column.addWidget(faded(words))

    def buttons(self, *entries: tuple[str, Callable[[], object], object]) -> None:
        """Put buttons side by side; the third says whether one is down, or which tool it takes."""
        line = QHBoxLayout()
        line.setSpacing(6)
        for words, act, mark in entries:
            button = QPushButton(words)
            button.setProperty("small", True)
            if mark is not None:
                button.setCheckable(True)
                in_hand = self.step.drawing == mark and self.step.drawing_row == self.place
                button.setChecked(in_hand if isinstance(mark, str) else bool(mark))
            if isinstance(mark, str):
                button.clicked.connect(lambda on, act=act: act() if on else self.step.draw_with(None))
            else:
                button.clicked.connect(lambda _=False, act=act: act())
            line.addWidget(button)
        self.column.addLayout(line)

    def slider(self, name: str, low: float, high: float, value: float, field: str) -> LogSlider:
        """Put a slider of a setting."""
        slider = LogSlider(name, low, high)
        slider.setToolTip(name)
        slider.show_value(value)
        slider.moved.connect(lambda value, gesture: self.set(gesture, **{field: float(f"{value:.3g}")}))
        slider.rested.connect(self.step.model.rest)
        self.column.addWidget(slider)
        return slider

    def length(self, name: str, low: float, high: float, value: float, field: str, beside: str = "") -> None:
        """Put a length at the finished size, kept as a share of the picture's longer side."""
        step = self.step
        typed = LengthField(name, step.unit, decimals=2)
        typed.setFixedWidth(104)
        typed.show_mm(value * step.longer_mm)
        typed.committed.connect(lambda mm: self.set(**{field: min(0.2, max(1e-5, mm / step.longer_mm))}))
        self.column.addWidget(ListRow(faded(f"{name}{f', {beside}' if beside else ''}"), behind=(typed,)))
        slider = self.slider(name, low, high, value, field)
        slider.moved.connect(lambda value, _: typed.show_mm(value * step.longer_mm))


def _straighten(panel: _Panel, row: Straighten, lost: bool) -> None:
    if row.corners or not lost:
        panel.say("Its corners were set by hand." if row.corners else "Its corners were found.")
    panel.buttons(
        ("Drag the corners", panel.draw("corners"), "corners"),
        ("Find them again", lambda: panel.set(corners=None), None),
    )


def _even_light(panel: _Panel, row: EvenLight, lost: bool) -> None:
    panel.say("Divides by the light on the bare paper.")


def _calm(panel: _Panel, row: Calm, lost: bool) -> None:
    panel.length("Grain to calm", 0.0005, 0.02, row.radius, "radius")


def _sharpen(panel: _Panel, row: Sharpen, lost: bool) -> None:
    panel.say("Undoes a blur of this size; the wrong size does little or roughens edges.")
    measured = row.radius is None
    panel.length("Blur to undo", 0.0003, 0.01, row.radius or 0.001, "radius", "measured" if measured else "")
    if not measured:
        panel.buttons(("Measure it", lambda: panel.set(radius=None), None))


def _enlarge(panel: _Panel, row: Enlarge, lost: bool) -> None:
    panel.buttons(*((f"{n} times", lambda n=n: panel.set(times=n), n == row.times) for n in (2, 3, 4)))  # type: ignore[misc]


def _crop(panel: _Panel, row: Crop, lost: bool) -> None:
    panel.buttons(("Drag it again", panel.draw("crop"), "crop"))


def _turn(panel: _Panel, row: Turn, lost: bool) -> None:
    if not row.mirror:
        panel.buttons(("A quarter more", lambda: panel.set(quarters=(row.quarters + 1) % 4), None))


def _mirror_half(panel: _Panel, row: MirrorHalf, lost: bool) -> None:
    panel.buttons(("Move the axis", panel.draw("axis"), "axis"))


def _clear_colour(panel: _Panel, row: ClearColour, lost: bool) -> None:
    marks = (swatch(hex_of(row.colour)),) if row.colour else ()
    panel.column.addWidget(ListRow(faded("where you clicked" if row.at else "the border's colour"), *marks))
    panel.buttons(
        ("Pick a place", panel.draw("pick"), "pick"),
        ("The border's", lambda: panel.set(colour=None, at=None), None),
    )
    panel.say("Reach: like colours only, to unlike ones too")
    panel.slider("Reach of the colour", 2, 160, row.reach, "reach")
    everywhere = QCheckBox("everywhere, not one area")
    everywhere.setChecked(row.everywhere)
    everywhere.toggled.connect(lambda state: panel.set(everywhere=state))
    panel.column.addWidget(everywhere)


def _clear_pale(panel: _Panel, row: ClearPale, lost: bool) -> None:
    panel.say("Whatever is paler goes: watermarks, pencil guides, grey fuzz.")
    panel.slider("How pale", 0.3, 0.99, row.level, "level")


def _clear_box(panel: _Panel, row: ClearBox, lost: bool) -> None:
    panel.say("Where the cut errs, paint over it.")
    panel.buttons(("Keep this too", panel.draw("keep"), "keep"), ("Drop this too", panel.draw("drop"), "drop"))
    panel.buttons(("Drag the box again", panel.draw("box"), "box"))


def _clear_outline(panel: _Panel, row: ClearOutline, lost: bool) -> None:
    panel.buttons(
        ("Along edges again", panel.draw("edges"), "edges"),
        ("Straight again", panel.draw("line"), "line"),
    )


def _paint(panel: _Panel, row: Paint, lost: bool) -> None:
    count = len(row.strokes)
    panel.say(f"{count} stroke{'s' * (count != 1)}")
    tool = "rub" if row.colour is None else "paint"

    def ask() -> None:
        chosen = QColorDialog.getColor(QColor(*(row.colour or (0, 0, 0))), panel.step, "Colour to paint in")
        if chosen.isValid():
            panel.step.set_colour(panel.place, (chosen.red(), chosen.green(), chosen.blue()))

    more = (("Colour…", ask, None),) if row.colour is not None else ()
    panel.buttons(("Go on", panel.draw(tool), tool), *more)


class RowKind(NamedTuple):
    """One kind of row: how it is named, and how its settings are shown."""

    name: str | Callable[[Any], str]
    build: Callable[[_Panel, Any, bool], None]
    slid: tuple[str, ...] = ()
    """Settings on a slider, which keeps itself up to date."""

    def settings(self, step: PrepareDesk, place: int, row: Row, column: QVBoxLayout, lost: bool) -> None:
        """Show the settings of a row."""
        self.build(_Panel(step, place, column), row, lost)


KINDS: dict[type, RowKind] = {
    Straighten: RowKind("Straighten", _straighten),
    EvenLight: RowKind("Even the light", _even_light),
    Calm: RowKind("Calm noise", _calm, ("radius",)),
    Sharpen: RowKind("Sharpen", _sharpen, ("radius",)),
    Enlarge: RowKind(lambda row: f"Enlarge {row.times} times", _enlarge),
    Crop: RowKind("Crop", _crop),
    Turn: RowKind(lambda row: "Mirror" if row.mirror else f"Turn right {90 * (row.quarters % 4)}°", _turn),
    MirrorHalf: RowKind("Mirror a half", _mirror_half),
    ClearColour: RowKind("Clear by colour", _clear_colour, ("reach",)),
    ClearPale: RowKind("Clear what is pale", _clear_pale, ("level",)),
    ClearBox: RowKind("Cut out by a box", _clear_box),
    ClearOutline: RowKind("Cut out by a line", _clear_outline),
    Paint: RowKind(lambda row: "Rub out" if row.colour is None else "Paint in", _paint),
}
"""A kind of row that is added has its entry here."""


def name_of(row: Row) -> str:
    """Name a row."""
    name = KINDS[type(row)].name
    return name if isinstance(name, str) else name(row)


def lost_words(row: Row, lost: int) -> str:
    """Say that a row, or some of its strokes, found no place."""
    if lost < parts_of(row):
        return f"{lost} of its {parts_of(row)} strokes lie outside the picture and do nothing."
    if isinstance(row, Straighten) and row.corners is None:
        return "No page was found on this picture, so it does nothing: drag its corners."
    if isinstance(row, Enlarge):
        return "The picture would grow past what can be opened, so it does nothing."
    return "It found no place on this picture, so it does nothing."


def without_sliders(row: Row) -> object:
    """What of a row is drawn anew when it changes."""
    slid = {name: 0.0 for name in KINDS[type(row)].slid if getattr(row, name) is not None}
    return msgspec.structs.replace(row, **slid)
