"""The card for what the work is laid on: a garment, a wall."""

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QColorDialog, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.list_row import ListRow, refilled, small_button
from sketchloom.core.colour import nearest_apart
from sketchloom.core.job import Result
from sketchloom.core.palette import Colour, colour_of, hex_of

__all__ = ["BehindCard"]

_ALIKE = 10.0
"""CIE76; a layer nearer to the ground than this hardly shows on it."""


class BehindCard(Card):
    """The colour behind the work; a layer of that colour need not be cut."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("What it lies on")
        self._step = step
        self._shown: object = None
        self.words = faded("A garment, a wall: the work is shown on its colour, here and in the assembly picture.")
        self.body.addWidget(self.words)
        self.choose, self.none = QPushButton("Colour…"), QPushButton("None")
        self.choose.clicked.connect(self._ask)
        self.none.clicked.connect(lambda: self.take(None))
        self.row(self.choose).addWidget(self.none)
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)

    def _ask(self) -> None:
        now = self._step.model.recipe.look.behind
        colour = QColorDialog.getColor(QColor(*now) if now else QColor(), self, "What it lies on")
        if colour.isValid():
            self.take((colour.red(), colour.green(), colour.blue()))

    def take(self, colour: Colour | None) -> None:
        """Show the work on a colour, or on none."""
        self._step.model.change("What it lies on", "look", behind=colour)

    def show_result(self, result: Result) -> None:
        """Show the colour, and offer to leave out what has it."""
        behind = self._step.model.recipe.look.behind
        self.none.setVisible(behind is not None)
        self.aside.setText(hex_of(behind) if behind is not None else "none")
        self.choose.setIcon(swatch(hex_of(behind), 14) if behind is not None else self.none.icon())
        alike = [
            (layer.key, layer.name, layer.colour)
            for layer in result.stack.layers
            if behind is not None and not layer.hidden and nearest_apart(colour_of(layer.colour), [behind]) < _ALIKE
        ]
        if (alike, behind) == self._shown:
            return
        self._shown = alike, behind
        with refilled(self.rows):
            for key, name, colour in alike:
                leave = small_button("Leave it out", lambda key=key: self._leave(key), f"Leave {name} out")  # type: ignore[misc]
                self.rows.addWidget(ListRow(f"{name} hardly shows there", swatch(colour, 14), behind=(leave,)))

    def _leave(self, key: str) -> None:
        self._step.rule("Leave a layer out", key, hidden=True)
