"""What every tool has that is dragged from one place to another."""

from PySide6.QtCore import QPointF

from sketchloom.app.canvas.tools.base import Tool

__all__ = ["DragTool"]


class DragTool(Tool):
    """Keeps where a drag began; what it gives is said by `dragged`."""

    def __init__(self) -> None:
        super().__init__()
        self._from: QPointF | None = None

    def press(self, at: QPointF) -> None:
        """Begin."""
        self._from = at
        super().press(at)

    def release(self, at: QPointF) -> None:
        """End."""
        super().release(at)
        start, self._from = self._from, None
        if start is not None:
            self.dragged(start, at)

    def dragged(self, start: QPointF, end: QPointF) -> None:
        """Use a drag, or a click where the two are one."""
