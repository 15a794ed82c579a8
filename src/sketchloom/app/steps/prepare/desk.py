"""What the cards of Prepare ask of their step."""

from typing import Protocol

from sketchloom.app.steps.desk import Desk
from sketchloom.core.palette import Colour
from sketchloom.core.picture import Row

__all__ = ["PrepareDesk"]


class PrepareDesk(Desk, Protocol):
    """What Prepare offers its cards."""

    brush: float
    """Of the picture's longer side."""
    chosen: int | None
    """The row whose settings are shown."""
    drawing: str | None
    """The tool in hand, and the row that it works on."""
    drawing_row: int | None

    @property
    def longer_mm(self) -> float | None:
        """Mm that the opened picture's longer side is long at the finished size."""

    def colour_for(self, row: Row | None) -> Colour:
        """Give the colour in which a row, or a new one, paints."""

    def choose(self, place: int | None) -> None:
        """Show a row's settings and its own before and after; None shows all changes together."""

    def move_row(self, place: int, way: int) -> None:
        """Move a row up (-1) or down (1)."""

    def remove(self, place: int) -> None:
        """Take a row out."""

    def set_colour(self, place: int, colour: Colour) -> None:
        """Paint a row's strokes in another colour."""

    def set_row(self, place: int, gesture: int | None = None, **changes: object) -> None:
        """Change settings of a row that is still there."""
