"""What the cards of Source ask of their step."""

from typing import Protocol

from PySide6.QtCore import SignalInstance

from sketchloom.app.steps.desk import Desk

__all__ = ["SourceDesk"]


class SourceDesk(Desk, Protocol):
    """What Source offers its cards."""

    put_away: SignalInstance
    """An open job to close."""

    def pixels(self) -> str:
        """Say how many pixels the opened picture has."""
