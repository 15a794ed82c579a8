"""The card for work by hand on curves."""

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QWidget

from sketchloom.app.canvas.tools import STRETCHES, NodeTool
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.trace.desk import TraceDesk
from sketchloom.core.curves import CurveEdit
from sketchloom.core.job import Result

__all__ = ["HandCard"]

_WORDS = {"nodes": "Nodes", "straighten": "Straighten", "smooth": "Smooth", "close": "Close"}


class HandCard(Card):
    """Tools, and what was done with them."""

    def __init__(self, step: TraceDesk) -> None:
        super().__init__("By hand")
        self._step = step
        grid = QGridLayout()
        self.tools: dict[str, QPushButton] = {}
        for number, (key, words) in enumerate(_WORDS.items()):
            button = QPushButton(words)
            button.setCheckable(True)
            button.setToolTip(NodeTool.help if key == "nodes" else STRETCHES[key].help)
            button.clicked.connect(lambda on, key=key: step.draw_with(key if on else None))
            self.tools[key] = button
            grid.addWidget(button, number // 2, number % 2)
        self.body.addLayout(grid)
        self.edits = faded()
        self.back, self.none = QPushButton("Take back the last"), QPushButton("Take back all")
        self.back.clicked.connect(self._take_back)
        self.none.clicked.connect(lambda: step.keep((), "All work by hand taken back"))
        self._rows = QWidget()
        line = QHBoxLayout(self._rows)
        line.setContentsMargins(0, 0, 0, 0)
        line.addWidget(self.back)
        line.addWidget(self.none)
        self.body.addWidget(self.edits)
        self.body.addWidget(self._rows)

    def _take_back(self) -> None:
        self._step.keep(self._step.model.recipe.trace.edits[:-1], "Work by hand taken back")

    def show_result(self, result: Result) -> None:
        """Show what was done by hand, and what of it found no place."""
        edits: tuple[CurveEdit, ...] = self._step.model.recipe.trace.edits
        known = result.recipe.trace.edits == edits
        lost = [edits[place].what.lower() for place in result.unplaced if known and place < len(edits)]
        words = f"{len(edits)} change{'' if len(edits) == 1 else 's'} by hand." if edits else ""
        if lost:
            words += f" {len(lost)} found no place on the new curves: {', '.join(lost)}."
        self.edits.setText(words)
        self.edits.setVisible(bool(edits))
        self._rows.setVisible(bool(edits))
