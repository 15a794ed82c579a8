"""The tool that lays bridges, and drags those that are there along."""

from collections.abc import Callable

from PySide6.QtCore import QPointF, Signal
from PySide6.QtGui import QPainter, QPolygonF

from sketchloom.app.canvas.tools.across import AcrossTool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.core.picture import Point

__all__ = ["BridgeTool", "Ends"]

_NEAR = 11.0
Ends = tuple[Point, Point]


class BridgeTool(AcrossTool):
    """Drags a new bridge; one that is there is taken by its handle."""

    moved = Signal(object)
    """The ends that a bridge had, and those that it gets."""

    def __init__(self, help_text: str, laid: Callable[[], list[Ends]]) -> None:
        super().__init__(help_text)
        self._laid = laid
        self._held: Ends | None = None

    def _middle(self, ends: Ends) -> QPointF:
        first, last = (self.canvas.widget_point(end) for end in ends)
        return (first + last) / 2

    def press(self, at: QPointF) -> None:
        """Take hold of the bridge that lies there, or begin a new one."""
        near = [(ends, (self._middle(ends) - at).manhattanLength()) for ends in self._laid()]
        ends, far = min(near, key=lambda one: one[1], default=(None, _NEAR))
        self._held = ends if far < _NEAR else None
        super().press(at)

    def _shifted(self, ends: Ends, by: QPointF) -> Ends:
        first, last = (self.canvas.source_point(self.canvas.widget_point(end) + by) for end in ends)
        return first, last

    def dragged(self, start: QPointF, end: QPointF) -> None:
        """Give a new bridge, or the new place of one."""
        held, self._held = self._held, None
        if held is None:
            super().dragged(start, end)
        elif end != start:
            self.moved.emit((held, self._shifted(held, end - start)))

    def paint(self, painter: QPainter) -> None:
        """Draw handles on the bridges, and the one in hand where it would lie."""
        for ends in self._laid():
            draw_handle(painter, self._middle(ends), ends == self._held)
        if self._held is not None and self._from is not None and self.at is not None:
            by = self.at - self._from
            draw_line(painter, QPolygonF([self.canvas.widget_point(end) + by for end in self._held]))
            return
        super().paint(painter)
