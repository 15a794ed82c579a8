"""Step 3, Trace: how closely the curves keep to the edges."""

from PySide6.QtWidgets import QLabel

from sketchloom.app.fields import Card, LengthField, LogSlider, faded, in_unit
from sketchloom.app.steps.base import Step
from sketchloom.core.job import Result
from sketchloom.core.job.report import deviation_mm

__all__ = ["TraceStep"]


class TraceStep(Step):
    """One control, and what it does to nodes and deviation."""

    key, name, view, before = "trace", "Trace", "Paths", "Regions"

    def build(self) -> None:
        """Make the cards."""
        card = self.add(Card("Smoothness"))
        self.smoothness = LengthField("Smoothness", self.unit, decimals=2)
        self.smoothness.setFixedWidth(90)
        self.smoothness.committed.connect(lambda mm: self._set(mm))
        card.row("Curves may stray this far from an edge, on average", self.smoothness)
        self.slider = LogSlider("Smoothness", 0.005, 1.0)
        self.slider.moved.connect(lambda value, gesture: self._set(value, gesture))
        self.slider.rested.connect(self.model.rest)
        card.body.addWidget(self.slider)
        card.body.addWidget(faded("Left: closer to the picture, more nodes. Right: smoother, fewer nodes."))
        figures = self.add(Card("Curves"))
        self.nodes, self.straight, self.mean, self.largest = (QLabel() for _ in range(4))
        figures.row("Nodes", self.nodes)
        figures.row("Straight segments", self.straight)
        figures.row("Mean deviation", self.mean)
        figures.row("Largest deviation", self.largest)
        figures.body.addWidget(
            faded("Deviation is the distance from the picture's edges to the curves. Hold N to see nodes.")
        )

    def _set(self, mm: float, gesture: int | None = None) -> None:
        self.model.change("Smoothness", "trace", gesture, smoothness=min(max(float(f"{mm:.3g}"), 0.0), 100.0))

    def show_result(self, result: Result) -> None:
        """Show the control and its effect."""
        smoothness, unit = self.model.recipe.trace.smoothness, self.unit()
        self.smoothness.show_mm(smoothness)
        self.slider.show_value(smoothness)
        largest, mean = deviation_mm(result)
        self.nodes.setText(str(sum(layer.path.nodes for layer in result.stack.layers)))
        self.straight.setText(str(sum(int(f.sum()) for layer in result.stack.layers for f in layer.path.straight)))
        self.mean.setText(f"{in_unit(mean, unit, 3)} {unit}")
        self.largest.setText(f"{in_unit(largest, unit, 2)} {unit}")

    def figure(self, result: Result) -> str:
        """Largest deviation."""
        return f"within {in_unit(deviation_mm(result)[0], self.unit(), 2)} {self.unit()}"
