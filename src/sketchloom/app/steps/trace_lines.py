"""Cards of the Trace step for lines: centre lines beside the layers, and double edges."""

from typing import TYPE_CHECKING

from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.canvas.node_tools import JoinTool
from sketchloom.app.fields import Card, faded, in_unit
from sketchloom.app.steps.base import empty_rows, swatch
from sketchloom.app.theme import theme
from sketchloom.core.job import Result, ink_keys

if TYPE_CHECKING:
    from sketchloom.app.steps.trace import TraceStep

__all__ = ["CentreLinesCard", "DoubleEdgesCard"]

_EDGES = {"both": "Both edges", "outer": "Outer edge", "inner": "Inner edge", "centre": "Centre"}


class CentreLinesCard(Card):
    """Which inks get a layer of open strokes too."""

    def __init__(self, step: "TraceStep") -> None:
        super().__init__("Centre lines")
        self._step = step
        self._shown: object = None
        self.body.addWidget(faded("For a pen, foil or an engraver: one line along the middle of each stroke."))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(6)
        self.body.addLayout(self.rows)
        self.join = QPushButton("Join two ends")
        self.join.setCheckable(True)
        self.join.setToolTip(JoinTool.help)
        self.join.clicked.connect(lambda on: step.draw_with("join" if on else None))
        self.apart = QPushButton("Take back all joins")
        self.apart.clicked.connect(lambda: step.model.change("Joins taken back", "layers", joins=()))
        self.joins = faded()
        for widget in (self.join, self.joins, self.apart):
            self.body.addWidget(widget)

    def choose(self, key: str, on: bool) -> None:
        """Ask for an ink's centre lines, or no longer."""
        kept = [code for code in self._step.model.recipe.layers.strokes if code != key]
        strokes = (*kept, key) if on else tuple(kept)
        self._step.model.change("Centre lines" if on else "No centre lines", "layers", strokes=strokes)

    def show_result(self, result: Result) -> None:
        """List the inks, and the lines of those that were chosen."""
        chosen, unit = self._step.model.recipe.layers.strokes, self._step.unit()
        joins = self._step.model.recipe.layers.joins
        self.join.setVisible(bool(result.stack.strokes))
        for widget in (self.joins, self.apart):
            widget.setVisible(bool(joins))
        lost = f"; {result.lost_joins} found no open ends" if result.lost_joins else ""
        self.joins.setText(f"{len(joins)} join{'' if len(joins) == 1 else 's'}{lost}.")
        found = {"#{:02x}{:02x}{:02x}".format(*layer.ink.key): layer for layer in result.stack.strokes}
        inks = tuple((key, ink.name, ink.hex) for key, ink in zip(ink_keys(result), result.plan.palette, strict=False))
        figures = tuple(
            (key, len(layer.strokes), in_unit(layer.length, unit, 0), in_unit(layer.width, unit, 1))
            for key, layer in found.items()
        )
        shown = inks, chosen, figures, unit, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        empty_rows(self.rows)
        for key, name, code in inks:
            box = QCheckBox(name)
            box.setChecked(key in chosen)
            box.setIcon(swatch(code, 14))
            box.clicked.connect(lambda on, key=key: self.choose(key, on))
            self.rows.addWidget(box)
            if key in chosen:
                self.rows.addWidget(faded(self._figure(key, found, unit)))

    def _figure(self, key: str, found: dict, unit: str) -> str:
        layer = found.get(key)
        if layer is None:
            return "It has no strokes that a line could follow."
        lines = f"{len(layer.strokes)} line{'' if len(layer.strokes) == 1 else 's'}"
        length, width = in_unit(layer.length, unit, 0), in_unit(layer.width, unit, 1)
        return f"{lines}, {length} {unit} long, {width} {unit} wide, {layer.nodes} nodes"


class DoubleEdgesCard(Card):
    """Outlines that were meant as one line and would be cut twice."""

    def __init__(self, step: "TraceStep") -> None:
        super().__init__("Double edges")
        self._step = step
        self._shown: object = None
        self.body.addWidget(faded("A line round something is cut along both its sides. Is one cut enough?"))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(6)
        self.body.addLayout(self.rows)

    def choose(self, key: str, edge: str) -> None:
        """Cut an ink's line along both edges, one of them, or its centre."""
        edges = tuple(pair for pair in self._step.model.recipe.layers.edges if pair[0] != key)
        if edge != "both":
            edges = (*edges, (key, edge))
        self._step.model.change("Double edge", "layers", edges=edges)

    def show_result(self, result: Result) -> None:
        """List the layers that are one line."""
        edges, unit = dict(self._step.model.recipe.layers.edges), self._step.unit()
        self.setVisible(bool(result.double))
        layers = result.stack.layers
        rows = tuple(
            (
                "#{:02x}{:02x}{:02x}".format(*layers[place].ink.key),
                layers[place].name,
                layers[place].ink.hex,
                in_unit(width, unit, 1),
            )
            for place, width in result.double
        )
        shown = rows, tuple(edges.items()), unit, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        empty_rows(self.rows)
        for key, name, code, width in rows:
            self.rows.addWidget(self._row(key, name, code, f"{width} {unit} wide", edges.get(key, "both")))

    def _row(self, key: str, name: str, code: str, words: str, edge: str) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        mark = QLabel()
        mark.setPixmap(swatch(code, 14))
        line.addWidget(mark)
        label = QLabel(f"{name}, {words}")
        label.setWordWrap(True)
        line.addWidget(label, 1)
        box = QComboBox()
        box.setAccessibleName(f"Where {name} is cut")
        box.addItems(list(_EDGES.values()))
        box.setCurrentIndex(list(_EDGES).index(edge))
        box.activated.connect(lambda place: self.choose(key, list(_EDGES)[place]))
        line.addWidget(box)
        return row
