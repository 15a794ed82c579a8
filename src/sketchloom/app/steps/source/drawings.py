"""The card with the drawings that stand apart on a page."""

from PySide6.QtWidgets import QGridLayout, QPushButton

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.source.desk import SourceDesk
from sketchloom.core.job import Result
from sketchloom.core.picture import Crop, Point

__all__ = ["DrawingsCard"]


class DrawingsCard(Card):
    """Take one drawing, or make a job of each."""

    def __init__(self, step: SourceDesk) -> None:
        super().__init__("Drawings on this page")
        self._step = step
        self._shown: tuple = ()
        self.found = faded()
        self.body.addWidget(self.found)
        self.takers = QGridLayout()
        self.takers.setSpacing(6)
        self.body.addLayout(self.takers)
        self.apart = QPushButton("Make a job of each")
        self.apart.clicked.connect(step.model.drawings_apart)
        self.body.addWidget(self.apart)

    def show_result(self, result: Result) -> None:
        """Number the drawings."""
        found = self._step.model.drawings
        self.setVisible(bool(found))
        self.found.setText(f"{len(found)} drawings stand apart, numbered on the picture.")
        if found == self._shown:
            return
        self._shown = found
        while self.takers.count():
            self.takers.takeAt(0).widget().deleteLater()
        for number, box in enumerate(found, 1):
            button = QPushButton(f"Take {number}")
            button.setProperty("small", True)
            button.setAccessibleName(f"Take drawing {number} alone")
            button.clicked.connect(lambda _=False, number=number, box=box: self._take(number, *box))
            self.takers.addWidget(button, (number - 1) // 3, (number - 1) % 3)

    def _take(self, number: int, first: Point, last: Point) -> None:
        rows = (*self._step.model.recipe.prepare, Crop(first=first, last=last))
        self._step.model.change_rows(f"Take drawing {number}", rows)
