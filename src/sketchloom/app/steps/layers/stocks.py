"""The cards for stock: that of all layers, and the shelf, where stocks are made, changed, brought in and given out."""

from pathlib import Path

import msgspec
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QColorDialog, QFileDialog, QHBoxLayout, QPushButton

from sketchloom.app.controls import narrow_box
from sketchloom.app.fields import Card, Field, LengthField, faded
from sketchloom.app.shelf import StockShelf
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.list_row import small_button
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
_TICKS = {
    "carrier": "Stays on a carrier until it is laid",
    "mirrored": "Cut mirrored, on its back",
    "bears": "Other layers may lie on it",
}


class StockCard(Card):
    """What all layers are cut from, where they have no stock of their own."""

    def __init__(self, step: LayersDesk, shelf: StockShelf) -> None:
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
        for stock in self._shelf.stocks:
            self.of_stack.addItem(swatch(stock.colour or theme.tokens.paper, 14), f"All layers: {stock.name}")
        self._show(self._step.model.recipe.layers.stock)

    def _show(self, stack: Stock | None) -> None:
        names = [stock.name for stock in self._shelf.stocks]
        known = stack is not None and stack.name in names
        strange = f"All layers: {stack.name} (of this job)" if stack is not None and not known else ""
        first = strange or "Any stock for all layers"
        self.of_stack.setItemText(0, first)
        self.of_stack.setCurrentIndex(1 + names.index(stack.name) if stack is not None and known else 0)

    def _take_stack(self, place: int) -> None:
        self._step.change("Stock", stock=self._shelf.stocks[place - 1] if place else None)

    def _take_nearest(self) -> None:
        """Give each layer that is not locked the stock nearest to its ink, of the kind of the stack."""
        result, layers = self._step.model.result, self._step.model.recipe.layers
        if result is None:
            return
        stocks = [stock for stock in self._shelf.stocks if layers.stock is None or stock.kind == layers.stock.kind]
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


