"""The card with the order of layers."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.fields import Card
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import ListRow, empty_rows, icon_button
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.layers import stacking
from sketchloom.core.palette import Ink

if TYPE_CHECKING:
    from sketchloom.app.steps.layers.step import LayersStep

__all__ = ["OrderCard"]


class OrderCard(Card):
    """Layers top to bottom; each can be moved up or down."""

    def __init__(self, step: "LayersStep") -> None:
        super().__init__("Order", "top to bottom")
        self._step = step
        self._shown: object = None
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        self.reset = QPushButton("Largest at the bottom")
        self.reset.clicked.connect(lambda: step.model.change("Order of layers", "layers", order=()))
        self.body.addWidget(self.reset)

    def _top_down(self) -> list[Ink]:
        """Inks with a layer of their own as the recipe in force orders them."""
        result = self._step.model.result
        if result is None or not result.has("palette", "sets"):
            return []
        there = {ink.key for ink in result.of("sets").inks} if result.of("sets").build != "single" else None
        keys = [ink.key for ink in result.palette.cut if there is None or ink.key in there]
        return [result.palette[key] for key in reversed(stacking(keys, self._step.model.recipe.layers.order))]

    def show_result(self, result: Result) -> None:
        """Show the order."""
        settings, inks = self._step.model.recipe.layers, self._top_down()
        self.setVisible(settings.build != "single" and len(inks) > 1)
        self.reset.setVisible(bool(settings.order))
        shown = tuple(inks), theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        focus = self.focusWidget()
        focused = focus.property("move") if focus else None
        empty_rows(self.rows)
        for place, ink in enumerate(inks):
            row = ListRow(ink.name, swatch(ink.hex))
            for way, words in ((-1, "up"), (1, "down")):
                can = 0 <= place + way < len(inks)
                button = icon_button(
                    f"chevron-{words}",
                    f"Move {ink.name} {words}",
                    lambda key=ink.key, way=way: self.move_layer(key, way),  # type: ignore[misc]
                    can,
                    28,
                )
                button.setProperty("move", f"{ink.key} {way}")
                row.line.addWidget(button)
                if focused == f"{ink.key} {way}":
                    button.setFocus(Qt.FocusReason.OtherFocusReason)
            self.rows.addWidget(row)

    def move_layer(self, key: str, way: int) -> None:
        """Move the layer of an ink one up (-1) or down (1)."""
        keys = [ink.key for ink in self._top_down()]
        if key not in keys or not 0 <= keys.index(key) + way < len(keys):
            return
        place = keys.index(key)
        keys[place], keys[place + way] = keys[place + way], keys[place]
        self._step.model.change("Order of layers", "layers", order=tuple(reversed(keys)))
