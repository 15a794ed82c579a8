"""The card for centre lines: layers of open strokes beside the layers of faces."""

from PySide6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout

from sketchloom.app.canvas.tools import JoinTool
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.app.steps.list_row import refilled
from sketchloom.app.theme import theme
from sketchloom.core.cut import Cut
from sketchloom.core.job import Result
from sketchloom.core.layers import usual_width
from sketchloom.core.measures import in_unit

__all__ = ["CentreLinesCard"]


class CentreLinesCard(Card):
    """Which inks get a layer of open strokes too."""

    def __init__(self, step: LayersDesk) -> None:
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
        rules = self._step.model.recipe.layers.with_rule(key, centre_line=on)
        self._step.model.change("Centre lines" if on else "No centre lines", "layers", rules=rules)

    def show_result(self, result: Result) -> None:
        """List the inks, and the lines of those that were chosen."""
        settings, unit = self._step.model.recipe.layers, self._step.unit()
        self.join.setVisible(bool(result.stack.strokes))
        for widget in (self.joins, self.apart):
            widget.setVisible(bool(settings.joins))
        many, lost = len(settings.joins), result.centre_lines.lost_joins
        words = f"; {lost} found no open ends" if lost else ""
        chosen = len(settings.centre_lines)
        self.aside.setText(f"{chosen} ink{'' if chosen == 1 else 's'}" if chosen else "none")
        self.joins.setText(f"{many} join{'' if many == 1 else 's'}{words}.")
        found = {layer.ink.key: layer for layer in result.stack.strokes}
        figures = {key: self._figure(layer, unit) for key, layer in found.items()}
        inks = result.palette.cut[::-1]  # as Order lists them, top first
        shown = inks, settings.centre_lines, tuple(figures.items()), theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            for ink in inks:
                box = QCheckBox(ink.name)
                box.setChecked(ink.key in settings.centre_lines)
                box.setIcon(swatch(ink.hex, 14))
                box.clicked.connect(lambda on, key=ink.key: self.choose(key, on))
                self.rows.addWidget(box)
                if ink.key in settings.centre_lines:
                    self.rows.addWidget(faded(figures.get(ink.key, "It has no strokes that a line could follow.")))

    def _figure(self, layer: Cut, unit: str) -> str:
        many = len(layer.path.contours)
        length, width = in_unit(layer.cut_length, unit, 0), in_unit(usual_width(layer), unit, 1)
        lines = f"{many} line{'' if many == 1 else 's'}"
        return f"{lines}, {length} {unit} long, {width} {unit} wide, {layer.path.nodes} nodes"
