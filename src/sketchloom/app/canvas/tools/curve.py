"""What the tools have that work on traced curves."""

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QWidget

from sketchloom.app.canvas.tools.base import Tool
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Piece, edit_of
from sketchloom.core.curves.work import Change
from sketchloom.core.job import Result
from sketchloom.core.picture import on_picture

__all__ = ["NEAR", "CurveTool"]

NEAR = 12.0
"""Screen pixels; so near a thing a press takes hold of it."""


class CurveTool(Tool):
    """The result, and places on it in widget and picture coordinates."""

    view = "Paths"

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self.model = model
        self._waiting: list[Callable[[], None]] = []

    def enter(self, canvas: QWidget) -> None:
        """Be taken in hand: follow the results."""
        super().enter(canvas)
        self.model.result_ready.connect(self._go_on)

    def when_fresh(self, act: Callable[[], None]) -> None:
        """Do something on the result of the recipe in force: now, or as soon as it is there."""
        self._waiting.append(act)
        self._go_on()

    def _go_on(self) -> None:
        while self._waiting and not self.model.stale:
            self._waiting.pop(0)()

    def leave(self) -> None:
        """Be put away; what still waits is let go."""
        self._waiting.clear()
        self.model.result_ready.disconnect(self._go_on)
        super().leave()

    @property
    def result(self) -> Result:
        """The newest result."""
        assert self.model.result is not None
        return self.model.result

    def px(self, at: QPointF) -> Floats:
        """Px of the picture under a point of the widget."""
        return on_picture(self.result.picture, [self.canvas.source_point(at)])[0]

    def on_screen(self, points: Floats) -> list[QPointF]:
        """Points of the widget that show px of the picture."""
        there = np.column_stack([points, np.ones(len(points))]) @ self.result.picture.source_of.T
        return [QPointF(x, y) for x, y in self.canvas.widget_points(there[:, :2] / there[:, 2:]).tolist()]

    @property
    def screen_px(self) -> float:
        """Px of the picture that a screen pixel covers."""
        middle = QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
        return float(np.hypot(*(self.px(middle + QPointF(10, 0)) - self.px(middle)))) / 10

    def loop(self, arc: int) -> bool:
        """Whether an arc is a loop without a junction."""
        return bool(self.result.planar.loops[arc])

    def give(self, what: str, change: Change | None) -> None:
        """Pass a change on, or say why there is none."""
        if change is None:
            self.model.said.emit("Where three edges meet the node stays; work on the nodes beside it.")
            return
        self.give_all(what, [change])

    def give_all(self, what: str, changes: list[Change]) -> None:
        """Pass several changes on as one."""
        result = self.result
        keys, to_source = result.regions.keys, result.picture.source_of
        self.done.emit(tuple(edit_of(what, result.planar, keys, c.arc, c.old, c.new, to_source) for c in changes))

    def paint_piece(self, painter: QPainter, piece: Piece) -> None:
        """Draw segments."""
        path = QPainterPath()
        for number, control in enumerate(piece.control):
            points = self.on_screen(control)
            if number == 0:
                path.moveTo(points[0])
            path.cubicTo(*points[1:])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for code, width in ((theme.tokens.on_indigo, 4), (theme.tokens.indigo, 2)):
            painter.setPen(QPen(QColor(code), width))
            painter.drawPath(path)
