"""What commands, dialogs and steps ask of the window."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any, Protocol

from sketchloom.app.all_commands import AllCommands
from sketchloom.app.canvas import Canvas
from sketchloom.app.commands import Commands
from sketchloom.app.finder import Finder
from sketchloom.app.job_model import JobModel
from sketchloom.app.keeping import Keeper
from sketchloom.app.ledger import Ledger
from sketchloom.app.log_model import LogModel
from sketchloom.app.settings import Settings

__all__ = ["Frame"]


class Frame(Protocol):
    """The window as commands, dialogs and steps see it; it is a widget that dialogs lie over."""

    model: JobModel
    keeper: Keeper
    log: LogModel
    settings: Settings
    canvas: Canvas
    commands: Commands
    finder: Finder
    all_commands: AllCommands
    status: Any
    """How the steps stand."""
    steps: Sequence[Any]
    by_key: dict[str, Any]
    """The steps by their keys."""
    ledger: Ledger
    dialogs: Any
    """The questions; they ask it back."""
    job_name: Any
    """The label with the job's name."""
    lift: Any
    """The slider that raises layers apart."""

    @property
    def step(self) -> Any:
        """The step in hand."""

    def warn(self) -> None:
        """Tell at Send what Check knows."""

    def open(self, *paths: Path) -> None:
        """Open pictures and jobs."""

    def open_demo(self, key: str = "badge") -> None:
        """Open a demo job."""

    def forget(self, name: str) -> None:
        """List a file that was opened before no more."""

    def copy_svg(self) -> None:
        """Copy the layer in hand, or all of them."""

    def paste(self) -> None:
        """Open what lies in the clipboard."""

    def say(self, sentence: str) -> None:
        """Tell something in the strip."""

    def show_step(self, key: str) -> None:
        """Show a step."""

    def show_view(self, view: str, alone: bool = False) -> None:
        """Show a view."""

    def zoom_to_chosen(self) -> None:
        """Show what is chosen."""

    def show_logbook(self) -> None:
        """Show the logbook."""

    def show_many(self) -> None:
        """Show the page that does more pictures."""

    def show_preferences(self) -> None:
        """Show the preferences."""

    def show_beside(self) -> None:
        """Show two versions, or two jobs, side by side."""

    def stop(self) -> None:
        """Stop what runs, or put away what is in hand."""

    def next_unit(self) -> None:
        """Show lengths in the next unit."""

    def toggle_compare(self) -> None:
        """Compare before and after, or not."""

    def toggle_theme(self) -> None:
        """Light or dark."""
