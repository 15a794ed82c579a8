"""The card with what is too small or too thin to cut, what went, and how it comes back."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout

from sketchloom.app.fields import Card, Field, LengthField, LogSlider, faded
from sketchloom.app.steps.list_row import ListRow, empty_rows, small_button
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Result
from sketchloom.core.tidy import Anchor, Keep, Taken
from sketchloom.core.units import parse_area

if TYPE_CHECKING:
    from sketchloom.app.steps.tidy.step import TidyStep

__all__ = ["SmallCard"]

_MOST_SHOWN = 8
_KINDS = ("speck", "hair", "hole")


class _AreaField(Field):
    """An area that can be typed in mm2 or in2."""

    def __init__(self, name: str, typed: Callable[[float], None], wrong: Callable[[str], None]) -> None:
        super().__init__()
        self.setFixedWidth(90)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setAccessibleName(name)
        self.setToolTip(f"{name}; type mm2 or in2")
        self._typed, self._wrong = typed, wrong
        self.editingFinished.connect(self._commit)

    def _commit(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        try:
            area = parse_area(self.text().replace("mm²", "mm2").replace("in²", "in2"), "mm")
        except ArgumentError as error:
            self._wrong(str(error))
            return
        self._typed(min(max(area, 0.0), 1e6))


class SmallCard(Card):
    """The least area and width of a piece, the holes that are filled, and what they took."""

    def __init__(self, step: "TidyStep") -> None:
        super().__init__("Specks, hairs and holes")
        self._step = step
        self._shown: object = None
        change = step.model.change
        self.least = _AreaField(
            "Least area of a piece", lambda mm2: change("Least area", "tidy", least_area=mm2), self._wrong
        )
        self.row("Smaller pieces join a neighbour", self.least)
        self.slider = self._slider("Least area of a piece", 0.02, 50, "Least area", "least_area")
        self.width = LengthField("Least width of a piece", step.unit, decimals=2)
        self.width.setFixedWidth(90)
        self.width.committed.connect(lambda mm: change("Least width", "tidy", least_width=min(max(mm, 0.0), 1000.0)))
        self.row("Thinner hairs and tails go", self.width)
        self.width_slider = self._slider("Least width of a piece", 0.05, 5, "Least width", "least_width")
        self.holes = _AreaField(
            "Largest hole that is filled", lambda mm2: change("Fill holes", "tidy", fill_holes=mm2), self._wrong
        )
        self.row("Holes up to this are filled", self.holes)
        self.holes_slider = self._slider("Largest hole that is filled", 0.05, 200, "Fill holes", "fill_holes")
        self.gone = faded()
        self.body.addWidget(self.gone)
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)

    def _slider(self, name: str, low: float, high: float, words: str, setting: str) -> LogSlider:
        slider = LogSlider(name, low, high)

        def moved(value: float, gesture: int) -> None:
            least = setting != "least_area" and value <= low * 1.02  # its left end takes nothing
            self._step.model.change(words, "tidy", gesture, **{setting: 0.0 if least else float(f"{value:.2g}")})

        slider.moved.connect(moved)
        slider.rested.connect(self._step.model.rest)
        self.body.addWidget(slider)
        return slider

    def _wrong(self, sentence: str) -> None:
        self.gone.setText(sentence)

    def show_result(self, result: Result) -> None:
        """Show the limits, and what they took."""
        tidy = self._step.model.recipe.tidy
        self.least.show_text(f"{tidy.least_area:g} mm²")
        self.slider.show_value(tidy.least_area)
        self.width.show_mm(tidy.least_width)
        self.width_slider.show_value(tidy.least_width)
        self.holes.show_text(f"{tidy.fill_holes:g} mm²")
        self.holes_slider.show_value(tidy.fill_holes)
        cleaned = result.tidied.cleaned
        self.gone.setText(self._words(result))
        taken = sorted(cleaned.taken, key=lambda one: (-one.area, one.inside))
        shown = tuple(taken[:_MOST_SHOWN]), len(taken), result.preview
        if shown == self._shown:
            return
        self._shown = shown
        empty_rows(self.rows)
        if result.preview:  # a preview is too coarse to bring single pieces back
            return
        for one in shown[0]:
            area = f"{one.area / result.scale.px_per_mm**2:.2g} mm²"
            back = small_button("Bring back", lambda one=one: self.bring_back(one), f"Bring the {one.kind} back")  # type: ignore[misc]
            self.rows.addWidget(ListRow(f"{one.kind.capitalize()}, {area}", behind=(back,)))
        if len(taken) > _MOST_SHOWN:
            self.rows.addWidget(faded(f"and {len(taken) - _MOST_SHOWN} smaller ones"))

    def _words(self, result: Result) -> str:
        taken = [one.kind for one in result.tidied.cleaned.taken]
        counts = [(taken.count(kind), kind) for kind in _KINDS if taken.count(kind)]
        words = ", ".join(f"{count} {word}{'s' * (count > 1)}" for count, word in counts)
        words = f"{words} went; they are outlined." if words else "Nothing is that small."
        if result.tidied.cleaned.necks:
            many = result.tidied.cleaned.necks
            words += (
                f" {many} thin part{'s' * (many > 1)} that join{'s' * (many == 1)} two others stay{'s' * (many == 1)}."
            )
        told = result.tidied.cleaned.floor / result.scale.px_per_mm**2
        if not result.preview and told > 1.05 * self._step.model.recipe.tidy.least_area:
            words += f" This picture is worn and tells no piece under {told:.2g} mm², so that counts."
        return words

    def bring_back(self, one: Taken) -> None:
        """Keep a piece that went."""
        result = self._step.model.result
        if result is not None:
            place = self._step.source_of(one.inside)
            self._step.add_work(f"Bring a {one.kind} back", Keep(pieces=(Anchor(place),)))
