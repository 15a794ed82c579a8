"""Step 4, Trace: how closely the curves keep to the edges, what is straight, and work by hand."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from sketchloom.app.canvas.node_tools import STRETCHES, EdgeBrush, JoinTool, NodeTool, StretchTool
from sketchloom.app.canvas.tools import Tool
from sketchloom.app.fields import Card, LengthField, LogSlider, faded, in_unit
from sketchloom.app.steps.base import Step
from sketchloom.app.steps.trace_lines import CentreLinesCard, DoubleEdgesCard
from sketchloom.core.curves import PRESETS, CurveEdit
from sketchloom.core.job import Result, worst_place
from sketchloom.core.job.report import deviation_mm
from sketchloom.core.layers import Join

__all__ = ["TraceStep"]

_LEAST_STRAIGHT = 0.01
_SQUARE = 1.5
_MIRROR = 0.5
_WORDS = {"nodes": "Nodes", "straighten": "Straighten", "smooth": "Smooth", "close": "Close"}
_NAMES = {
    "smoothness": "Smoothness",
    "straightness": "Straightness",
    "corner": "Corners",
    "square": "Square up",
    "mirror": "Halves alike",
}
_PURPOSE = {
    "Cut": "For a blade: close to the picture.",
    "Draw": "For a pen: long curves, corners only where they are sharp.",
    "Route": "For a router: what its bit cannot follow is left out.",
}


class TraceStep(Step):
    """Controls, each with what it does to the nodes; deviation; tools for work by hand.

    Attributes
    ----------
    heat : QPushButton
        Whether the canvas shows how far curves lie from edges.
    """

    key, name, view, before = "trace", "Trace", "Paths", "Regions"
    heat_changed = Signal(bool)
    go_to = Signal(object)
    """A source point to look at."""

    def build(self) -> None:
        """Make the cards."""
        self._tool: Tool | None = None
        self._nodes_before: int | None = None
        self._changed: QLabel | None = None
        self._build_purpose()
        self._build_controls()
        self._build_figures()
        self._build_hand()
        self.double = DoubleEdgesCard(self)
        self.add(self.double)
        self.centre = CentreLinesCard(self)
        self.add(self.centre)

    def _build_purpose(self) -> None:
        card = self.add(Card("What for"))
        line = QHBoxLayout()
        self.presets = QButtonGroup(self)
        for name in PRESETS:
            button = QPushButton(name)
            button.setCheckable(True)
            button.setToolTip(_PURPOSE[name])
            button.clicked.connect(lambda _=False, name=name: self.take_preset(name))
            self.presets.addButton(button)
            line.addWidget(button)
        self.presets.setExclusive(False)
        card.body.addLayout(line)

    def _build_controls(self) -> None:
        card = self.add(Card("Smoothness"))
        self.smoothness, self.slider = self._length("Smoothness", "smoothness", 0.005, 1.0)
        card.row("Curves may stray this far from an edge, on average", self.smoothness)
        card.body.addWidget(self.slider)
        self.effects = {"smoothness": card.aside}
        card = self.add(Card("Straight lines"))
        self.straightness, self.straight_slider = self._length("Straightness", "straightness", _LEAST_STRAIGHT, 2.0)
        card.row("What bows no more than this is straight", self.straightness)
        card.body.addWidget(self.straight_slider)
        self.square = QPushButton("Square up lines that lean a little")
        self.square.setCheckable(True)
        self.square.setToolTip(f"Lines that lean less than {_SQUARE:g}° are made level or upright")
        self.square.clicked.connect(lambda on: self._set("square", _SQUARE if on else 0.0))
        card.body.addWidget(self.square)
        self.mirror = QPushButton("Make both halves alike")
        self.mirror.setCheckable(True)
        self.mirror.setToolTip(
            f"The right becomes the mirror image of the left, where they differ by less than {_MIRROR:g} mm"
        )
        self.mirror.clicked.connect(lambda on: self._set("mirror", _MIRROR if on else 0.0))
        card.body.addWidget(self.mirror)
        for key in ("straightness", "square", "mirror"):
            self.effects[key] = card.aside
        card = self.add(Card("Corners"))
        self.corner_label = QLabel()
        self.corner = LogSlider("Corner sharpness", 10.0, 150.0)
        self.corner.moved.connect(lambda value, gesture: self._set("corner", float(round(value)), gesture))
        self.corner.rested.connect(self.model.rest)
        card.row("An edge that turns more sharply has a corner", self.corner_label)
        card.body.addWidget(self.corner)
        self.effects["corner"] = card.aside

    def _length(self, name: str, key: str, low: float, high: float) -> tuple[LengthField, LogSlider]:
        field = LengthField(name, self.unit, decimals=3)
        field.setFixedWidth(90)
        field.committed.connect(lambda mm: self._set(key, mm))
        slider = LogSlider(name, low, high)
        slider.moved.connect(
            lambda value, gesture: self._set(key, 0.0 if key == "straightness" and value <= low else value, gesture)
        )
        slider.rested.connect(self.model.rest)
        return field, slider

    def _build_figures(self) -> None:
        card = self.add(Card("Curves"))
        self.nodes, self.kinds, self.mean, self.largest = (QLabel() for _ in range(4))
        card.row("Nodes", self.nodes)
        card.row("Lines, circular arcs, other curves", self.kinds)
        card.row("Mean deviation", self.mean)
        card.row("Largest deviation", self.largest)
        self.heat = QPushButton("Show deviation")
        self.heat.setCheckable(True)
        self.heat.setToolTip("Edges in colour: the redder, the farther the curve lies from the picture")
        self.heat.toggled.connect(self.heat_changed)
        self.worst = QPushButton("Worst place")
        self.worst.setToolTip("Look at the place where a curve lies farthest from the picture (W)")
        self.worst.clicked.connect(self.show_worst)
        line = QHBoxLayout()
        line.addWidget(self.heat)
        line.addWidget(self.worst)
        card.body.addLayout(line)
        self.legend = faded()
        card.body.addWidget(self.legend)

    def _build_hand(self) -> None:
        card = self.add(Card("By hand"))
        grid = QGridLayout()
        self.tools: dict[str, QPushButton] = {}
        for number, (key, words) in enumerate(_WORDS.items()):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setToolTip(NodeTool.help if key == "nodes" else STRETCHES[key].help)
            button.clicked.connect(lambda on, key=key: self.draw_with(key if on else None))
            self.tools[key] = button
            grid.addWidget(button, number // 2, number % 2)
        card.body.addLayout(grid)
        self.edits = faded()
        self.back, self.none = QPushButton("Take back the last"), QPushButton("Take back all")
        self.back.clicked.connect(lambda: self._keep(self.model.recipe.trace.edits[:-1], "Work by hand taken back"))
        self.none.clicked.connect(lambda: self._keep((), "All work by hand taken back"))
        self._edit_rows = QWidget()
        line = QHBoxLayout(self._edit_rows)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self.back)
        line.addWidget(self.none)
        card.body.addWidget(self.edits)
        card.body.addWidget(self._edit_rows)

    def take_preset(self, name: str) -> None:
        """Set all for a purpose."""
        self._note("smoothness")
        self.model.change(f"Trace for {name.lower()}", "trace", **PRESETS[name])

    def show_worst(self) -> None:
        """Look at the place of the largest deviation."""
        result = self.model.result
        place = worst_place(result) if result is not None else None
        if place is not None:
            self.go_to.emit(place)

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""
        if tool == self.drawing and tool is None:
            return
        self.drawing = tool
        self._tool = None
        if tool is not None and self.model.result is not None:
            makers = {"nodes": NodeTool, "join": JoinTool, "close": StretchTool}
            self._tool = makers[tool](self.model) if tool in makers else EdgeBrush(self.model, tool)
            self._tool.done.connect(self._take)
            self._tool.ended.connect(lambda: self.draw_with(None))
        for key, button in self.tools.items():
            button.setChecked(key == tool)
        self.centre.join.setChecked(tool == "join")
        self.tool_changed.emit(self._tool)

    def _take(self, work: tuple[CurveEdit, ...] | Join) -> None:
        if isinstance(work, Join):
            self.model.change("Ends joined", "layers", joins=(*self.model.recipe.layers.joins, work))
            return
        self._keep((*self.model.recipe.trace.edits, *work), work[0].what)

    def _keep(self, edits: tuple[CurveEdit, ...], name: str) -> None:
        self.model.change(name, "trace", edits=edits)

    def _set(self, key: str, value: float, gesture: int | None = None) -> None:
        self._note(key)
        most = 180.0 if key == "corner" else 100.0
        self.model.change(_NAMES[key], "trace", gesture, **{key: min(max(float(f"{value:.3g}"), 0.0), most)})

    def _note(self, key: str) -> None:
        """Remember how many nodes there were before a change."""
        result = self.model.result
        if result is not None and not self.model.stale:
            self._nodes_before = _nodes(result)
            for label in self.effects.values():
                label.setText("")
        self._changed = self.effects[key]

    def show_result(self, result: Result) -> None:
        """Show the controls and their effect."""
        trace, unit = self.model.recipe.trace, self.unit()
        self.smoothness.show_mm(trace.smoothness)
        self.slider.show_value(trace.smoothness)
        self.straightness.show_mm(trace.straightness)
        self.straight_slider.show_value(trace.straightness)
        self.square.setChecked(trace.square > 0)
        self.mirror.setChecked(trace.mirror > 0)
        self.corner_label.setText(f"{trace.corner:g}°")
        self.corner.show_value(trace.corner)
        for button in self.presets.buttons():
            wanted = PRESETS[button.text()]
            button.setChecked(all(getattr(trace, key) == value for key, value in wanted.items()))
        largest, mean = deviation_mm(result)
        nodes = _nodes(result)
        self.nodes.setText(str(nodes))
        if self._changed is not None and self._nodes_before is not None and result.scale == 1:
            more = nodes - self._nodes_before
            self._changed.setText(
                f"adds {more} nodes" if more > 0 else f"saves {-more} nodes" if more else "same nodes"
            )
        straight, round_ = int(result.curves.straight.sum()), int(result.curves.round.sum())
        self.kinds.setText(f"{straight}, {round_}, {len(result.curves.straight) - straight - round_}")
        self.mean.setText(f"{in_unit(mean, unit, 3)} {unit}")
        self.largest.setText(f"{in_unit(largest, unit, 2)} {unit}")
        self.legend.setText(
            "Deviation is the distance from the picture's edges to the curves: "
            f"blue is none, red {in_unit(largest, unit, 2)} {unit}."
        )
        self._show_edits(trace.edits, result)
        self.double.show_result(result)
        self.centre.show_result(result)

    def _show_edits(self, edits: tuple[CurveEdit, ...], result: Result) -> None:
        lost = [edits[place].what.lower() for place in result.unplaced if place < len(edits)]
        words = f"{len(edits)} change{'' if len(edits) == 1 else 's'} by hand." if edits else ""
        if lost:
            words += f" {len(lost)} found no place on the new curves: {', '.join(lost)}."
        self.edits.setText(words)
        self.edits.setVisible(bool(edits))
        self._edit_rows.setVisible(bool(edits))

    def figure(self, result: Result) -> str:
        """Largest deviation."""
        return f"within {in_unit(deviation_mm(result)[0], self.unit(), 2)} {self.unit()}"


def _nodes(result: Result) -> int:
    return sum(layer.path.nodes for layer in result.stack.layers)
