"""The Trace step: how closely the curves keep to the edges, what is straight, and work by hand."""

from collections.abc import Iterator

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel

from sketchloom.app.canvas.tools import EdgeBrush, NodeTool, StretchTool, Tool
from sketchloom.app.commands import Command
from sketchloom.app.fields import in_unit
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.trace.controls import CornersCard, PurposeCard, SmoothnessCard, StraightCard
from sketchloom.app.steps.trace.figures import FiguresCard
from sketchloom.app.steps.trace.hand import HandCard
from sketchloom.core.curves import PRESETS, CurveEdit, preset
from sketchloom.core.job import Result, deviation_mm, worst_place

__all__ = ["TraceStep"]

_NAMES = {
    "smoothness": "Smoothness",
    "straightness": "Straightness",
    "corner": "Corners",
    "square": "Square up",
    "mirror": "Halves alike",
}


class TraceStep(Step):
    """Controls, each with what it does to the nodes; deviation; tools for work by hand."""

    key, name, view, before = "trace", "Trace", "Paths", "Regions"
    needs = ("hand", "finish", "mended")
    heat_changed = Signal(bool)
    go_to = Signal(object)
    """A source point to look at."""

    def build(self) -> None:
        """Make the cards."""
        self._tool: Tool | None = None
        self._nodes_before: int | None = None
        self._changed: QLabel | None = None
        self.purpose, self.smoothness, self.hand = PurposeCard(self), SmoothnessCard(self), HandCard(self)
        self.figures, self.straight, self.corners = FiguresCard(self), StraightCard(self), CornersCard(self)
        for card in (self.purpose, self.smoothness, self.hand, self.figures):
            self.add(card)
        for card in (self.straight, self.corners):
            self.add(card, folded=True)
        straight = self.straight.aside
        self.effects = {
            "smoothness": self.smoothness.aside,
            "corner": self.corners.aside,
            "straightness": straight,
            "square": straight,
            "mirror": straight,
        }

    def commands(self) -> Iterator[tuple[str, Command]]:
        """Give the worst place, deviation, presets and tools."""
        have = lambda: self.model.job is not None  # noqa: E731
        yield "worst", Command("Go to the worst place of the curves", self.here(self.show_worst), "W", can=have)
        yield "heat", Command("Trace: show or hide deviation", self.here(self.figures.heat.click), "H", can=have)
        for name in PRESETS:
            yield (
                f"trace-{name.lower()}",
                Command(f"Trace for {name.lower()}", lambda name=name: self.take_preset(name), can=have),  # type: ignore[misc]
            )
        for key, button in self.hand.tools.items():
            words = f"Trace: {button.text().lower()} by hand"
            yield f"trace-{key}", Command(words, self.here(button.click), can=have, help=button.toolTip())

    def take_preset(self, name: str) -> None:
        """Set all for a purpose."""
        self._note("smoothness")
        result = self.model.result
        photo = result is not None and result.has("road") and result.road.mode == "photo"
        self.model.change(f"Trace for {name.lower()}", "trace", **preset(name, photo))

    def show_worst(self) -> None:
        """Look at the place of the largest deviation."""
        result = self.model.result
        place = worst_place(result) if result is not None and result.has(*self.needs) else None
        if place is not None:
            self.go_to.emit(place)

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""
        if tool == self.drawing and tool is None:
            return
        self.drawing = tool
        self._tool = None
        result = self.model.result
        if tool is not None and result is not None and result.has(*self.needs):
            makers = {"nodes": NodeTool, "close": StretchTool}
            self._tool = makers[tool](self.model) if tool in makers else EdgeBrush(self.model, tool)
            self._tool.done.connect(lambda work: self.keep((*self.model.recipe.trace.edits, *work), work[0].what))
            self._tool.ended.connect(lambda: self.draw_with(None))
        for key, button in self.hand.tools.items():
            button.setChecked(key == tool)
        self.tool_changed.emit(self._tool)

    def keep(self, edits: tuple[CurveEdit, ...], name: str) -> None:
        """Make some work by hand all there is."""
        self.model.change(name, "trace", edits=edits)

    def set_control(self, key: str, value: float, gesture: int | None = None) -> None:
        """Set a control, and remember what its effect is measured against."""
        self._note(key)
        most = 180.0 if key == "corner" else 45.0 if key == "square" else 100.0
        self.model.change(_NAMES[key], "trace", gesture, **{key: min(max(float(f"{value:.3g}"), 0.0), most)})

    def nodes_of(self, result: Result) -> int:
        """Nodes of all layers."""
        return sum(layer.path.nodes for layer in result.stack.layers)

    def _note(self, key: str) -> None:
        """Remember how many nodes there were before a change."""
        result = self.model.result
        if result is not None and not self.model.stale:
            self._nodes_before = self.nodes_of(result)
            for label in self.effects.values():
                label.setText("")
        self._changed = self.effects[key]

    def show_result(self, result: Result) -> None:
        """Show the controls and their effect."""
        for card in (self.purpose, self.smoothness, self.hand, self.figures, self.straight, self.corners):
            card.show_result(result)
        if self._changed is not None and self._nodes_before is not None and result.recipe == self.model.recipe:
            more = self.nodes_of(result) - self._nodes_before
            if not result.preview:
                self._changed.setText(
                    f"adds {more} nodes" if more > 0 else f"saves {-more} nodes" if more else "same nodes"
                )

    def figure(self, result: Result) -> str:
        """Largest deviation."""
        return f"within {in_unit(deviation_mm(result)[0], self.unit(), 2)} {self.unit()}"
