"""What the cards of Check ask of their step."""

from typing import Protocol

from sketchloom.app.checks import Checks
from sketchloom.app.steps.desk import Desk

__all__ = ["CheckDesk"]


class CheckDesk(Desk, Protocol):
    """What Check offers its cards."""

    checks: Checks

    def mend_one(self, number: int = 0) -> None:
        """Do a fix of the finding in hand, once it is known to hold."""

    def mend_kind(self) -> None:
        """Mend all of the kind in hand."""

    def mend_all(self) -> None:
        """Mend all that can safely be mended."""

    def leave_one(self) -> None:
        """Leave the finding in hand so."""
