"""What every kind of work by hand has."""

from collections.abc import Iterable
from typing import ClassVar, Self

import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point
from sketchloom.core.tidy.places import check_places
from sketchloom.core.tidy.sheet import Sheet

__all__ = ["Axis", "Work", "over_axis"]

Axis = tuple[Point, Point]
"""Two places that a line of symmetry runs through."""


class Work(msgspec.Struct, frozen=True, tag_field="do", tag=True, kw_only=True):
    """One piece of work: a record that is done again on every fresh label map."""

    on: bool = True
    axis: Axis | None = None
    """What is done is done on the other side of this line too; None does it once."""
    sentence: ClassVar[str] = ""
    """What undo and the list of work call it."""

    @property
    def in_mm(self) -> bool:
        """Whether it hangs on the finished size."""
        return False

    def check(self) -> None:
        """Raise ArgumentError for what cannot be done on any picture."""
        if self.axis is not None:
            check_places(self.axis)
            if self.axis[0] == self.axis[1]:
                raise ArgumentError("A line of symmetry has one end only; take the work back.")

    def do(self, sheet: Sheet) -> int:
        """Do it; gives how many of its places were not found."""
        raise NotImplementedError

    def do_both(self, sheet: Sheet) -> int:
        """Do it, and with an axis on the other half what it is there."""
        other = self.mirrored(sheet) if self.axis is not None else None
        return self.do(sheet) + (other.do(sheet) if other is not None else 0)

    def mirrored(self, sheet: Sheet) -> Self | None:
        """What it is on the other half, or None where it lies on both alike."""
        raise NotImplementedError

    def marks(self) -> tuple[tuple[Point, ...], ...]:
        """Where it is, in source coordinates: places, and lines of places."""
        return ()

    def inks(self) -> tuple[str, ...]:
        """Keys of inks that it gives pixels to."""
        return ()


def over_axis(sheet: Sheet, axis: Axis | None, points: Iterable[Point]) -> tuple[Point, ...]:
    """Places mirrored at a line, as the picture is worked at (Householder 1958)."""
    if axis is None:
        return tuple(points)
    start, end = sheet.pixels(axis)
    across = np.array([end[1] - start[1], start[0] - end[0]])
    across /= max(1e-12, float(np.hypot(*across)))
    at = sheet.pixels(points)
    there: Floats = at - 2 * ((at - start) @ across)[:, None] * across
    return tuple(sheet.source(there))
