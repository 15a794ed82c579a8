"""The card with the figures of the curves."""

from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.trace.desk import TraceDesk
from sketchloom.core.job import Result, deviation_mm
from sketchloom.core.measures import in_unit

__all__ = ["FiguresCard"]


class FiguresCard(Card):
    """How many nodes there are, and how far edges lie from curves."""

    def __init__(self, step: TraceDesk) -> None:
        super().__init__("Curves")
        self._step = step
        self.nodes, self.kinds, self.mean, self.largest = (QLabel() for _ in range(4))
        self.row("Nodes", self.nodes)
        self.row("Lines, circular arcs, other curves", self.kinds)
        self.row("Mean deviation, bumps included", self.mean)
        self.row("Largest deviation", self.largest)
        self.heat = QPushButton("Show deviation")
        self.heat.setCheckable(True)
        self.heat.setToolTip("Edges in colour: the redder, the farther the curve lies from the picture")
        self.heat.toggled.connect(step.heat_changed)
        self.worst = QPushButton("Worst place")
        self.worst.setToolTip("Look at the place where a curve lies farthest from the picture (W)")
        self.worst.clicked.connect(step.show_worst)
        line = QHBoxLayout()
        line.addWidget(self.heat)
        line.addWidget(self.worst)
        self.body.addLayout(line)
        self.legend = faded()
        self.body.addWidget(self.legend)

    def show_result(self, result: Result) -> None:
        """Show the figures."""
        unit = self._step.unit()
        largest, mean = deviation_mm(result)
        self.nodes.setText(str(self._step.nodes_of(result)))
        straight, round_ = int(result.curves.straight.sum()), int(result.curves.round.sum())
        self.kinds.setText(f"{straight}, {round_}, {len(result.curves.straight) - straight - round_}")
        self.mean.setText(f"{in_unit(mean, unit, 3)} {unit}")
        self.largest.setText(f"{in_unit(largest, unit, 2)} {unit}")
        self.legend.setText(
            "Deviation is the distance from the picture's edges to the curves: "
            f"blue is none, red {in_unit(largest, unit, 2)} {unit}."
        )
