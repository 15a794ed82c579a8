"""What cards ask of their step; a step's own desk adds what its cards ask besides."""

from typing import Protocol

from sketchloom.app.job_model import JobModel

__all__ = ["Desk"]


class Desk(Protocol):
    """What every step offers its cards."""

    model: JobModel

    def unit(self) -> str:
        """The unit that lengths are shown in."""

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""

    def refresh(self) -> None:
        """Show the recipe in force, and what the newest result says."""
