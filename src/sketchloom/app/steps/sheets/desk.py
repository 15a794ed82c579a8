"""What the cards of Sheets ask of their step."""

from typing import Protocol

from sketchloom.app.layouts import Layouts
from sketchloom.app.steps.desk import Desk
from sketchloom.app.steps.sheets.scene import SheetScene

__all__ = ["SheetsDesk"]


class SheetsDesk(Desk, Protocol):
    """What Sheets offers its cards."""

    layouts: Layouts
    scene: SheetScene

    def change(self, name: str, **changes: object) -> None:
        """Change settings of Sheets."""

    def length(self, name: str, setting: str, mm: float) -> None:
        """Change a length, if it can be used; else say why not."""

    def move_to(self, x: float, y: float, turn: float) -> None:
        """Lay the chosen piece elsewhere on its sheet."""

    def draw_with(self, tool: str | None) -> None:
        """Take a tool in hand, or put it away."""

    def is_own(self, layer: str) -> bool:
        """Whether a layer is of the job in hand."""

    def take_other(self, place: int) -> None:
        """Part a piece along the next best seam instead of one."""

    def look_at(self, number: int) -> None:
        """Show a sheet."""
