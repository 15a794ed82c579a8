"""What the cards of Layers ask of their step."""

from typing import Protocol

from PySide6.QtCore import SignalInstance

from sketchloom.app.steps.desk import Desk

__all__ = ["LayersDesk"]


class LayersDesk(Desk, Protocol):
    """What Layers offers its cards."""

    pointed: SignalInstance
    """A place to point out, or None."""

    def change(self, name: str, **changes: object) -> None:
        """Change settings of the whole stack."""

    def length(self, name: str, setting: str, mm: float) -> None:
        """Change a length, if it can be used; else say why not."""

    def rule(self, what: str, key: str, /, unlocks: bool = False, **changes: object) -> None:
        """Change the rule of a layer, unless it is locked."""
