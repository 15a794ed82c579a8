"""A row of Prepare in the window: its switch, its place in the list, and its settings."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QColorDialog, QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from sketchloom.app.fields import LengthField, LogSlider, faded, in_unit
from sketchloom.app.steps.base import swatch
from sketchloom.app.theme import icon, theme
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

if TYPE_CHECKING:
    from sketchloom.app.steps.prepare import PrepareStep

__all__ = ["RowCard", "brush_slider", "brush_words", "name_of"]

_NAMES = {
    Straighten: "Straighten",
    EvenLight: "Even the light",
    Calm: "Calm noise",
    Sharpen: "Sharpen",
    Crop: "Crop",
    MirrorHalf: "Mirror a half",
    ClearColour: "Clear by colour",
    ClearPale: "Clear what is pale",
    ClearBox: "Cut out by a box",
    ClearOutline: "Cut out by a line",
}


def name_of(row: Row) -> str:
    """Name a row."""
    if isinstance(row, Turn):
        return "Mirror" if row.mirror else f"Turn right {90 * (row.quarters % 4)}°"
    if isinstance(row, Enlarge):
        return f"Enlarge {row.times} times"
    if isinstance(row, Paint):
        return "Rub out" if row.colour is None else "Paint in"
    return _NAMES[type(row)]


class RowCard(QFrame):
    """One row; its settings show while it is chosen."""

    def __init__(self, step: "PrepareStep", place: int, row: Row, lost: int) -> None:
        super().__init__()
        self._step, self._place, self._row, self._lost = step, place, row, lost
        chosen = step.chosen == place
        self.setObjectName("row")
        self.setProperty("chosen", chosen)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(6, 4, 4, 6 if chosen else 4)
        self._column.setSpacing(6)
        self._build_head(chosen)
        if lost:
            self._say(self._lost_words(lost), "ochre")
        if chosen:
            self._build_settings()

    def _build_head(self, chosen: bool) -> None:
        row, place, count = self._row, self._place, len(self._step.model.recipe.prepare)
        line = QHBoxLayout()
        line.setSpacing(2)
        on = QCheckBox()
        on.setChecked(row.on)
        on.setAccessibleName(f"{name_of(row)} is on")
        on.setToolTip("Switch this change on or off")
        on.toggled.connect(lambda state: self._step.set_row(place, on=state))
        line.addWidget(on)
        self.title = QPushButton(name_of(row))
        self.title.setProperty("row", True)
        self.title.setCheckable(True)
        self.title.setChecked(chosen)
        self.title.setToolTip("Show its settings, and the picture before and after it")
        self.title.clicked.connect(lambda: self._step.choose(None if chosen else place))
        line.addWidget(self.title, 1)
        for name, words, can, act in (
            ("chevron-up", "up", place > 0, lambda: self._step.move_row(place, -1)),
            ("chevron-down", "down", place + 1 < count, lambda: self._step.move_row(place, 1)),
            ("x", "away", True, lambda: self._step.remove(place)),
        ):
            button = QPushButton()
            button.setIcon(icon(name, theme.tokens.ink if can else theme.tokens.line, 14))
            button.setFixedSize(24, 24)
            button.setStyleSheet("padding: 1px;")
            button.setEnabled(can)
            button.setAccessibleName(f"Move {name_of(row)} {words}" if words != "away" else f"Remove {name_of(row)}")
            button.setToolTip(button.accessibleName())
            button.clicked.connect(act)
            line.addWidget(button)
        self._column.addLayout(line)

    def _lost_words(self, lost: int) -> str:
        if lost < parts_of(self._row):
            return f"{lost} of its {parts_of(self._row)} strokes lie outside the picture and do nothing."
        if isinstance(self._row, Straighten) and self._row.corners is None:
            return "No page was found on this picture, so it does nothing: drag its corners."
        if isinstance(self._row, Enlarge):
            return "The picture would grow past what can be opened, so it does nothing."
        return "It found no place on this picture, so it does nothing."

    def _build_settings(self) -> None:
        row, step, place = self._row, self._step, self._place
        match row:
            case Straighten():
                if row.corners or not self._lost:
                    self._say("Its corners were set by hand." if row.corners else "Its corners were found.")
                self._buttons(
                    ("Drag the corners", lambda: step.draw_with("corners", place), "corners"),
                    ("Find them again", lambda: step.set_row(place, corners=None), None),
                )
            case EvenLight():
                self._say("Divides by the light on the bare paper.")
            case Calm():
                self._length("Grain to calm", 0.0005, 0.02, row.radius, "radius")
            case Sharpen():
                self._say("Undoes a blur of this size; the wrong size does little or roughens edges.")
                measured = row.radius is None
                self._length(
                    "Blur to undo", 0.0003, 0.01, row.radius or 0.001, "radius", "measured" if measured else ""
                )
                if not measured:
                    self._buttons(("Measure it", lambda: step.set_row(place, radius=None), None))
            case Enlarge():
                self._buttons(
                    *((f"{n} times", lambda n=n: step.set_row(place, times=n), n == row.times) for n in (2, 3, 4))
                )
            case Crop():
                self._buttons(("Drag it again", lambda: step.draw_with("crop", place), "crop"))
            case Turn():
                if not row.mirror:
                    self._buttons(
                        ("A quarter more", lambda: step.set_row(place, quarters=(row.quarters + 1) % 4), None)
                    )
            case MirrorHalf():
                self._buttons(("Move the axis", lambda: step.draw_with("axis", place), "axis"))
            case ClearColour():
                self._clear_colour(row)
            case ClearPale():
                self._say("Whatever is paler goes: watermarks, pencil guides, grey fuzz.")
                self._slider("How pale", 0.3, 0.99, row.level, "level")
            case ClearBox():
                self._say("Where the cut errs, paint over it.")
                self._buttons(
                    ("Keep this too", lambda: step.draw_with("keep", place), "keep"),
                    ("Drop this too", lambda: step.draw_with("drop", place), "drop"),
                )
                self._buttons(("Drag the box again", lambda: step.draw_with("box", place), "box"))
            case ClearOutline():
                self._buttons(
                    ("Along edges again", lambda: step.draw_with("edges", place), "edges"),
                    ("Straight again", lambda: step.draw_with("line", place), "line"),
                )
            case Paint():
                self._paint(row)

    def _clear_colour(self, row: ClearColour) -> None:
        step, place = self._step, self._place
        line = QHBoxLayout()
        mark = QLabel()
        if row.colour:
            mark.setPixmap(swatch(QColor(*row.colour).name()))
        line.addWidget(mark)
        where = "where you clicked" if row.at else "the border's colour"
        line.addWidget(faded(where), 1)
        self._column.addLayout(line)
        self._buttons(
            ("Pick a place", lambda: step.draw_with("pick", place), "pick"),
            ("The border's", lambda: step.set_row(place, colour=None, at=None), None),
        )
        self._say("Reach: like colours only, to unlike ones too")
        self._slider("Reach of the colour", 2, 160, row.reach, "reach")
        everywhere = QCheckBox("everywhere, not one area")
        everywhere.setChecked(row.everywhere)
        everywhere.toggled.connect(lambda state: step.set_row(place, everywhere=state))
        self._column.addWidget(everywhere)

    def _paint(self, row: Paint) -> None:
        step, place = self._step, self._place
        count = len(row.strokes)
        self._say(f"{count} stroke{'s' * (count != 1)}")
        tool = "rub" if row.colour is None else "paint"
        entries: list[tuple[str, Callable[[], object], object]] = [
            ("Go on", lambda: step.draw_with(tool, place), tool),
        ]
        if row.colour is not None:
            entries.append(("Colour…", lambda: self._ask_colour(row), None))
        self._buttons(*entries)

    def _ask_colour(self, row: Paint) -> None:
        chosen = QColorDialog.getColor(QColor(*(row.colour or (0, 0, 0))), self, "Colour to paint in")
        if chosen.isValid():
            self._step.set_colour(self._place, (chosen.red(), chosen.green(), chosen.blue()))

    def _say(self, words: str, role: str = "") -> None:
        note = faded(words)
        if role:
            note.setProperty("role", role)
        self._column.addWidget(note)

    def _buttons(self, *entries: tuple[str, Callable[[], object], object]) -> None:
        """Buttons side by side; the third says whether one is down, or which tool it takes."""
        line = QHBoxLayout()
        line.setSpacing(6)
        for words, act, mark in entries:
            button = QPushButton(words)
            button.setProperty("small", True)
            if mark is not None:
                button.setCheckable(True)
                in_hand = self._step.drawing == mark and self._step.drawing_row == self._place
                button.setChecked(in_hand if isinstance(mark, str) else bool(mark))
            if isinstance(mark, str):
                button.clicked.connect(lambda on, act=act: act() if on else self._step.draw_with(None))
            else:
                button.clicked.connect(lambda _=False, act=act: act())
            line.addWidget(button)
        self._column.addLayout(line)

    def _slider(self, name: str, low: float, high: float, value: float, field: str) -> LogSlider:
        slider = LogSlider(name, low, high)
        slider.setToolTip(name)
        slider.show_value(value)
        slider.moved.connect(
            lambda value, gesture: self._step.set_row(self._place, gesture, **{field: float(f"{value:.3g}")})
        )
        slider.rested.connect(self._step.model.rest)
        self._column.addWidget(slider)
        return slider

    def _length(self, name: str, low: float, high: float, value: float, field: str, beside: str = "") -> None:
        """A length at the finished size, kept as a share of the picture's longer side."""
        step = self._step
        typed = LengthField(name, step.unit, decimals=2)
        typed.setFixedWidth(104)
        typed.show_mm(value * step.longer_mm)
        typed.committed.connect(
            lambda mm: step.set_row(self._place, **{field: min(0.2, max(1e-5, mm / step.longer_mm))})
        )
        line = QHBoxLayout()
        line.addWidget(faded(f"{name}{f', {beside}' if beside else ''}"), 1)
        line.addWidget(typed)
        self._column.addLayout(line)
        slider = self._slider(name, low, high, value, field)
        slider.moved.connect(lambda value, _: typed.show_mm(value * step.longer_mm))


def brush_words(width: float, longer_mm: float, unit: str) -> str:
    """Say how wide the brush is at the finished size."""
    return f"Brush {in_unit(width * longer_mm, unit)} {unit}"


def brush_slider(width: float, moved: Callable[[float], None]) -> LogSlider:
    """Make the slider of the brush's width."""
    slider = LogSlider("Width of the brush", 0.002, 0.15)
    slider.show_value(width)
    slider.moved.connect(lambda value, _: moved(value))
    return slider
