"""What the cards of Tidy ask of their step."""

from typing import Protocol

from sketchloom.app.steps.desk import Desk
from sketchloom.core.arrays import Floats
from sketchloom.core.palette import Ink
from sketchloom.core.picture import Point
from sketchloom.core.tidy import Anchor, AnyWork, Pieces

__all__ = ["TidyDesk"]


class TidyDesk(Desk, Protocol):
    """What Tidy offers its cards."""

    drawing: str | None
    """The tool in hand."""
    choice: tuple[Anchor, ...]
    """What is chosen, by places that outlive a result."""

    @property
    def pieces(self) -> Pieces | None:
        """The pieces of the newest result."""

    def add_work(self, name: str, *work: AnyWork, mirrored: bool = True, gesture: int | None = None) -> None:
        """Do more work by hand, if it can be `mirrored` and there is an axis on both halves; one step of undo."""

    def choose(self, anchors: tuple[Anchor, ...]) -> None:
        """Choose pieces."""

    def inks_now(self) -> tuple[Ink, ...]:
        """The inks that are cut."""

    def name_of(self, key: str) -> str:
        """Name an ink; of none, the ground."""

    def source_of(self, at: tuple[float, float] | Floats) -> Point:
        """Source coordinates of a place of the newest result, px."""

    def show_axis(self) -> None:
        """Show the line over which work is mirrored."""

    def show_marks(self, work: AnyWork | None) -> None:
        """Show on the canvas where a row of work is; None hides it."""
