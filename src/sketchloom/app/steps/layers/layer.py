"""The card of the layer in hand: its stock, its way, its place in the best order, and its parts."""

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton

from sketchloom.app.controls import Choice, narrow_box
from sketchloom.app.fields import Card, faded
from sketchloom.app.shelf import OwnShelf
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.core.job import Result
from sketchloom.core.layers import BASE, Layer, origin_of, part_key
from sketchloom.core.palette import colour_of
from sketchloom.core.stock import cautions_for, nearest_stock

__all__ = ["LayerCard"]

_WAYS = {"Built as the stack": None, "Flush, edge to edge": "flush", "Carried, on those below": "carried"}
_KINDS = {"Cut out": "cut", "Drawn with a pen": "draw", "Scored": "score", "Engraved": "engrave"}
_PINS = {"Best order: anywhere": "", "Best order: at the bottom": "bottom", "Best order: on top": "top"}
_GROUND = {"Enclosed ground as the stack": None, "Fill its enclosed ground": True, "Keep its enclosed ground": False}


class LayerCard(Card):
    """What holds for the layer that is selected."""

    def __init__(self, step: LayersDesk, shelf: OwnShelf) -> None:
        super().__init__("This layer")
        self._step, self._shelf = step, shelf
        self.key = ""
        self.stock = self._box("Stock", self._take_stock)
        self.propose = QPushButton()
        self.propose.setProperty("small", True)
        self.propose.clicked.connect(self._take_nearest)
        self.body.addWidget(self.propose)
        self.cautions = faded()
        self.body.addWidget(self.cautions)
        self.kind = self._box(
            "What is done with it", lambda: self._rule("Kind of a layer", kind=_KINDS[self.kind.currentText()])
        )
        self.kind.addItems(list(_KINDS))
        self.kind.setToolTip("What is drawn, scored or engraved lies on the layer below, which is whole there")
        self.way = self._box("How it is built", self._take_way)
        self.way.addItems(list(_WAYS))
        self.more = QPushButton()
        self.more.setProperty("small", True)
        self.more.setCheckable(True)
        self.more.toggled.connect(lambda _: step.refresh())
        self.body.addWidget(self.more)
        self.ground = self._box(
            "Its enclosed ground", lambda: self._rule("Enclosed ground", fill_ground=_GROUND[self.ground.currentText()])
        )
        self.ground.addItems(list(_GROUND))
        self.islands = QCheckBox("Keep parts that hold nothing of it")
        self.islands.setToolTip("A part of a carried layer that shows nowhere is left out unless this is ticked.")
        self.islands.clicked.connect(lambda on: self._rule("Needless parts", islands=on))
        self.body.addWidget(self.islands)
        self.pin = self._box("In the best order", self._take_pin)
        self.pin.addItems(list(_PINS))
        self.above = self._box("Lies above", self._take_above)
        self.into = self._box("Laid together with", self._take_into)
        line = QHBoxLayout()
        self.by_pieces, self.by_line = QPushButton("Take pieces out"), QPushButton("Split by a line")
        for button, tool in ((self.by_pieces, "pieces"), (self.by_line, "line")):
            button.setCheckable(True)
            button.setProperty("small", True)
            button.clicked.connect(lambda on, tool=tool: step.draw_with(tool if on else None))
            line.addWidget(button)
        self.body.addLayout(line)
        self.apart = QPushButton()
        self.apart.clicked.connect(self._take_apart)
        self.fewer = QPushButton("One copy fewer")
        self.fewer.clicked.connect(self._fewer)
        self.body.addWidget(self.apart)
        self.body.addWidget(self.fewer)
        shelf.changed.connect(step.refresh)

    def _box(self, name: str, act) -> Choice:
        box = narrow_box(name)
        box.activated.connect(lambda _: act())
        self.body.addWidget(box)
        return box

    def _rule(self, what: str, /, **changes: object) -> None:
        self._step.rule(what, self.key, **changes)

    @property
    def _layer(self) -> Layer | None:
        result = self._step.model.result
        return result.stack.layer(self.key) if result is not None and result.has("mended") else None

    def _take_way(self) -> None:
        self._rule("Way of a layer", build=_WAYS[self.way.currentText()])

    def _take_pin(self) -> None:
        self._rule("Pin of a layer", pin=_PINS[self.pin.currentText()])

    def _take_stock(self) -> None:
        place = self.stock.currentIndex()
        known = {stock.name: stock for stock in self._shelf.things}
        self._rule("Stock", stock=known.get(self.stock.itemText(place)) if place else None)

    def _take_nearest(self) -> None:
        layer = self._layer
        found = nearest_stock(self._of_kind(), colour_of(layer.ink.hex)) if layer is not None else None
        if found is not None:
            self._rule("Nearest stock", stock=found[0])

    def _of_kind(self) -> list:
        """Stocks of the kind that the layer, or the stack, is cut from; all where that is open."""
        stock = self._step.model.recipe.layers.stock_of(self.key)
        return [other for other in self._shelf.things if stock is None or other.kind == stock.kind]

    def _take_above(self) -> None:
        place = self.above.currentIndex()
        self._rule("Pin of a layer", above=(self.above.itemData(place),) if place else ())

    def _take_into(self) -> None:
        place = self.into.currentIndex()
        self._rule("Layers laid together" if place else "Layers taken apart", into=self.into.itemData(place) or "")

    def _take_apart(self) -> None:
        layers = self._step.model.recipe.layers
        if "/" in self.key:
            own = origin_of(self.key) if "+" in self.key else self.key
            gone = {own}
            for part in layers.parts:  # what was taken from a part that goes, goes with it
                gone |= {part_key(part)} if part.layer in gone else set()
            kept = tuple(part for part in layers.parts if part_key(part) not in gone)
            self._step.change("Part put back", parts=kept)
            return
        rules = tuple(rule for rule in layers.rules)
        for rule in layers.rules:
            if layers.root(rule.ink) == self.key and rule.into:
                rules = layers.with_rule(rule.ink, into="")
                break
        self._step.change("Layers taken apart", rules=rules)

    def _fewer(self) -> None:
        key = origin_of(self.key) if "+" in self.key else self.key
        self._step.rule("One copy fewer", key, copies=max(0, self._step.model.recipe.layers.rule(key).copies - 1))

    def show_result(self, result: Result) -> None:
        """Show what holds for the layer in hand."""
        layer = self._layer
        self.setVisible(layer is not None)
        if layer is None:
            return
        settings = self._step.model.recipe.layers
        rule = settings.rule(self.key)
        self.aside.setText(layer.name if len(layer.name) < 18 else f"{layer.name[:17]}…")
        own = self.key in result.grouping.keys
        one = settings.build in ("single", "stencil")
        self._show_stock(layer, rule.stock is not None)
        self.kind.setCurrentText(next(words for words, kind in _KINDS.items() if kind == rule.kind))
        self.way.setCurrentText(next(words for words, way in _WAYS.items() if way == rule.build))
        self.pin.setCurrentText(next(words for words, pin in _PINS.items() if pin == rule.pin))
        self.ground.setCurrentText(next(words for words, fill in _GROUND.items() if fill == rule.fill_ground))
        self.islands.setChecked(rule.islands)
        every = self.more.isChecked()
        self.more.setText("Less of this layer" if every else "More of this layer")
        self.more.setVisible(not one or bool(result.grouping.enclosed.any()))
        carried = own and settings.way(self.key) == "carried" and not one
        for widget, shows in (
            (self.kind, (every or rule.kind != "cut") and not one and self.key != BASE and "+" not in self.key),
            (self.way, own and not one and rule.kind == "cut"),
            (self.islands, (every or rule.islands) and carried),
            (self.pin, (every or rule.pin) and own and not one),
            (self.above, (every or rule.above) and own and not one and len(result.grouping.keys) > 1),
            (
                self.into,
                (every or rule.into)
                and own
                and not one
                and self.key in result.palette
                and len(result.grouping.keys) > 1,
            ),
            (
                self.ground,
                (every or rule.fill_ground is not None)
                and (own or self.key == BASE or one)
                and result.grouping.enclosed.any(),
            ),
            (self.by_pieces, every and not one and "+" not in self.key and self.key != BASE and layer.pieces > 1),
            (self.by_line, every and not one and "+" not in self.key and self.key != BASE),
        ):
            widget.setVisible(bool(shows))
            widget.setEnabled(not rule.locked)
        self._list(self.above, "Lies above: anything", result, rule.above[:1])
        self._list(self.into, "Laid together with: none", result, (rule.into,))
        together = any(settings.root(other.ink) == self.key and other.into for other in settings.rules)
        self.apart.setVisible("/" in self.key or together)
        self.apart.setText("Put the part back" if "/" in self.key else "Take the layers apart")
        copies = settings.rule(origin_of(self.key) if "+" in self.key else self.key).copies
        self.fewer.setVisible(copies > 0)

    def _show_stock(self, layer: Layer, own: bool) -> None:
        stocks = self._shelf.things
        self.stock.clear()
        stack = self._step.model.recipe.layers.stock
        self.stock.addItem(f"As the stack: {stack.name if stack else 'any stock'}")
        for stock in stocks:
            self.stock.addItem(swatch(stock.colour or layer.ink.hex, 14), stock.name)
        names = [stock.name for stock in stocks]
        if own and layer.stock is not None and layer.stock.name in names:
            self.stock.setCurrentIndex(1 + names.index(layer.stock.name))
        elif own and layer.stock is not None:
            self.stock.addItem(f"{layer.stock.name} (of this job)")
            self.stock.setCurrentIndex(self.stock.count() - 1)
        found = nearest_stock(self._of_kind(), colour_of(layer.ink.hex))
        shows = found is not None and (layer.stock is None or found[0].name != layer.stock.name)
        self.propose.setVisible(shows)
        if found is not None:
            self.propose.setIcon(swatch(found[0].colour, 14))
            self.propose.setText(f"Nearest in colour: {found[0].name}")
            self.propose.setToolTip(f"{found[1]:.1f} apart (CIEDE2000); under 2 hardly anyone sees it")
        self.cautions.setVisible(layer.stock is not None)
        if layer.stock is not None:
            carrier = "stays on its carrier" if layer.stock.carrier else "is placed by hand"
            back = "cut mirrored, on its back; " if layer.stock.mirrored else ""
            words = " ".join(cautions_for(layer.stock.kind))
            self.cautions.setText(f"{layer.stock.kind.capitalize()}: {back}what comes loose {carrier}. {words}")

    def _list(self, box: Choice, first: str, result: Result, chosen: tuple[str, ...]) -> None:
        box.clear()
        box.addItem(first, "")
        words = first.split(":")[0]
        for key, ink in zip(result.grouping.keys, result.grouping.dress, strict=True):
            if key != self.key and (box is self.above or key in result.palette):
                box.addItem(swatch(ink.hex, 14), f"{words}: {ink.name}", key)
                if key in chosen:
                    box.setCurrentIndex(box.count() - 1)
