"""What the cards of Trace ask of their step."""

from typing import Protocol

from PySide6.QtCore import SignalInstance

from sketchloom.app.steps.desk import Desk
from sketchloom.core.curves import CurveEdit
from sketchloom.core.job import Result

__all__ = ["TraceDesk"]


class TraceDesk(Desk, Protocol):
    """What Trace offers its cards."""

    heat_changed: SignalInstance
    """Whether deviation is shown."""

    def keep(self, edits: tuple[CurveEdit, ...], name: str) -> None:
        """Make some work by hand all there is."""

    def nodes_of(self, result: Result) -> int:
        """Nodes of all layers."""

    def set_control(self, key: str, value: float, gesture: int | None = None) -> None:
        """Set a control, and remember what its effect is measured against."""

    def show_worst(self) -> None:
        """Look at the place of the largest deviation."""

    def take_preset(self, name: str) -> None:
        """Set all for a purpose."""
