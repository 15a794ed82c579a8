"""What every kind of work by hand has."""

from typing import ClassVar

import msgspec

from sketchloom.core.tidy.sheet import Sheet

__all__ = ["Work"]


class Work(msgspec.Struct, frozen=True, tag_field="do", tag=True, kw_only=True):
    """One piece of work: a record that is done again on every fresh label map."""

    on: bool = True
    sentence: ClassVar[str] = ""
    """What undo and the list of work call it."""

    @property
    def in_mm(self) -> bool:
        """Whether it hangs on the finished size."""
        return False

    def check(self) -> None:
        """Raise ArgumentError for what cannot be done on any picture."""

    def do(self, sheet: Sheet) -> int:
        """Do it; gives how many of its places were not found."""
        raise NotImplementedError

    def inks(self) -> tuple[str, ...]:
        """Keys of inks that it gives pixels to."""
        return ()
