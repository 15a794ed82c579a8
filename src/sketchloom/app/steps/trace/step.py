"""The Trace step: how closely the curves keep to the edges, what is straight, and work by hand."""

from collections.abc import Iterator

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel

from sketchloom.app.canvas.tools import EdgeBrush, NodeTool, StretchTool, Tool
from sketchloom.app.commands import Command
from sketchloom.app.frame import Frame
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.trace.controls import CornersCard, PurposeCard, SmoothnessCard, StraightCard
from sketchloom.app.steps.trace.figures import FiguresCard
from sketchloom.app.steps.trace.hand import HandCard
from sketchloom.core.curves import PRESETS, CurveEdit, preset
from sketchloom.core.job import Recipe, Result, deviation_mm, worst_place
from sketchloom.core.measures import in_unit
from sketchloom.core.picture import Point

__all__ = ["TraceStep"]

_NAMES = {
    "smoothness": "Smoothness",
    "straightness": "Straightness",
    "corner": "Corners",
    "square": "Square up",
    "mirror": "Halves alike",
}


_ZOOM = 8.0
"""Screen pixels a pixel of the picture, at which the worst place is shown at least."""


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
        self._before: tuple[Recipe, int] | None = None
        """The recipe, and its nodes, that the effect of a control is measured against."""
        self._changed: tuple[QLabel, dict[str, object]] | None = None
        """Where the effect is told, and which settings it is of."""
        self.purpose, self.smoothness, self.hand = PurposeCard(self), SmoothnessCard(self), HandCard(self)
        self.figures, self.straight, self.corners = FiguresCard(self), StraightCard(self), CornersCard(self)
        for card in (self.purpose, self.smoothness, self.figures, self.hand):
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

    def attach(self, frame: Frame) -> None:
        """Show deviation, and go to places, on the paths alone."""

        def heat(on: bool) -> None:
            frame.canvas.scene.heat = on
            frame.show_view("Paths", alone=on)

        def go(place: Point) -> None:
            frame.show_view("Paths", alone=True)
            frame.canvas.go_to(place, _ZOOM)

        self.heat_changed.connect(heat)
        self.go_to.connect(go)

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
        result = self.model.result
        photo = result is not None and result.has("road") and result.road.mode == "photo"
        self._set(f"Trace for {name.lower()}", "smoothness", None, preset(name, photo))

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
            self._tool.done.connect(self._add)
            self._tool.ended.connect(lambda: self.draw_with(None))
        for key, button in self.hand.tools.items():
            button.setChecked(key == tool)
        self.tool_changed.emit(self._tool)

    def _add(self, work: tuple[CurveEdit, ...]) -> None:
        """Do more work by hand; what belongs to one gesture is one step of undo."""
        gesture = self._tool.gesture if self._tool is not None else None
        self.model.change(work[0].what, "trace", gesture, edits=(*self.model.recipe.trace.edits, *work))
        self.model.rest()

    def keep(self, edits: tuple[CurveEdit, ...], name: str) -> None:
        """Make some work by hand all there is."""
        self.model.change(name, "trace", edits=edits)

    def set_control(self, key: str, value: float, gesture: int | None = None) -> None:
        """Set a control, and remember what its effect is measured against."""
        most = 180.0 if key == "corner" else 45.0 if key == "square" else 100.0
        self._set(_NAMES[key], key, gesture, {key: min(max(float(f"{value:.3g}"), 0.0), most)})

    def nodes_of(self, result: Result) -> int:
        """Nodes of all layers that are cut."""
        return sum(layer.path.nodes for layer in result.stack.sent)

    def _set(self, name: str, key: str, gesture: int | None, changes: dict[str, object]) -> None:
        """Change settings, and remember how many nodes there were before."""
        result = self.model.result
        if result is not None and not self.model.stale:
            self._before = self.model.recipe, self.nodes_of(result)
        self._forget_effect()
        self._changed = self.effects[key], changes
        self.model.change(name, "trace", gesture, **changes)

    def _forget_effect(self) -> None:
        self._changed = None
        for label in self.effects.values():
            label.setText("")

    def new_job(self) -> None:
        """Put the tool away; effects on another job say nothing."""
        super().new_job()
        self._before = None
        self._forget_effect()

    def show_result(self, result: Result) -> None:
        """Show the controls and their effect."""
        for card in (self.purpose, self.smoothness, self.hand, self.figures, self.straight, self.corners):
            card.show_result(result)
        if self._changed is None or self._before is None:
            return
        (before, had), (label, changes) = self._before, self._changed
        if self.model.recipe != before.with_("trace", **changes):  # undone, or changed elsewhere too
            self._forget_effect()
        elif result.recipe == self.model.recipe and not result.preview:
            more = self.nodes_of(result) - had
            nodes = f"{abs(more)} node{'' if abs(more) == 1 else 's'}"
            label.setText(f"adds {nodes}" if more > 0 else f"saves {nodes}" if more else "same nodes")

    def figure(self, result: Result) -> str:
        """Largest deviation."""
        return f"within {in_unit(deviation_mm(result)[0], self.unit(), 2)} {self.unit()}"
