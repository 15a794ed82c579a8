"""The card with what is too small or too thin to cut, what went, and how it comes back."""

from PySide6.QtWidgets import QVBoxLayout

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, LengthField, LogSlider, faded
from sketchloom.app.more_fields import AreaField
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, refilled, small_button, smaller_ones
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.measures import area_words
from sketchloom.core.tidy import Anchor, Keep, LimitName, Taken

__all__ = ["SmallCard"]

_MOST_SHOWN = 3
_WORDS: dict[LimitName, str] = {
    "least_area": "Least area",
    "least_width": "Least width",
    "fill_holes": "Fill holes",
}
_KINDS = ("speck", "hair", "hole")


class SmallCard(Card):
    """The least area and width of a piece, the holes that are filled, and what they took."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Specks, hairs and holes")
        self._step = step
        self._shown: object = None
        self._inks: object = None
        self.of = Choice()
        self.of.setAccessibleName("Ink that the limits are for")
        self.of.setSizeAdjustPolicy(Choice.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.of.setMinimumContentsLength(12)
        self.of.activated.connect(lambda _: self._show_limits())
        self.as_all = small_button("As for all", self._as_for_all, "Take the limits of this ink away")
        line = self.row("Limits for", self.of)
        line.addWidget(self.as_all)
        self.least = self._area("Least area of a piece", "least_area")
        self.row("Smaller pieces join a neighbour", self.least)
        self.slider = self._slider("Least area of a piece", 0.02, 50, "least_area")
        self.width = LengthField("Least width of a piece", step.unit, decimals=2)
        self.width.setFixedWidth(90)
        self.width.committed.connect(lambda mm: self._change("least_width", min(max(mm, 0.0), 1000.0)))
        self.row("Thinner hairs and tails go", self.width)
        self.width_slider = self._slider("Least width of a piece", 0.05, 5, "least_width")
        self.holes = self._area("Largest hole that is filled", "fill_holes")
        self.row("Holes up to this are filled", self.holes)
        self.holes_slider = self._slider("Largest hole that is filled", 0.05, 200, "fill_holes")
        self.gone = faded()
        self.body.addWidget(self.gone)
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)

    def _area(self, name: str, setting: LimitName) -> AreaField:
        field = AreaField(name, self._step.unit)
        field.setFixedWidth(90)
        field.committed.connect(lambda mm2: self._change(setting, min(max(mm2, 0.0), 1e6)))
        return field

    def _slider(self, name: str, low: float, high: float, setting: LimitName) -> LogSlider:
        slider = LogSlider(name, low, high)

        def moved(value: float, gesture: int) -> None:
            least = setting != "least_area" and value <= low * 1.02  # its left end takes nothing
            self._change(setting, 0.0 if least else float(f"{value:.2g}"), gesture)

        slider.moved.connect(moved)
        slider.rested.connect(self._step.model.rest)
        self.body.addWidget(slider)
        return slider

    @property
    def ink(self) -> str:
        """Key of the ink that the limits are for; empty for all."""
        return self.of.currentData() or ""

    def _change(self, setting: LimitName, value: float, gesture: int | None = None) -> None:
        change, tidy = self._step.model.change, self._step.model.recipe.tidy
        if self.ink:
            name = f"{_WORDS[setting]} of {self._step.name_of(self.ink)}"
            change(name, "tidy", gesture, limits=tidy.with_limits(self.ink, **{setting: value}))
        else:
            change(_WORDS[setting], "tidy", gesture, **{setting: value})
        self._show_limits()

    def _as_for_all(self) -> None:
        tidy, name = self._step.model.recipe.tidy, self._step.name_of(self.ink)
        none = dict.fromkeys(_WORDS)
        self._step.model.change(f"Limits of {name} as for all", "tidy", limits=tidy.with_limits(self.ink, **none))
        self._show_limits()

    def _fill_inks(self) -> None:
        """Offer the inks there are, and those that have limits of their own."""
        limits = self._step.model.recipe.tidy.limits
        rows = [(ink.key, ink.name, ink.hex) for ink in self._step.inks_now()]
        there = {key for key, _, _ in rows}
        rows += [(one.key, one.key, one.key[:7]) for one in limits if one.key not in there]
        if (rows, theme.is_dark) == self._inks:
            return
        self._inks = rows, theme.is_dark
        chosen = self.ink
        self.of.clear()
        self.of.addItem("All inks", "")
        for key, name, colour in rows:
            self.of.addItem(swatch(colour), name, key)
        self.of.setCurrentIndex(max(0, self.of.findData(chosen)))

    def _show_limits(self) -> None:
        tidy = self._step.model.recipe.tidy
        own = tidy.limits_of(self.ink)
        least, width, holes = (
            getattr(tidy, name) if getattr(own, name) is None else getattr(own, name) for name in _WORDS
        )
        self.least.show_value(least)
        self.slider.show_value(least)
        self.width.show_mm(width)
        self.width_slider.show_value(width)
        self.holes.show_value(holes)
        self.holes_slider.show_value(holes)
        self.as_all.setVisible(any(one.key == self.ink for one in tidy.limits))

    def show_result(self, result: Result) -> None:
        """Show the limits, and what they took."""
        self._fill_inks()
        self._show_limits()
        cleaned = result.cleaned
        self.gone.setText(self._words(result))
        self.aside.setText(f"{len(cleaned.taken)} went" if cleaned.taken else "none")
        taken = sorted(cleaned.taken, key=lambda one: (-one.area, one.inside))
        unit = self._step.unit()
        shown = tuple(taken[:_MOST_SHOWN]), len(taken), result.preview, unit
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            if result.preview:  # a preview is too coarse to bring single pieces back
                return
            for one in shown[0]:
                area = area_words(one.area / result.scale.px_per_mm**2, unit)
                back = small_button("Bring back", lambda one=one: self.bring_back(one), f"Bring the {one.kind} back")  # type: ignore[misc]
                self.rows.addWidget(ListRow(f"{one.kind.capitalize()}, {area}", behind=(back,)))
            if len(taken) > _MOST_SHOWN:
                self.rows.addWidget(faded(f"and {smaller_ones(len(taken) - _MOST_SHOWN)}"))

    def _words(self, result: Result) -> str:
        taken = [one.kind for one in result.cleaned.taken]
        counts = [(taken.count(kind), kind) for kind in _KINDS if taken.count(kind)]
        words = ", ".join(f"{count} {word}{'s' * (count > 1)}" for count, word in counts)
        words = f"{words} went; they are outlined." if words else "Nothing is that small."
        if result.cleaned.necks:
            many = result.cleaned.necks
            words += (
                f" {many} thin part{'s' * (many > 1)} that join{'s' * (many == 1)} two others stay{'s' * (many == 1)}."
            )
        told, unit = result.cleaned.floor / result.scale.px_per_mm**2, self._step.unit()
        if not result.preview and told > 1.05 * self._step.model.recipe.tidy.least_area:
            words += f" This picture is worn and tells no piece under {area_words(told, unit)}, so that counts."
        return words

    def bring_back(self, one: Taken) -> None:
        """Keep a piece that went."""
        result = self._step.model.result
        if result is not None:
            place = self._step.source_of(one.inside)
            self._step.add_work(f"Bring a {one.kind} back", Keep(pieces=(Anchor(place),)), mirrored=False)
