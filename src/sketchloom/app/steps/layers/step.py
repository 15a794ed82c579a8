"""The Layers step: how each is built and from what, their order, and layers of lines."""

from collections.abc import Iterator

from PySide6.QtCore import Signal

from sketchloom.app.canvas.tools import AcrossTool, JoinTool, PickTool, Tool
from sketchloom.app.commands import Command
from sketchloom.app.frame import Frame
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.layers.behind import BehindCard
from sketchloom.app.steps.layers.centre_lines import CentreLinesCard
from sketchloom.app.steps.layers.details import DetailCard, HiddenCard
from sketchloom.app.steps.layers.double_edges import DoubleEdgesCard
from sketchloom.app.steps.layers.ground import GroundCard
from sketchloom.app.steps.layers.layer import LayerCard
from sketchloom.app.steps.layers.order import OrderCard
from sketchloom.app.steps.layers.stack import BaseCard, SlipCard
from sketchloom.app.steps.layers.stocks import StockCard, StocksCard
from sketchloom.app.steps.layers.ways import WaysCard
from sketchloom.app.steps.layers.weights import WeightsCard
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Result, layer_key_at
from sketchloom.core.layers import Join, LayerPart
from sketchloom.core.picture import Point

__all__ = ["LayersStep"]

_HELP = {
    "detail": "Click the detail.",
    "pieces": "Click pieces of the layer in hand, one after the other; they become a layer of their own.",
    "line": "Drag across the layer in hand; what lies on the left of the line becomes a layer of its own.",
}


