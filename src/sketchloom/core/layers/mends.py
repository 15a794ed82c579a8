"""Mends: what is changed on the outlines of a layer, at places, after it was built."""

import math
from collections.abc import Callable, Sequence
from typing import ClassVar, Self

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point

__all__ = [
    "AlongLines",
    "AnyMend",
    "AtPlace",
    "CloseOutline",
    "EaseOutline",
    "FillWindow",
    "GrowPiece",
    "Mend",
    "PareAlong",
    "RoundNotch",
    "TakePiece",
    "Unite",
    "WidenAlong",
    "check_mends",
]

PLACES = 6
"""Decimals of a mm that places are rounded to."""
MOST_MENDS = 5000
MOST_POINTS = 200_000
_WIDEST = 100.0
"""mm"""
_FARTHEST = 100.0
"""Of source coordinates, lengths of the longer side."""


class Mend(msgspec.Struct, frozen=True, kw_only=True, tag_field="mend"):
    """One change of one layer's outlines.

    Places are in source coordinates, lengths in mm at the finished size.
    """

    sentence: ClassVar[str]
    """What it does, for lists of changes."""
    unites: ClassVar[bool] = False
    """Whether it makes one compound path of a layer."""
    layer: str
    """Key of the layer."""

    def places(self) -> tuple[Point, ...]:
        """Every place that it is anchored at."""
        return ()

    def lengths(self) -> tuple[float, ...]:
        """Every length that it has."""
        return ()

    def settled(self) -> Self:
        """The same with places, mm on a page, rounded: one that goes by the source comes back the same."""
        return self.placed(lambda points: [_settled(point) for point in points])

    def placed(self, there: Callable[[Sequence[Point]], Sequence[Point]]) -> Self:
        """The same with its places brought elsewhere."""
        return self


class AlongLines(Mend, frozen=True, kw_only=True):
    """A band along lines, round at their ends."""

    lines: tuple[tuple[Point, ...], ...]
    width: float

    def places(self) -> tuple[Point, ...]:
        """Every point of its lines."""
        return tuple(point for line in self.lines for point in line)

    def lengths(self) -> tuple[float, ...]:
        """Its width."""
        return (self.width,)

    def placed(self, there: Callable[[Sequence[Point]], Sequence[Point]]) -> Self:
        """The same with its lines brought elsewhere."""
        return msgspec.structs.replace(self, lines=tuple(tuple(there(line)) for line in self.lines))


class WidenAlong(AlongLines, frozen=True, tag="widen", kw_only=True):
    """Add a band of material along lines."""

    sentence: ClassVar[str] = "Widen"


class PareAlong(AlongLines, frozen=True, tag="pare", kw_only=True):
    """Take a band of material away along lines."""

    sentence: ClassVar[str] = "Open"


class AtPlace(Mend, frozen=True, kw_only=True):
    """Something at one place."""

    at: Point

    def places(self) -> tuple[Point, ...]:
        """The place."""
        return (self.at,)

    def placed(self, there: Callable[[Sequence[Point]], Sequence[Point]]) -> Self:
        """The same elsewhere."""
        return msgspec.structs.replace(self, at=there([self.at])[0])


class TakePiece(AtPlace, frozen=True, tag="take", kw_only=True):
    """Take the piece at a place away, or give it to another layer."""

    sentence: ClassVar[str] = "Take a piece away"
    to: str = ""
    """Key of the layer that it joins; empty for none."""


class GrowPiece(AtPlace, frozen=True, tag="grow", kw_only=True):
    """Grow the piece at a place all round."""

    sentence: ClassVar[str] = "Grow a piece"
    by: float

    def lengths(self) -> tuple[float, ...]:
        """By how much."""
        return (self.by,)


class FillWindow(AtPlace, frozen=True, tag="fill", kw_only=True):
    """Fill the window at a place."""

    sentence: ClassVar[str] = "Fill a window"


class RoundNotch(AtPlace, frozen=True, tag="round", kw_only=True):
    """Round off the tip of a gap."""

    sentence: ClassVar[str] = "Round a notch"
    radius: float

    def lengths(self) -> tuple[float, ...]:
        """The radius."""
        return (self.radius,)


class EaseOutline(AtPlace, frozen=True, tag="ease", kw_only=True):
    """Fit the outline that runs at a place with as few nodes as a bound allows."""

    sentence: ClassVar[str] = "Smooth an outline"
    within: float

    def lengths(self) -> tuple[float, ...]:
        """The bound."""
        return (self.within,)


class CloseOutline(AtPlace, frozen=True, tag="close", kw_only=True):
    """Close the open outline that ends at a place by a straight line."""

    sentence: ClassVar[str] = "Close an outline"


class Unite(Mend, frozen=True, tag="unite", kw_only=True):
    """Unite all outlines of a layer that cross or overlap, as one compound path."""

    sentence: ClassVar[str] = "Unite"
    unites: ClassVar[bool] = True


AnyMend = WidenAlong | PareAlong | TakePiece | GrowPiece | FillWindow | RoundNotch | EaseOutline | CloseOutline | Unite


def _settled(point: Point) -> Point:
    return round(point[0], PLACES), round(point[1], PLACES)


def check_mends(mends: Sequence[Mend]) -> None:
    """Refuse mends that cannot be; raises ArgumentError."""
    if len(mends) > MOST_MENDS:
        raise ArgumentError(f"{len(mends)} mends are too many; at most {MOST_MENDS} can be kept.")
    if sum(len(mend.places()) for mend in mends) > MOST_POINTS:
        raise ArgumentError("The mends have too many places; take some back.")
    for mend in mends:
        if not all(math.isfinite(value) and abs(value) <= _FARTHEST for place in mend.places() for value in place):
            raise ArgumentError(f"“{mend.sentence}” has no place that can be used; take it back.")
        if not all(math.isfinite(length) and 0 < length <= _WIDEST for length in mend.lengths()):
            raise ArgumentError(f"“{mend.sentence}” has no length that can be used; take it back.")
        if isinstance(mend, AlongLines) and not (mend.lines and all(mend.lines)):
            raise ArgumentError(f"“{mend.sentence}” has no line that it runs along; take it back.")
