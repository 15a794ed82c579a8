"""The Layers step: how each is built, their order, and layers of lines."""

from collections.abc import Iterator

from sketchloom.app.canvas.tools import JoinTool, Tool
from sketchloom.app.commands import Command
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.layers.centre_lines import CentreLinesCard
from sketchloom.app.steps.layers.double_edges import DoubleEdgesCard
from sketchloom.app.steps.layers.order import OrderCard
from sketchloom.app.steps.layers.ways import WaysCard
from sketchloom.core.job import Result
from sketchloom.core.layers import Join

__all__ = ["LayersStep"]


class LayersStep(Step):
    """The way layers are built, which lies on which, and which are lines."""

    key, name, view, needs = "layers", "Layers", "Layers", ("layers",)

    def build(self) -> None:
        """Make the cards."""
        self._tool: Tool | None = None
        self.ways, self.order = WaysCard(self), OrderCard(self)
        self.double, self.centre = DoubleEdgesCard(self), CentreLinesCard(self)
        for card in (self.ways, self.order, self.double, self.centre):
            self.add(card)

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give the ways, and the tool for lines."""
        have = lambda: self.model.job is not None  # noqa: E731
        for way, button in self.ways.ways.items():
            words = button.text().split("\n")[0].lower()
            yield f"layers-{way}", Command(f"Layers: build them {words}", self.here(button.click), can=have)
        join = Command(
            "Layers: join two ends of centre lines",
            self.here(self.centre.join.click),
            help=JoinTool.help,
            can=lambda: (
                self.model.result is not None
                and self.model.result.has("layers")
                and bool(self.model.result.stack.strokes)
            ),
        )
        yield "layers-join", join

    def draw_with(self, tool: str | None) -> None:
        """Take the tool that joins ends in hand, or put it away."""
        if tool is None and self.drawing is None:
            return
        self.drawing = tool
        self._tool = JoinTool(self.model) if tool is not None and self.model.result is not None else None
        if self._tool is not None:
            self._tool.done.connect(self._take)
        self.centre.join.setChecked(tool is not None)
        self.tool_changed.emit(self._tool)

    def _take(self, join: Join) -> None:
        self.model.change("Ends joined", "layers", joins=(*self.model.recipe.layers.joins, join))

    def show_result(self, result: Result) -> None:
        """Show all cards."""
        if self.drawing is not None and not result.stack.strokes:
            self.draw_with(None)
        for card in (self.ways, self.order, self.double, self.centre):
            card.show_result(result)

    def figure(self, result: Result) -> str:
        """The way of building."""
        return result.stack.build