class LayersStep(Step):
    """The way layers are built, which lies on which, and which are lines."""

    key, name, view, needs = "layers", "Layers", "Layers", ("mended",)
    layer_wanted = Signal(str)
    """A layer was chosen here."""
    pointed = Signal(object)
    """A place to point out, or None."""

    def build(self) -> None:
        """Make the cards."""
        self._tool: Tool | None = None
        self._part: LayerPart | None = None
        self.shelf = self.model.shelf
        self.ways, self.order = WaysCard(self), OrderCard(self)
        self.layer, self.slip, self.base = LayerCard(self, self.shelf), SlipCard(self), BaseCard(self)
        self.ground, self.detail, self.hidden = GroundCard(self), DetailCard(self), HiddenCard(self)
        self.stock, self.stocks = StockCard(self, self.shelf), StocksCard(self, self.shelf)
        self.weights = WeightsCard(self)
        self.double, self.centre = DoubleEdgesCard(self), CentreLinesCard(self)
        self.behind = BehindCard(self)
        self.order.selected.connect(self.layer_wanted)
        for way in ("backed", "stencil"):  # what such a way is about stands open then
            self.ways.ways[way].clicked.connect(lambda: self.base.fold(False))
        for card in (self.ways, self.order, self.stock, self.layer):
            self.add(card)
        for card in (
            self.slip,
            self.base,
            self.ground,
            self.detail,
            self.hidden,
            self.double,
            self.centre,
            self.behind,
        ):
            self.add(card, folded=True)
        for card in (self.weights, self.stocks):
            self.add(card, folded=True)

    def attach(self, frame: Frame) -> None:
        """Choose layers everywhere, and point places out."""
        self.layer_wanted.connect(frame.ledger.select)
        self.pointed.connect(frame.canvas.point_out)

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give the ways, and the tools."""
        have = lambda: self.model.job is not None  # noqa: E731
        for way, button in self.ways.ways.items():
            words = button.text().split("\n")[0].lower()
            yield f"layers-{way}", Command(f"Layers: build them {words}", self.here(button.click), can=have)
        lines = lambda: (  # noqa: E731
            self.model.result is not None and self.model.result.has("mended") and bool(self.model.result.stack.strokes)
        )
        words, act = "Layers: join two ends of centre lines", self.here(self.centre.join.click, self.centre)
        yield "layers-join", Command(words, act, help=JoinTool.help, can=lines)
        yield "layers-best", Command("Layers: take the best order", self.here(self._take_best), can=have)
        for name, tool in (("choose a detail", "detail"), ("split by a line", "line"), ("take pieces out", "pieces")):
            act = lambda tool=tool: self.draw_with(tool)  # noqa: E731
            card = self.detail if tool == "detail" else self.layer
            yield f"layers-{tool}", Command(f"Layers: {name}", self.here(act, card), help=_HELP[tool], can=have)

    def _take_best(self) -> None:
        self.change("Best order", best=True)

    def change(self, name: str, **changes: object) -> None:
        """Change settings of the whole stack."""
        self.model.change(name, "layers", **changes)

    def length(self, name: str, setting: str, mm: float) -> None:
        """Change a length, if it can be used; else say why not, and show the old one."""
        recipe = self.model.recipe.with_("layers", **{setting: mm})
        try:
            recipe.check_part("layers")
        except ArgumentError as error:
            self.model.said.emit(str(error))
            self.refresh()
            return
        self.change(name, **{setting: mm})

    def rule(self, what: str, key: str, /, unlocks: bool = False, **changes: object) -> None:
        """Change the rule of a layer, unless it is locked."""
        layers = self.model.recipe.layers
        if not key:
            return
        if layers.rule(key).locked and not unlocks:
            self.model.said.emit("This layer is locked; free it in the order first.")
            self.refresh()
            return
        rules = layers.with_rule(key, **changes)
        try:
            self.model.recipe.with_("layers", rules=rules).check_part("layers")
        except ArgumentError as error:
            self.model.said.emit(str(error))
            self.refresh()
            return
        self.change(what, rules=rules)

    def select(self, key: str) -> None:
        """Take the layer that was selected in hand."""
        if not key or key == self.layer.key:
            return
        if self.drawing in ("pieces", "line"):
            self.draw_with(None)
        self.layer.key = key
        self.order.select(key)
        self.refresh()

    def new_job(self) -> None:
        """Let go of the layer and the detail in hand."""
        super().new_job()
        self.layer.key = ""
        self.detail.look_at(None)

    def leave(self) -> None:
        """Another step is shown."""
        self.detail.look_at(None)
        self.pointed.emit(None)
        super().leave()

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""
        if tool is None and self.drawing is None:
            return
        self.drawing, self._part = tool, None
        self._tool = self._made(tool) if self.model.result is not None else None
        for button, name in (
            (self.centre.join, "join"),
            (self.detail.pick, "detail"),
            (self.layer.by_pieces, "pieces"),
            (self.layer.by_line, "line"),
        ):
            button.setChecked(tool == name)
        self.tool_changed.emit(self._tool)

    def _made(self, tool: str | None) -> Tool | None:
        made: Tool
        if tool == "join":
            made = JoinTool(self.model)
            made.done.connect(self._take_join)
        elif tool == "line":
            made = AcrossTool(_HELP[tool])
            made.done.connect(self._take_line)
        elif tool in ("detail", "pieces"):
            made = PickTool()
            made.help = _HELP[tool]
            made.done.connect(self.detail.look_at if tool == "detail" else self._take_piece)
        else:
            return None
        made.view = "Layers" if tool != "join" else made.view
        return made

    def _take_join(self, join: Join) -> None:
        self.change("Ends joined", joins=(*self.model.recipe.layers.joins, join))

    def _free_part(self, key: str) -> str:
        taken = {part.name for part in self.model.recipe.layers.parts if part.layer == key}
        return next(str(number) for number in range(2, 10_000) if str(number) not in taken)

    def _takes_parts(self) -> str:
        """Key of the layer in hand if it can be parted; else say why not."""
        key = self.layer.key
        result = self.model.result
        if result is None or not result.has("mended") or result.stack.layer(key) is None or "+" in key:
            self.model.said.emit("Choose the layer to part in the order first.")
            return ""
        if self.model.recipe.layers.rule(key).locked:
            self.model.said.emit("This layer is locked; free it in the order first.")
            return ""
        return key

    def _take_line(self, ends: tuple[Point, Point]) -> None:
        key = self._takes_parts()
        if key:
            part = LayerPart(key, self._free_part(key), line=ends)
            self.change("Layer split", parts=(*self.model.recipe.layers.parts, part))
            self.draw_with(None)

    def _take_piece(self, at: Point) -> None:
        key, result = self._takes_parts(), self.model.result
        if not key or result is None:
            return
        if layer_key_at(result, at) != key:
            self.model.said.emit("No piece of the layer in hand lies there.")
            return
        parts = list(self.model.recipe.layers.parts)
        if self._part is not None and self._part in parts:
            place = parts.index(self._part)
            self._part = parts[place] = LayerPart(key, self._part.name, places=(*self._part.places, at))
        else:
            self._part = LayerPart(key, self._free_part(key), places=(at,))
            parts.append(self._part)
        self.change("Pieces taken out", parts=tuple(parts))

    def show_result(self, result: Result) -> None:
        """Show all cards."""
        if self.drawing == "join" and not result.stack.strokes:
            self.draw_with(None)
        if result.stack.layer(self.layer.key) is None and result.stack.layers:
            self.layer.key = result.stack.layers[-1].key
        for card in self.cards:
            card.show_result(result)

    def figure(self, result: Result) -> str:
        """The way of building."""
        hidden = len(result.stack.layers) - len(result.stack.sent)
        return f"{result.stack.build}, {hidden} hidden" if hidden else result.stack.build
