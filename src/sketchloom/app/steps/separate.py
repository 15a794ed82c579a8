"""Step 2, Separate: the inks."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.canvas.shapes import pixmap_of
from sketchloom.app.canvas.tools import PickTool
from sketchloom.app.fields import Card, LengthField, LogSlider, faded, gesture_id
from sketchloom.app.steps.base import Step, empty_rows, swatch
from sketchloom.app.steps.ink_drawing import MarksCard, ThresholdCard
from sketchloom.app.steps.ink_rows import InkRow
from sketchloom.app.steps.line_art import ColoursCard, LeaksCard
from sketchloom.app.steps.picks import PicksCard
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Result
from sketchloom.core.picture import Point, on_picture
from sketchloom.core.regions import Colour, Ink, InkPlan, InkStep
from sketchloom.core.units import parse_area

__all__ = ["SeparateStep"]

_THUMB = 40
_DETAIL = (0.1, 20.0)
"""mm"""


class _InkSlider(LogSlider):
    """Number of inks; equal steps."""

    def __init__(self) -> None:
        super().__init__("Number of inks", 1, 2)
        self.setRange(1, 12)
        self.setSingleStep(1)
        self.setPageStep(1)

    def show_count(self, count: int, most: int) -> None:
        self.blockSignals(True)
        self.setRange(1, max(most, count))
        self.setValue(count)
        self.blockSignals(False)

    def _tell(self, place: int) -> None:
        if not self._gesture:
            self._gesture = gesture_id()
        self._rest.start()
        self.moved.emit(float(place), self._gesture)


class SeparateStep(Step):
    """How many inks, which, and what becomes of the ground."""

    key, name, view, before = "separate", "Separate", "Regions", "Picture"

    def build(self) -> None:
        """Make the cards."""
        self._tool: PickTool | None = None
        self._build_inks()
        self.leaks, self.colours = self.add(LeaksCard(self)), self.add(ColoursCard(self))
        self.split, self.marks = self.add(ThresholdCard(self)), self.add(MarksCard(self))
        self._build_photo()
        self.picks = self.add(PicksCard(self))
        self._build_ground()
        self._build_specks()

    def _build_inks(self) -> None:
        self.inks = self.add(Card("Inks"))
        self._shown_inks: object = None
        self.fewer, self.more = QPushButton("−"), QPushButton("+")
        self.fewer.setAccessibleName("One ink fewer")
        self.more.setAccessibleName("One ink more")
        for button, step in ((self.fewer, -1), (self.more, 1)):
            button.setFixedSize(34, 32)
            button.clicked.connect(lambda _=False, step=step: self.set_count(self._count() + step))
        self.number = QLabel("0")
        self.number.setFont(font(3, QFont.Weight.DemiBold))
        self.number.setAlignment(Qt.AlignmentFlag.AlignCenter)
        line = self.inks.row(self.fewer)
        line.addWidget(self.number, 1)
        line.addWidget(self.more)
        self.slider = _InkSlider()
        self.slider.moved.connect(lambda value, gesture: self.set_count(int(value), gesture))
        self.slider.rested.connect(self.model.rest)
        self.inks.body.addWidget(self.slider)
        self.automatic = QPushButton("Find the number by itself")
        self.automatic.clicked.connect(lambda: self.set_count(None))
        self.inks.body.addWidget(self.automatic)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        self.inks.body.addLayout(self.rows)
        self.joined = QVBoxLayout()
        self.joined.setSpacing(0)
        self.inks.body.addLayout(self.joined)
        self.short = faded()
        self.inks.body.addWidget(self.short)
        self.steps = QVBoxLayout()
        self.steps.setSpacing(6)
        self.inks.body.addLayout(self.steps)

    def _build_photo(self) -> None:
        self.photo = self.add(Card("Photo"))
        self.ways: dict[str, QPushButton] = {}
        for way, words, help_text in (
            ("light", "Steps of light", "Each step holds all that is as dark or darker, so the layers nest"),
            ("colour", "Flat colours", "The few colours that tell the picture best"),
        ):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setAutoExclusive(True)
            button.setProperty("choice", True)
            button.setToolTip(help_text)
            button.clicked.connect(lambda _=False, way=way: self._take_way(way))
            self.photo.body.addWidget(button)
            self.ways[way] = button
        self.detail = LengthField("Smallest detail", self.unit, decimals=2)
        self.detail.setFixedWidth(90)
        self.detail.committed.connect(
            lambda mm: self.model.change("Smallest detail", "separate", detail=min(max(mm, 0.0), 100.0))
        )
        self.photo.row("Smaller detail is smoothed", self.detail)
        self.detail_slider = LogSlider("Smallest detail", *_DETAIL)
        self.detail_slider.moved.connect(
            lambda value, gesture: self.model.change(
                "Smallest detail", "separate", gesture, detail=float(f"{value:.2g}")
            )
        )
        self.detail_slider.rested.connect(self.model.rest)
        self.photo.body.addWidget(self.detail_slider)

    def _take_way(self, way: str) -> None:
        self.draw_with(None)
        self.model.change("Kind of steps", "separate", steps_by=way)

    def _build_ground(self) -> None:
        self.ground = self.add(Card("Ground"))
        self.ground_swatch, self.ground_words = QLabel(), QLabel()
        self.ground_words.setWordWrap(True)
        self.keep = QPushButton()
        self.keep.clicked.connect(self.toggle_ground)
        line = self.ground.row(self.ground_swatch)
        line.addWidget(self.ground_words, 1)
        line.addWidget(self.keep)
        self.grounded = QVBoxLayout()
        self._shown_grounded: object = None
        self.ground.body.addLayout(self.grounded)

    def _build_specks(self) -> None:
        self.specks = self.add(Card("Specks"))
        self.least = QLineEdit()
        self.least.setFixedWidth(90)
        self.least.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.least.setAccessibleName("Least area of a piece")
        self.least.setToolTip("Pieces and holes smaller than this join a neighbour; type mm2 or in2")
        self.least.editingFinished.connect(self._type_least)
        self.specks.row("Smaller pieces join a neighbour", self.least)
        self.least_slider = LogSlider("Least area of a piece", 0.02, 50)
        self.least_slider.moved.connect(
            lambda value, gesture: self.model.change("Least area", "tidy", gesture, least_area=float(f"{value:.2g}"))
        )
        self.least_slider.rested.connect(self.model.rest)
        self.specks.body.addWidget(self.least_slider)
        self.gone = faded()
        self.specks.body.addWidget(self.gone)

    def _type_least(self) -> None:
        if not self.least.isModified():
            return
        self.least.setModified(False)
        try:
            area = parse_area(self.least.text().replace("mm²", "mm2").replace("in²", "in2"), "mm")
        except ArgumentError as error:
            self.gone.setText(str(error))
            return
        self.model.change("Least area", "tidy", least_area=min(max(area, 0.0), 1e6))

    def _count(self) -> int:
        return self.model.result.plan.taken if self.model.result else 0

    def set_count(self, count: int | None, gesture: int | None = None) -> None:
        """Ask for a number of inks, or for the number that is found."""
        if count is not None:
            count = min(max(count, 1), 48)
        self.model.change("Number of inks", "separate", gesture, inks=count)

    def toggle_ground(self) -> None:
        """Clear the ground, or keep it as an ink."""
        kept = self.model.recipe.separate.ground == "keep"
        self.model.change(
            "Clear the ground" if kept else "Keep the ground", "separate", ground="auto" if kept else "keep"
        )

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""
        if tool == self.drawing and tool is None:
            return
        self.drawing = tool
        self._tool = None
        if tool is not None:
            self._tool = PickTool()
            self._tool.help = _HELP[tool]
            self._tool.view = "Regions" if tool == "fill" else "Picture"
            self._tool.done.connect(self._take)
        self.picks.pick.setChecked(tool == "pick")
        self.marks.pick.setChecked(tool == "ink-colour")
        self.colours.brush.setChecked(tool == "fill")
        self.tool_changed.emit(self._tool)

    def _take(self, at: Point) -> None:
        """A place was clicked."""
        tool = self.drawing
        if tool == "fill":
            self.colours.fill(at)
            return
        self.draw_with(None)
        if tool == "pick":
            self.picks.add_pick(at)
        elif (colour := self._stroke_colour(at)) is not None:
            self.model.change("Ink of one colour", "separate", ink_colour=colour)

    def _stroke_colour(self, at: Point) -> Colour | None:
        """The darkest colour within two pixels of a place: a stroke is thin, and its edges are pale."""
        if self.model.result is None:
            return None
        picture = self.model.result.prepared.picture
        x, y = np.floor(on_picture(picture, [at])[0]).astype(int)
        part = picture.rgba[max(0, y - 2) : y + 3, max(0, x - 2) : x + 3, :3].reshape(-1, 3)
        if x < 0 or y < 0 or not len(part):
            return None
        red, green, blue = (int(v) for v in part[int(part.astype(int).sum(1).argmin())])
        return red, green, blue

    def inks_now(self) -> tuple[Ink, ...]:
        """The inks of the newest result."""
        return self.model.result.plan.palette if self.model.result else ()

    def show_result(self, result: Result) -> None:
        """Show all cards that this kind of picture has."""
        settings, plan, kind = self.model.recipe.separate, result.plan, result.tones.kind
        if self.drawing == "fill" and kind != "lineart":
            self.draw_with(None)
        count = plan.taken
        ordered = kind == "photo" or bool(settings.layers)
        counted = kind in ("flat", "photo") and not settings.layers
        asked = settings.inks is not None and counted
        self.inks.title.setText("Colours and ink" if kind == "lineart" else "Inks")
        aside = "as chosen" if asked else "unless you choose" if ordered else "found by itself"
        self.inks.aside.setText("as opened" if settings.layers else aside)
        self.automatic.setText("Take the usual number" if ordered else "Find the number by itself")
        self.number.setText(str(count))
        for widget in (self.slider, self.fewer, self.more):
            widget.setVisible(counted)
        self.fewer.setEnabled(count > 1)
        self.automatic.setVisible(asked)
        self.slider.show_count(count, max(plan.found, 6))
        wanted = settings.inks
        self.short.setVisible(asked and wanted is not None and wanted > count)
        self.short.setText(f"Only {count} can be told apart.")
        self._show_inks(result)
        self._show_steps(result)
        for card in (self.split, self.marks, self.leaks, self.colours, self.picks):
            card.show_result(result)
        self.photo.setVisible(kind == "photo")
        self.ways[settings.steps_by].setChecked(True)
        self.detail.show_mm(settings.detail)
        self.detail_slider.show_value(settings.detail)
        self._show_ground(result)
        self._show_grounded(plan)
        if not self.least.isModified():
            self.least.setText(f"{self.model.recipe.tidy.least_area:g} mm²")
            self.least.setModified(False)
        self.least_slider.show_value(self.model.recipe.tidy.least_area)
        gone = result.tidied_away
        self.gone.setText("Nothing is that small." if not gone else f"{gone} speck{'s' * (gone > 1)} removed.")

    def _show_inks(self, result: Result) -> None:
        shown = result.plan.palette, result.plan.shares, theme.is_dark, self.model.recipe.separate.locked
        if shown == self._shown_inks:
            return
        self._shown_inks = shown
        empty_rows(self.rows)
        for ink, share in zip(result.plan.palette, result.plan.shares[1:], strict=True):
            self.rows.addWidget(InkRow(self, ink, share))

    def rename(self, ink: Ink, name: str) -> None:
        """Give an ink a name; an empty one gives back the name of its colour."""
        name = " ".join(name.split())
        if name == ink.name:
            return
        others = {other.name for other in self.inks_now() if other.key != ink.key}
        number, free = 2, name
        while free in others:  # two layers of one name would be taken for each other
            free, number = f"{name} {number}", number + 1
        kept = tuple(pair for pair in self.model.recipe.separate.names if pair[0] != ink.key)
        self._shown_inks = None
        self.model.change("Name of an ink", "separate", names=(*kept, (ink.key, free)) if name else kept)

    def join(self, ink: Ink, other: Ink) -> None:
        """Make an ink part of another."""
        joined = self.model.recipe.separate.joined
        self.model.change(f"Join {ink.name} with {other.name}", "separate", joined=(*joined, (ink.key, other.key)))

    def part(self, goes: Colour) -> None:
        """Take an ink out of the one it was joined with."""
        joined = tuple(pair for pair in self.model.recipe.separate.joined if pair[0] != goes)
        self.model.change("Part an ink again", "separate", joined=joined)

    def is_locked(self, ink: Ink) -> bool:
        """Whether an ink stays when fewer are wanted."""
        return ink.key in self.model.recipe.separate.locked or not self.can_lock(ink)

    def can_lock(self, ink: Ink) -> bool:
        """Whether locking is a maker's choice: a picked detail is locked as it is."""
        tones = self.model.result.tones if self.model.result else None
        return tones is None or ink.key not in tones.shown[len(tones.shown) - tones.picked :]

    def lock(self, ink: Ink, on: bool) -> None:
        """Let an ink stay however few are wanted, or no longer."""
        locked = tuple(key for key in self.model.recipe.separate.locked if key != ink.key)
        name = f"{'Lock' if on else 'Unlock'} {ink.name}"
        self.model.change(name, "separate", locked=(*locked, ink.key) if on else locked)

    def recolour(self, ink: Ink, colour: Colour | None) -> None:
        """Show and send an ink in another colour; None gives its own back."""
        shown = tuple(pair for pair in self.model.recipe.separate.shown if pair[0] != ink.key)
        if colour is not None and colour != ink.key:
            shown = (*shown, (ink.key, colour))
        self.model.change(f"Colour of {ink.name}", "separate", shown=shown)

    def send_to_ground(self, ink: Ink) -> None:
        """Cut an ink out of no layer."""
        grounded = self.model.recipe.separate.grounded
        self.model.change(f"Send {ink.name} to the ground", "separate", grounded=(*grounded, ink.key))

    def restore(self, ink: Ink) -> None:
        """Take an ink back from the ground."""
        grounded = tuple(colour for colour in self.model.recipe.separate.grounded if colour != ink.key)
        self.model.change(f"Restore {ink.name}", "separate", grounded=grounded)

    def _show_grounded(self, plan: InkPlan) -> None:
        joined = self.model.recipe.separate.joined
        if (plan.grounded, joined, theme.is_dark) == self._shown_grounded:
            return
        self._shown_grounded = plan.grounded, joined, theme.is_dark
        empty_rows(self.joined)
        for goes, stays in joined:
            self.joined.addWidget(self._joined_row(goes, stays))
        empty_rows(self.grounded)
        for ink in plan.grounded:
            row = QWidget()
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 4, 0, 0)
            mark = QLabel()
            mark.setPixmap(swatch(ink.hex))
            line.addWidget(mark)
            line.addWidget(QLabel(ink.name), 1)
            back = QPushButton("Restore")
            back.setAccessibleName(f"Restore {ink.name}")
            back.clicked.connect(lambda _=False, ink=ink: self.restore(ink))
            line.addWidget(back)
            self.grounded.addWidget(row)

    def _joined_row(self, goes: Colour, stays: Colour) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(2, 2, 0, 2)
        for colour in (goes, stays):
            mark = QLabel()
            mark.setPixmap(swatch(Ink("", colour).hex))
            line.addWidget(mark)
        line.addWidget(faded("joined", wrap=False), 1)
        apart = QPushButton("Part again")
        apart.setProperty("small", True)
        apart.clicked.connect(lambda: self.part(goes))
        line.addWidget(apart)
        return row

    def _show_steps(self, result: Result) -> None:
        if result.scale < 1:  # a preview knows nothing of them
            return
        empty_rows(self.steps)
        fewer, more = result.steps
        if fewer is not None:
            words = f"One fewer: {fewer.ink.name} ({_per_cent(fewer.share)}) joins {fewer.other.name}."
            self.steps.addWidget(_step_row(result, fewer, words))
        if more is not None:
            words = f"One more: {more.ink.name} ({_per_cent(more.share)}) comes out of {more.other.name}."
            self.steps.addWidget(_step_row(result, more, words))

    def _show_ground(self, result: Result) -> None:
        cleared = 0.0 if result.ground.cleared is None else float(result.ground.cleared.mean())
        self.keep.setText("Keep it")
        self.keep.show()
        if self.model.recipe.separate.ground == "keep":
            self.ground_swatch.clear()
            self.ground_words.setText("kept as an ink")
            self.keep.setText("Clear it")
        elif result.ground.shown is not None:
            self.ground_swatch.setPixmap(swatch(result.ground.shown.hex))
            self.ground_words.setText(f"{result.ground.shown.name.lower()} border, {100 * cleared:.1f} %")
        elif cleared:
            self.ground_swatch.clear()
            self.ground_words.setText(f"clear in the picture, {100 * cleared:.1f} %")
        else:
            self.ground_swatch.clear()
            self.ground_words.setText("none: the border has several colours")
            self.keep.hide()
        self.ground_swatch.setVisible(not self.ground_swatch.pixmap().isNull())

    def figure(self, result: Result) -> str:
        """Number of inks."""
        count = len(result.plan.palette)
        return f"{count} ink{'s' * (count != 1)}"


_HELP = {
    "pick": "Click the detail that was missed, or the area that belongs elsewhere.",
    "ink-colour": "Click a stroke of the ink that counts.",
    "fill": "Click the areas that are to have the colour in hand.",
}


def _per_cent(share: float) -> str:
    return f"{100 * share:.1f} %" if share >= 0.001 else "under 0.1 %"


def _step_row(result: Result, step: InkStep, words: str) -> QWidget:
    """A sentence beside a thumbnail of what goes or comes."""
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 2, 0, 2)
    left, top, width, height = step.box
    margin = max(4, max(width, height) // 4)
    rows = slice(max(0, top - margin), top + height + margin)
    columns = slice(max(0, left - margin), left + width + margin)
    part = result.picture.rgba[rows, columns]
    thumb = QLabel()
    thumb.setPixmap(
        pixmap_of(part).scaled(
            _THUMB, _THUMB, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
    )
    thumb.setFixedWidth(_THUMB)
    line.addWidget(thumb)
    line.addWidget(faded(words), 1)
    return row
