"""A tool that picks a place."""

from PySide6.QtCore import QPointF

from sketchloom.app.canvas.tools.base import Tool

__all__ = ["PickTool"]


class PickTool(Tool):
    """Picks a place with a click."""

    drags = False
    help = "Click the place."

    def release(self, at: QPointF) -> None:
        """Take the place."""
        super().release(at)
        self.done.emit(self.canvas.source_point(at))
