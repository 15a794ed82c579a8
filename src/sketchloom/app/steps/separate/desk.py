"""What the cards of Separate ask of their step."""

from typing import Protocol

from sketchloom.app.steps.desk import Desk
from sketchloom.core.palette import Colour, Ink, Palette

__all__ = ["InkList", "SeparateDesk"]


class SeparateDesk(Desk, Protocol):
    """What Separate offers its cards."""

    def palette_now(self) -> Palette:
        """All inks of the newest result, as the recipe in force names and shows them."""

    def inks_now(self) -> tuple[Ink, ...]:
        """Those of them that are not sent to the ground."""

    def name_of(self, key: str) -> str:
        """Name an ink, also one that this picture has not."""

    def colour_of(self, key: str) -> str:
        """Give the colour of an ink; of one that this picture has not, that which its key tells."""


class InkList(Protocol):
    """What a row asks of the list of inks."""

    def inks_now(self) -> tuple[Ink, ...]:
        """All inks of the list."""

    def can_lock(self, ink: Ink) -> bool:
        """Whether it can be locked."""

    def is_locked(self, ink: Ink) -> bool:
        """Whether it is."""

    def lock(self, ink: Ink, on: bool) -> None:
        """Lock or free it."""

    def join(self, ink: Ink, into: Ink) -> None:
        """Join it with another."""

    def rename(self, ink: Ink, name: str) -> None:
        """Name it; nothing is the name of its colour."""

    def recolour(self, ink: Ink, colour: Colour | None) -> None:
        """Show it in another colour; None in its own."""

    def send_to_ground(self, ink: Ink) -> None:
        """Cut nothing of it."""
