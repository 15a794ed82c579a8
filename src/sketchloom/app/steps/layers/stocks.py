"""The cards for stock: that of all layers, and the shelf, where stocks are made, changed, brought in and given out."""

import msgspec
from PySide6.QtGui import QColor, QPixmap
from PySide6.QtWidgets import QColorDialog, QPushButton

from sketchloom.app.controls import narrow_box
from sketchloom.app.fields import Card, faded
from sketchloom.app.shelf import OwnShelf
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.shelf_card import ShelfCard
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.stock import KINDS, Stock, cautions_for, nearest_stock

__all__ = ["StockCard", "StocksCard"]

_LENGTHS = {
    "thickness": ("Thickness", 2),
    "width": ("Width", 0),
    "height": ("Length; 0 for a roll", 0),
    "least_piece": ("Narrowest piece", 1),
    "least_gap": ("Narrowest gap", 1),
}
_NUMBERS = {"price": "Price of a sheet or metre", "shrink": "Shrinks, %", "density": "Density, g/cm³; 0 if unknown"}
_TICKS = {
    "carrier": "Stays on a carrier until it is laid",
    "mirrored": "Cut mirrored, on its back",
    "bears": "Other layers may lie on it",
    "grain": "Has a grain that pieces keep to",
}


class StockCard(Card):
    """What all layers are cut from, where they have no stock of their own."""

    def __init__(self, step: LayersDesk, shelf: OwnShelf) -> None:
        super().__init__("Stock")
        self._step, self._shelf = step, shelf
        self.of_stack = narrow_box("Stock of all layers that have none of their own")
        self.of_stack.activated.connect(self._take_stack)
        self.body.addWidget(self.of_stack)
        self.nearest = QPushButton("Nearest in colour, layer by layer")
        self.nearest.setToolTip(
            "Of the kind that is chosen for all layers; each layer gets the stock nearest to its ink."
        )
        self.nearest.clicked.connect(self._take_nearest)
        self.body.addWidget(self.nearest)
        self.cautions = faded()
        self.body.addWidget(self.cautions)
        shelf.changed.connect(self._list)
        self._list()

    def _list(self) -> None:
        self.of_stack.clear()
        self.of_stack.addItem("Any stock for all layers")
        for stock in self._shelf.things:
            self.of_stack.addItem(swatch(stock.colour or theme.tokens.paper, 14), f"All layers: {stock.name}")
        self._show(self._step.model.recipe.layers.stock)

    def _show(self, stack: Stock | None) -> None:
        names = [stock.name for stock in self._shelf.things]
        known = stack is not None and stack.name in names
        strange = f"All layers: {stack.name} (of this job)" if stack is not None and not known else ""
        first = strange or "Any stock for all layers"
        self.of_stack.setItemText(0, first)
        self.of_stack.setCurrentIndex(1 + names.index(stack.name) if stack is not None and known else 0)

    def _take_stack(self, place: int) -> None:
        self._step.change("Stock", stock=self._shelf.things[place - 1] if place else None)

    def _take_nearest(self) -> None:
        """Give each layer that is not locked the stock nearest to its ink, of the kind of the stack."""
        result, layers = self._step.model.result, self._step.model.recipe.layers
        if result is None:
            return
        stocks = [stock for stock in self._shelf.things if layers.stock is None or stock.kind == layers.stock.kind]
        for layer in result.stack.layers:
            found = nearest_stock(stocks, layer.ink.shown)
            if found is not None and "+" not in layer.key and not layers.rule(layer.key).locked:
                layers = msgspec.structs.replace(layers, rules=layers.with_rule(layer.key, stock=found[0]))
        if layers.rules != self._step.model.recipe.layers.rules:
            self._step.change("Nearest stocks", rules=layers.rules)

    def show_result(self, result: Result) -> None:
        """Show what is chosen."""
        stack = self._step.model.recipe.layers.stock
        self._show(stack)
        self.cautions.setVisible(stack is not None)
        if stack is not None:
            self.cautions.setText(" ".join(cautions_for(stack.kind)))


class StocksCard(ShelfCard):
    """One stock at a time, as the shelf has it; a job keeps the stock that it was made with."""

    def __init__(self, step: LayersDesk, shelf: OwnShelf) -> None:
        note = "What is changed here holds for layers that take it from now on."
        super().__init__(step, shelf, "Stocks on the shelf", note, lambda: Stock("New stock"))

    def build(self) -> None:
        """Make the fields of a stock."""
        self.add_choice("kind", "Kind of stock", [(kind.capitalize(), kind) for kind in KINDS])
        self.colour = QPushButton("Colour…")
        self.colour.clicked.connect(self._take_colour)
        self.body.addWidget(self.colour)
        self.add_lengths(_LENGTHS, unset=("height",))
        self.add_numbers(_NUMBERS)
        self.add_ticks(_TICKS)
        self.cautions = faded()
        self.body.addWidget(self.cautions)

    def swatch_of(self, thing: Stock) -> QPixmap:
        """Give a swatch of a stock."""
        return swatch(thing.colour or theme.tokens.paper, 14)

    def show_thing(self) -> None:
        """Show the stock that is chosen."""
        super().show_thing()
        stock = self.thing
        self.colour.setEnabled(stock is not None)
        if stock is not None:
            self.colour.setIcon(swatch(stock.colour or theme.tokens.paper, 14))
            self.colour.setText("Colour…" if stock.colour else "Any colour…")
            self.cautions.setText(" ".join(cautions_for(stock.kind)))

    def show_result(self, result: Result) -> None:
        """Show nothing of a job: the shelf is the maker's."""

    def _take_colour(self) -> None:
        colour = QColorDialog.getColor(QColor(self.thing.colour if self.thing else ""), self, "Colour of the stock")
        if colour.isValid():
            self.change(colour=colour.name())
