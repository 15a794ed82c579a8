"""The card for outlines that were meant as one line."""

from PySide6.QtWidgets import QVBoxLayout

from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.list_row import ListRow, refilled
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.measures import in_unit

__all__ = ["DoubleEdgesCard"]

_EDGES = {"both": "Both edges", "outer": "Outer edge", "inner": "Inner edge", "centre": "Centre"}


class DoubleEdgesCard(Card):
    """Outlines that were meant as one line and would be cut twice."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("Double edges")
        self._step = step
        self._shown: object = None
        self.body.addWidget(faded("A line round something is cut along both its sides. Is one cut enough?"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(6)
        self.body.addLayout(self.rows)

    def choose(self, key: str, edge: str) -> None:
        """Cut an ink's line along both edges, one of them, or its centre."""
        rules = self._step.model.recipe.layers.with_rule(key, edge=edge)
        self._step.model.change("Double edge", "layers", rules=rules)

    def show_result(self, result: Result) -> None:
        """List the layers that are one line."""
        settings, unit = self._step.model.recipe.layers, self._step.unit()
        self.setVisible(bool(result.double))
        rows = tuple(
            (ink, in_unit(edge.width, unit, 1), settings.rule(edge.ink).edge)
            for edge in result.double
            if (ink := result.palette.get(edge.ink)) is not None
        )
        shown = rows, unit, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            for ink, width, edge in rows:
                box = Choice()
                box.setAccessibleName(f"Where {ink.name} is cut")
                box.addItems(list(_EDGES.values()))
                box.setCurrentIndex(list(_EDGES).index(edge))
                box.activated.connect(lambda place, key=ink.key: self.choose(key, list(_EDGES)[place]))
                row = ListRow(f"{ink.name}, {width} {unit} wide", swatch(ink.hex, 14), behind=(box,))
                self.rows.addWidget(row)
