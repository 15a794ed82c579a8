"""The card with the weights by which orders are compared."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel

from sketchloom.app.fields import Card, Field, faded
from sketchloom.app.steps.layers.desk import LayersDesk
from sketchloom.core.job import Result
from sketchloom.core.layers import OrderWeights
from sketchloom.core.measures import area_words, length_words

__all__ = ["WeightsCard"]

_WEIGHTS = {"loose": "A piece placed by hand", "cut": "{} of cut", "area": "{} of material"}
_METRE, _AREA = 1000.0, 100.0 * 100.0
"""mm and mm2 that count as one."""


class WeightsCard(Card):
    """What each thing counts when the best order is looked for."""

    def __init__(self, step: LayersDesk) -> None:
        super().__init__("What an order costs")
        self._step = step
        self.fields: dict[str, Field] = {}
        self._words: dict[str, QLabel] = {}
        for name, words in _WEIGHTS.items():
            field = Field()
            field.setFixedWidth(64)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.editingFinished.connect(lambda name=name: self._take(name))
            self.fields[name] = field
            line = self.row(words, field)
            self._words[name] = line.itemAt(0).widget()
        self.body.addWidget(faded("The best order comes to the least; 0 leaves a thing out of account."))

    def _take(self, name: str) -> None:
        field, weights = self.fields[name], self._step.model.recipe.layers.weights
        if not field.isModified():
            return
        field.setModified(False)
        try:
            value = float(field.text().replace(",", "."))
        except ValueError:
            value = -1.0
        if not 0 <= value <= 1e6:
            self._step.model.said.emit("A weight is a number from 0 up; 0 leaves it out of account.")
            field.put_back()
            return
        given = {own: getattr(weights, own) for own in _WEIGHTS} | {name: value}
        self._step.change("Weights of the order", weights=OrderWeights(**given))

    def show_result(self, result: Result) -> None:
        """Show the weights in force."""
        one = self._step.model.recipe.layers.build in ("single", "stencil")
        self.setVisible(not one)
        weights = self._step.model.recipe.layers.weights
        unit = self._step.unit()
        metre = "A metre" if unit != "in" else length_words(_METRE, unit)
        for name, field in self.fields.items():
            words = _WEIGHTS[name].format(metre if name == "cut" else area_words(_AREA, unit))
            self._words[name].setText(words)
            field.setAccessibleName(f"Cost of: {words}")
            field.show_text(f"{getattr(weights, name):g}")
