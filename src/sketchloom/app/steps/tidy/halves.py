"""The card with the axis over which work is done on the other half too."""

import numpy as np

from sketchloom.app.canvas.tools import AcrossTool, Tool
from sketchloom.app.controls import Choice
from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.core.picture import Point, source_points
from sketchloom.core.tidy import Axis

__all__ = ["HalvesCard"]

_WAYS = {
    "no": "Work on one half only",
    "upright": "Left and right alike",
    "level": "Above and below alike",
    "line": "Alike over a drawn line",
}


class HalvesCard(Card):
    """Whether what is done on one half is done on the other too."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Mirrored halves")
        self._step = step
        self._line: Axis | None = None
        self.way = Choice()
        self.way.setAccessibleName("Work on the other half too")
        for key, words in _WAYS.items():
            self.way.addItem(words, key)
        self.way.activated.connect(lambda _: self._follow())
        self.body.addWidget(self.way)
        self.words = faded()
        self.body.addWidget(self.words)
        self._tell()

    def _follow(self) -> None:
        if self.way.currentData() == "line":
            self._step.draw_with("axis")
        self._tell()
        self._step.show_axis()

    def made(self) -> Tool:
        """Make the tool that draws the line."""
        tool = AcrossTool("Drag along the line that both halves lie beside.")
        tool.done.connect(self.take)
        return tool

    def take(self, ends: tuple[Point, Point]) -> None:
        """Take a line."""
        self._line = ends
        self.way.setCurrentIndex(self.way.findData("line"))
        self._step.draw_with("choose")
        self._tell()
        self._step.show_axis()

    def forget(self) -> None:
        """Begin anew with another job."""
        self._line = None
        self.way.setCurrentIndex(0)
        self._tell()

    def _tell(self) -> None:
        way = self.way.currentData()
        self.words.setText(
            {
                "no": "With an axis, what is done on one half is done on the other too.",
                "line": "Drag the line on the canvas." if self._line is None else "",
            }.get(way, "The axis is shown on the canvas.")
        )
        self.words.setVisible(bool(self.words.text()))

    @property
    def axis(self) -> Axis | None:
        """The line in force, in source coordinates."""
        result, way = self._step.model.result, self.way.currentData()
        if way == "line":
            return self._line
        if way == "no" or result is None or not result.has("picture"):
            return None
        height, width = result.picture.rgba.shape[:2]
        x, y = width / 2, height / 2
        ends = [(x, 0.0), (x, float(height))] if way == "upright" else [(0.0, y), (float(width), y)]
        first, last = source_points(result.picture, np.array(ends))
        return first, last
