"""The card with the groups of shades: each is one ink, all of them, or any number between."""

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QVBoxLayout, QWidget

from sketchloom.app.fields import Card, CountSlider, faded
from sketchloom.app.steps.list_row import refilled, small_button
from sketchloom.app.steps.separate.desk import SeparateDesk
from sketchloom.core.job import Result
from sketchloom.core.palette import hex_of
from sketchloom.core.regions import Shades

__all__ = ["ShadesCard"]

_HEIGHT = 16


class _Strip(QWidget):
    """The inks of a group side by side, in order."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.colours: tuple[str, ...] = ()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw."""
        painter = QPainter(self)
        step = self.width() / max(1, len(self.colours))
        for place, colour in enumerate(self.colours):
            painter.fillRect(QRectF(place * step, 0, step + 0.5, _HEIGHT), QColor(colour))


class _Group(QWidget):
    """One group: its inks, and the slider over their number."""

    def __init__(self, card: "ShadesCard", key: str) -> None:
        super().__init__()
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 4)
        box.setSpacing(4)
        self.words, self.strip, self.slider = faded(wrap=False), _Strip(), CountSlider("Shades of a group")
        for part in (self.words, self.strip, self.slider):
            box.addWidget(part)
        self.slider.moved.connect(lambda value, gesture: card.take(key, int(value), gesture))
        self.slider.rested.connect(card.rest)

    def show_group(self, group: Shades, count: int, most: int, colours: tuple[str, ...], name: str) -> None:
        kind = "gradient" if group.gradient else "shades"
        part = f"{count} band{'s' * (count != 1)}" if group.gradient else f"{count} of {most}"
        self.words.setText(f"{name}, {kind}: {part}")
        self.slider.setAccessibleName(f"{'Bands' if group.gradient else 'Shades'} of {name}")
        self.slider.show_count(count, most)
        self.strip.colours = colours
        self.strip.update()


class ShadesCard(Card):
    """Inks that follow each other like shading, proposed as groups."""

    def __init__(self, step: SeparateDesk) -> None:
        super().__init__("Shades")
        self._step, self.model = step, step.model
        self.body.addWidget(faded("Inks that follow each other. Fewer are quicker to weed and to lay."))
        self._rows = QVBoxLayout()
        self._rows.setSpacing(6)
        self.body.addLayout(self._rows)
        self.groups: dict[str, _Group] = {}
        self.back = small_button("As found", lambda: self.model.change("Shades as found", "separate", shades=()))
        self.body.addWidget(self.back)

    def take(self, key: str, count: int, gesture: int | None = None) -> None:
        """Ask for a number of inks of one group."""
        others = tuple(pair for pair in self.model.recipe.separate.shades if pair[0] != key)
        self.model.change("Number of shades", "separate", gesture, shades=(*others, (key, count)))

    def rest(self) -> None:
        """Work out the full result."""
        self.model.rest()

    def show_result(self, result: Result) -> None:
        """Show the groups of this picture that are cut."""
        cut = {ink.key: ink for ink in self._step.inks_now()}
        found = dict(zip(result.tones.keys, result.tones.found, strict=True))
        left = {key for key, count in zip(result.tones.keys, result.ground.left, strict=True) if count}
        groups = [group for group in result.tones.shades if _is_told(group, left, set(cut))]
        self.setVisible(bool(groups))
        self.back.setVisible(bool(self.model.recipe.separate.shades))
        if [group.key for group in groups] != list(self.groups):
            with refilled(self._rows):
                self.groups = {group.key: _Group(self, group.key) for group in groups}
                for row in self.groups.values():
                    self._rows.addWidget(row)
        for group in groups:
            inks = [cut[key] for key in group.keys if key in cut]
            there = [key for key in group.keys if key in left]
            largest = max(inks, key=lambda ink: result.plan.shares.get(ink.key, 0.0))
            most = group.most if group.gradient else len(there)
            colours = tuple(hex_of(found[key]) for key in there)
            self.groups[group.key].show_group(group, len(inks), most, colours, largest.name)


def _is_told(group: Shades, left: set[str], cut: set[str]) -> bool:
    """Whether there is a choice: of what is not cleared, a gradient or two shades, and one of them is cut."""
    there = [key for key in group.keys if key in left]
    return bool(cut.intersection(there)) and (group.gradient or len(there) > 1)
