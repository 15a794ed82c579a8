"""The card with the inks: how many, which, and what one more or fewer would change."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.canvas.shapes import pixmap_of
from sketchloom.app.fields import Card, CountSlider, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, refilled, small_button
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.app.steps.separate.ink_row import InkRow
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.core.job import Result
from sketchloom.core.palette import Colour, Ink
from sketchloom.core.regions import InkStep

__all__ = ["InksCard"]

_THUMB = 40
_MOST_INKS = 48


class InksCard(Card):
    """The ink list; every intent is one change of the recipe, by the ink's key."""

    def __init__(self, step: SeparateDesk) -> None:
        super().__init__("Inks")
        self._step, self.model = step, step.model
        self._shown: object = None
        self._shown_joined: object = None
        self.fewer, self.more = QPushButton("−"), QPushButton("+")
        self.fewer.setAccessibleName("One ink fewer")
        self.more.setAccessibleName("One ink more")
        for button, by in ((self.fewer, -1), (self.more, 1)):
            button.setFixedSize(34, 32)
            button.clicked.connect(lambda _=False, by=by: self.step_by(by))
        self.number = QLabel("0")
        self.number.setFont(font(3, QFont.Weight.DemiBold))
        self.number.setAlignment(Qt.AlignmentFlag.AlignCenter)
        line = self.row(self.fewer)
        line.addWidget(self.number, 1)
        line.addWidget(self.more)
        self.slider = CountSlider("Number of inks")
        self.slider.moved.connect(lambda value, gesture: self.set_count(int(value), gesture))
        self.slider.rested.connect(self.model.rest)
        self.body.addWidget(self.slider)
        self.automatic = QPushButton("Choose the number automatically")
        self.automatic.clicked.connect(lambda: self.set_count(None))
        self.body.addWidget(self.automatic)
        self.rows = self._list(0)
        self.joined = self._list(0)
        self.short = faded()
        self.body.addWidget(self.short)
        self.anew = faded("This picture is worn: it was drawn anew in even inks, and edges are taken from that.")
        self.anew.hide()
        self.body.addWidget(self.anew)
        self.steps = self._list(6)

    def _list(self, spacing: int) -> QVBoxLayout:
        rows = QVBoxLayout()
        rows.setSpacing(spacing)
        self.body.addLayout(rows)
        return rows

    @property
    def counted(self) -> bool:
        """Whether the number of inks is a maker's to choose."""
        result = self.model.result
        there = result is not None and result.has("road", "inks")
        return there and result.road.mode in ("flat", "photo") and not self.model.recipe.separate.layers

    def step_by(self, by: int) -> None:
        """Take so many inks more or fewer."""
        if self.counted and self.model.result is not None:
            self.set_count(self.model.result.plan.taken + by)

    def set_count(self, count: int | None, gesture: int | None = None) -> None:
        """Ask for a number of inks, or for the number that is found."""
        if count is not None:
            count = min(max(count, 1), _MOST_INKS)
        self.model.change("Number of inks", "separate", gesture, inks=count)

    def show_result(self, result: Result) -> None:
        """Show the list and what can be done with it."""
        settings, plan, mode = self.model.recipe.separate, result.plan, result.road.mode
        count, ordered = plan.taken, mode == "photo" or bool(settings.layers)
        asked = settings.inks is not None and self.counted
        self.title.setText("Colours and ink" if mode == "lineart" else "Inks")
        self.aside.setText("as opened" if settings.layers else "as chosen" if asked else "automatic")
        self.automatic.setText("Take the usual number" if ordered else "Choose the number automatically")
        self.number.setText(str(count))
        for widget in (self.slider, self.fewer, self.more):
            widget.setVisible(self.counted)
        self.fewer.setEnabled(count > 1)
        self.automatic.setVisible(asked)
        self.slider.show_count(count, max(plan.found, 6))
        wanted = settings.inks
        self.short.setVisible(asked and wanted is not None and wanted > count)
        self.short.setText(f"Only {count} can be told apart.")
        self.anew.setVisible(result.tones.anew)
        self._show_inks(result)
        self._show_joined()
        self._show_steps(result)

    def _show_inks(self, result: Result) -> None:
        inks = self._step.inks_now()
        shown = inks, tuple(result.plan.shares.items()), theme.is_dark, self.model.recipe.separate.locked
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            for ink in inks:
                self.rows.addWidget(InkRow(self, ink, result.plan.shares.get(ink.key, 0.0)))

    def _show_joined(self) -> None:
        shown = self.model.recipe.separate.joined, self._step.palette_now(), theme.is_dark
        if shown == self._shown_joined:
            return
        self._shown_joined = shown
        with refilled(self.joined):
            for goes, stays in self.model.recipe.separate.joined:
                apart = small_button("Part again", lambda goes=goes: self.part(goes))  # type: ignore[misc]
                colours = (swatch(self._step.colour_of(key)) for key in (goes, stays))
                self.joined.addWidget(ListRow(faded("joined", wrap=False), *colours, behind=(apart,)))

    def inks_now(self) -> tuple[Ink, ...]:
        """The inks that are cut, as the recipe in force names and shows them."""
        return self._step.inks_now()

    def rename(self, ink: Ink, name: str) -> None:
        """Give an ink a name; an empty one gives back the name of its colour."""
        name = " ".join("".join(letter if letter.isprintable() else " " for letter in name).split())
        if name == ink.name:
            return
        others = {other.name for other in self.inks_now() if other.key != ink.key}
        number, free = 2, name
        while free in others:  # two layers of one name would be taken for each other
            free, number = f"{name} {number}", number + 1
        kept = tuple(pair for pair in self.model.recipe.separate.names if pair[0] != ink.key)
        self._shown = None
        self.model.change("Name of an ink", "separate", names=(*kept, (ink.key, free)) if name else kept)

    def join(self, ink: Ink, other: Ink) -> None:
        """Make an ink part of another."""
        joined = self.model.recipe.separate.joined
        self.model.change(f"Join {ink.name} with {other.name}", "separate", joined=(*joined, (ink.key, other.key)))

    def part(self, goes: str) -> None:
        """Take an ink out of the one it was joined with."""
        joined = tuple(pair for pair in self.model.recipe.separate.joined if pair[0] != goes)
        self.model.change("Part an ink again", "separate", joined=joined)

    def is_locked(self, ink: Ink) -> bool:
        """Whether an ink stays when fewer are wanted."""
        return ink.key in self.model.recipe.separate.locked or not self.can_lock(ink)

    def can_lock(self, ink: Ink) -> bool:
        """Whether locking is a maker's choice: a picked detail is locked as it is."""
        result = self.model.result
        return result is None or not result.has("tones") or ink.key not in result.tones.picked

    def lock(self, ink: Ink, on: bool) -> None:
        """Let an ink stay however few are wanted, or no longer."""
        locked = tuple(key for key in self.model.recipe.separate.locked if key != ink.key)
        name = f"{'Lock' if on else 'Unlock'} {ink.name}"
        self.model.change(name, "separate", locked=(*locked, ink.key) if on else locked)

    def recolour(self, ink: Ink, colour: Colour | None) -> None:
        """Show and send an ink in another colour; None gives its own back."""
        shown = tuple(pair for pair in self.model.recipe.separate.shown if pair[0] != ink.key)
        if colour is not None and colour != ink.found:
            shown = (*shown, (ink.key, colour))
        self.model.change(f"Colour of {ink.name}", "separate", shown=shown)

    def send_to_ground(self, ink: Ink) -> None:
        """Cut an ink out of no layer."""
        grounded = tuple(key for key in self.model.recipe.separate.grounded if key != ink.key)
        self.model.change(f"Send {ink.name} to the ground", "separate", grounded=(*grounded, ink.key))

    def _show_steps(self, result: Result) -> None:
        if result.preview:  # a preview knows nothing of them
            return
        with refilled(self.steps):
            fewer, more = result.choices
            if fewer is not None:
                words = f"One fewer: {fewer.ink.name} ({_per_cent(fewer.share)}) joins {fewer.other.name}."
                self.steps.addWidget(_step_row(result, fewer, words))
            if more is not None:
                words = f"One more: {more.ink.name} ({_per_cent(more.share)}) comes out of {more.other.name}."
                self.steps.addWidget(_step_row(result, more, words))


def _per_cent(share: float) -> str:
    return f"{100 * share:.1f} %" if share >= 0.001 else "under 0.1 %"


def _step_row(result: Result, step: InkStep, words: str) -> QWidget:
    """A sentence beside a thumbnail of what goes or comes."""
    left, top, width, height = step.box
    margin = max(4, max(width, height) // 4)
    rows = slice(max(0, top - margin), top + height + margin)
    columns = slice(max(0, left - margin), left + width + margin)
    thumb = pixmap_of(result.picture.rgba[rows, columns]).scaled(
        _THUMB, _THUMB, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
    )
    return ListRow(faded(words), thumb)