class StocksCard(Card):
    """One stock at a time, as the shelf has it; a job keeps the stock that it was made with."""

    def __init__(self, step: LayersDesk, shelf: StockShelf) -> None:
        super().__init__("Stocks on the shelf")
        self._step, self._shelf = step, shelf
        self.body.addWidget(faded("What is changed here holds for layers that take it from now on."))
        self.which = narrow_box("Stock on the shelf")
        self.which.activated.connect(lambda _: self._show())
        self.body.addWidget(self.which)
        self.called = Field()
        self.called.setAccessibleName("Name of the stock")
        self.called.editingFinished.connect(self._rename)
        self.body.addWidget(self.called)
        self.kind = narrow_box("Kind of stock")
        self.kind.addItems([kind.capitalize() for kind in KINDS])
        self.kind.activated.connect(lambda place: self._change(kind=KINDS[place]))
        self.body.addWidget(self.kind)
        self.colour = QPushButton("Colour…")
        self.colour.clicked.connect(self._take_colour)
        self.body.addWidget(self.colour)
        self.lengths: dict[str, LengthField] = {}
        for name, (words, decimals) in _LENGTHS.items():
            field = LengthField(words, step.unit, decimals=decimals)
            field.committed.connect(lambda mm, name=name: self._take_length(name, mm))
            self.lengths[name] = field
            self.row(words, field)
        self.price, self.shrink = Field(), Field()
        for field, name, words in (
            (self.price, "price", "Price of a sheet or metre"),
            (self.shrink, "shrink", "Shrinks, %"),
        ):
            field.setAccessibleName(words)
            field.setFixedWidth(80)
            field.editingFinished.connect(lambda name=name, field=field: self._take_number(name, field))
            self.row(words, field)
        self.ticks: dict[str, QCheckBox] = {}
        for name, words in _TICKS.items():
            box = QCheckBox(words)
            box.clicked.connect(lambda on, name=name: self._change(**{name: on}))
            self.ticks[name] = box
            self.body.addWidget(box)
        self.cautions = faded()
        self.body.addWidget(self.cautions)
        self.new = small_button("New", lambda: self._add(Stock("New stock")))
        self.copy = small_button("Copy", lambda: self._add(self._stock) if self._stock else None, "Copy the stock")
        self.remove = small_button("Remove", self._remove, "Take the stock off the shelf")
        self.bring, self.give = small_button("Import…", self._bring), small_button("Export…", self._give)
        for buttons in ((self.new, self.copy, self.remove), (self.bring, self.give)):
            line = QHBoxLayout()
            for button in buttons:
                line.addWidget(button)
            self.body.addLayout(line)
        shelf.said.connect(step.model.said)
        shelf.changed.connect(self._list)
        if shelf.trouble:
            self.body.addWidget(faded(shelf.trouble))
        self._list()

    @property
    def _stock(self) -> Stock | None:
        return self._shelf.stock(self.which.currentText())

    def _list(self) -> None:
        name = self.which.currentText()
        self.which.clear()
        for stock in self._shelf.stocks:
            self.which.addItem(swatch(stock.colour or theme.tokens.paper, 14), stock.name)
        self.which.setCurrentIndex(max(0, self.which.findText(name)))
        self._show()

    def _show(self) -> None:
        stock = self._stock
        for widget in (self.copy, self.remove):
            widget.setEnabled(stock is not None)
        if stock is None:
            return
        self.called.show_text(stock.name)
        self.kind.setCurrentIndex(KINDS.index(stock.kind))
        self.colour.setIcon(swatch(stock.colour or theme.tokens.paper, 14))
        self.colour.setText("Colour…" if stock.colour else "Any colour…")
        for name, field in self.lengths.items():
            field.show_mm(getattr(stock, name))
        self.price.show_text(f"{stock.price:g}")
        self.shrink.show_text(f"{stock.shrink:g}")
        for name, box in self.ticks.items():
            box.setChecked(getattr(stock, name))
        self.cautions.setText(" ".join(cautions_for(stock.kind)))

    def show_result(self, result: Result) -> None:
        """Show nothing of a job: the shelf is the maker's."""

    def _change(self, **values: object) -> None:
        if self._stock is not None and not self._shelf.change(self._stock.name, **values):
            self._show()

    def _rename(self) -> None:
        stock, name = self._stock, self.called.text().strip()
        if stock is None or name == stock.name:
            return
        self.called.setModified(False)
        if self._shelf.change(stock.name, name=name):
            self.which.setCurrentIndex(max(0, self.which.findText(name)))
        self._show()

    def _take_length(self, name: str, mm: float) -> None:
        self._change(**{name: None if name == "height" and mm <= 0 else mm})

    def _take_number(self, name: str, field: Field) -> None:
        if not field.isModified():
            return
        field.setModified(False)
        try:
            self._change(**{name: float(field.text().replace(",", ".").removesuffix("%"))})
        except ValueError:
            self._step.model.said.emit("That is no number; type one, such as 2.50.")
        self._show()

    def _take_colour(self) -> None:
        colour = QColorDialog.getColor(QColor(self._stock.colour if self._stock else ""), self, "Colour of the stock")
        if colour.isValid():
            self._change(colour=colour.name())

    def _add(self, stock: Stock) -> None:
        own = self._shelf.add(stock)
        self.which.setCurrentIndex(max(0, self.which.findText(own.name)))
        self._show()

    def _remove(self) -> None:
        if self._stock is not None:
            self._shelf.remove(self._stock.name)

    def _bring(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Import stocks", "", "Stocks (*.json)")
        if path:
            self._shelf.take_in(Path(path))

    def _give(self) -> None:
        path, _ = QFileDialog.getSaveFileName(self, "Export stocks", "stocks.json", "Stocks (*.json)")
        if path:
            self._shelf.give_out(Path(path))
