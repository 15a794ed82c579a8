"""Step 2, Separate: the inks."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.canvas.shapes import pixmap_of
from sketchloom.app.fields import Card, LogSlider, faded, gesture_id
from sketchloom.app.steps.base import Step, empty_rows, swatch
from sketchloom.app.theme import icon, theme
from sketchloom.app.theme.style import font
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Result
from sketchloom.core.regions import Ink, InkPlan, InkStep
from sketchloom.core.units import parse_area

__all__ = ["SeparateStep"]

_THUMB = 40


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
        self._build_inks()
        self._build_threshold()
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
        self.short = faded()
        self.inks.body.addWidget(self.short)
        self.steps = QVBoxLayout()
        self.steps.setSpacing(6)
        self.inks.body.addLayout(self.steps)

    def _build_threshold(self) -> None:
        self.split = self.add(Card("Threshold"))
        self.split.body.addWidget(faded("Darker than this share of the paper's light is ink."))
        self.threshold = LogSlider("Threshold", 0.1, 0.97)
        self.threshold.moved.connect(
            lambda value, gesture: self.model.change("Threshold", "separate", gesture, threshold=round(value, 3))
        )
        self.threshold.rested.connect(self.model.rest)
        self.split.body.addWidget(self.threshold)
        self.find_threshold = QPushButton("Find it by itself")
        self.find_threshold.clicked.connect(lambda: self.model.change("Threshold", "separate", threshold=None))
        self.split.body.addWidget(self.find_threshold)

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

    def show_result(self, result: Result) -> None:
        """Show inks, threshold, ground and specks."""
        settings, plan = self.model.recipe.separate, result.plan
        is_ink = result.tones.kind == "ink"
        count = plan.taken
        is_photo = result.tones.kind == "photo"
        unasked = "unless you choose" if is_photo else "found by itself"
        self.inks.aside.setText(unasked if settings.inks is None or is_ink else "as chosen")
        self.automatic.setText("Take the usual number" if is_photo else "Find the number by itself")
        self.number.setText(str(count))
        for widget in (self.slider, self.fewer, self.more, self.automatic):
            widget.setVisible(not is_ink)
        self.fewer.setEnabled(count > 1)
        self.automatic.setVisible(settings.inks is not None and not is_ink)
        self.slider.show_count(count, max(plan.found, 6))
        wanted = settings.inks
        self.short.setVisible(wanted is not None and not is_ink and wanted > count)
        self.short.setText(f"Only {count} can be told apart.")
        self._show_inks(result)
        self._show_steps(result)
        self.split.setVisible(is_ink)
        self.split.aside.setText(f"{100 * result.tones.threshold:.0f} %")
        self.threshold.show_value(result.tones.threshold)
        self.find_threshold.setVisible(settings.threshold is not None)
        self._show_ground(result)
        self._show_grounded(plan)
        if not self.least.isModified():
            self.least.setText(f"{self.model.recipe.tidy.least_area:g} mm²")
            self.least.setModified(False)
        self.least_slider.show_value(self.model.recipe.tidy.least_area)
        gone = result.tidied_away
        self.gone.setText("Nothing is that small." if not gone else f"{gone} speck{'s' * (gone > 1)} removed.")

    def _show_inks(self, result: Result) -> None:
        shown = result.plan.palette, result.plan.shares, theme.is_dark
        if shown == self._shown_inks:
            return
        self._shown_inks = shown
        empty_rows(self.rows)
        for place, (ink, share) in enumerate(zip(result.plan.palette, result.plan.shares[1:], strict=True)):
            if place:
                rule = QFrame()
                rule.setFixedHeight(1)
                rule.setObjectName("rule")
                self.rows.addWidget(rule)
            row = QWidget()
            row.setAccessibleName(f"{ink.name}, {100 * share:.1f} per cent")
            row.setToolTip(ink.hex)
            line = QHBoxLayout(row)
            line.setContentsMargins(0, 2, 0, 2)
            mark = QLabel()
            mark.setPixmap(swatch(ink.hex))
            line.addWidget(mark)
            line.addWidget(self._name_field(ink), 1)
            line.addWidget(faded(f"{100 * share:.1f} %", wrap=False))
            away = QPushButton()
            away.setIcon(icon("x", theme.tokens.ink, 14))
            away.setFixedSize(26, 26)
            away.setAccessibleName(f"Send {ink.name} to the ground")
            away.setToolTip("Send it to the ground: no layer holds it")
            away.clicked.connect(lambda _=False, ink=ink: self.send_to_ground(ink))
            line.addWidget(away)
            self.rows.addWidget(row)

    def _name_field(self, ink: Ink) -> QLineEdit:
        field = QLineEdit(ink.name)
        field.setProperty("flat", True)
        field.setMaxLength(40)
        field.setAccessibleName(f"Name of {ink.name}")
        field.setToolTip(f"{ink.hex}; type a name of your own, or nothing for the name of the colour")
        field.editingFinished.connect(lambda: self.rename(ink, field.text()))
        return field

    def rename(self, ink: Ink, name: str) -> None:
        """Give an ink a name; an empty one gives back the name of its colour."""
        name = " ".join(name.split())
        if name == ink.name:
            return
        palette = self.model.result.plan.palette if self.model.result else ()
        others = {other.name for other in palette if other.srgb != ink.srgb}
        number, free = 2, name
        while free in others:  # two layers of one name would be taken for each other
            free, number = f"{name} {number}", number + 1
        kept = tuple(pair for pair in self.model.recipe.separate.names if pair[0] != ink.srgb)
        self._shown_inks = None
        self.model.change("Name of an ink", "separate", names=(*kept, (ink.srgb, free)) if name else kept)

    def send_to_ground(self, ink: Ink) -> None:
        """Cut an ink out of no layer."""
        grounded = self.model.recipe.separate.grounded
        self.model.change(f"Send {ink.name} to the ground", "separate", grounded=(*grounded, ink.srgb))

    def restore(self, ink: Ink) -> None:
        """Take an ink back from the ground."""
        grounded = tuple(colour for colour in self.model.recipe.separate.grounded if colour != ink.srgb)
        self.model.change(f"Restore {ink.name}", "separate", grounded=grounded)

    def _show_grounded(self, plan: InkPlan) -> None:
        if (plan.grounded, theme.is_dark) == self._shown_grounded:
            return
        self._shown_grounded = plan.grounded, theme.is_dark
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

    def figure(self, result: Result) -> str:
        """Number of inks."""
        count = len(result.plan.palette)
        return f"{count} ink{'s' * (count != 1)}"


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
