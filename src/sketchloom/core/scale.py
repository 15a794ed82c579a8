"""Pixels a mm: decided once, before the first stage that needs mm; every stage and preview takes it from here."""

from typing import Literal, NamedTuple

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["Extent", "FinishSettings", "Scale", "asked_side", "check_size", "find_scale"]

SMALLEST, LARGEST = 0.1, 100_000.0
"""mm"""

Extent = tuple[int, int, int, int]
"""Left, top, right, bottom of all that is no ground, px."""


class FinishSettings(msgspec.Struct, frozen=True):
    """How large the cut is."""

    page: Literal["design", "picture"] = "design"
    width: float | None = None
    """mm, of the page; None takes 96 px to the inch."""
    height: float | None = None
    """mm; used where `width` is None, so that either side can be set."""


class Scale(NamedTuple):
    """How large a pixel is at the finished size."""

    px_per_mm: float

    def reduced(self, by: float) -> "Scale":
        """The same on a picture that was reduced to a share of its width."""
        return Scale(self.px_per_mm * by)


def check_size(length: float) -> float:
    """Return a finished size in mm if it can be cut; raises ArgumentError."""
    if not SMALLEST <= length <= LARGEST:
        raise ArgumentError(f"A finished size of {length:g} mm cannot be cut; type one from 0.1 mm to 100 m.")
    return length


def asked_side(settings: FinishSettings) -> tuple[int, float] | None:
    """Which side was asked for, 0 the width and 1 the height, and how long it is, mm."""
    for side, length in enumerate((settings.width, settings.height)):
        if length is not None:
            return side, check_size(length)
    return None


def find_scale(settings: FinishSettings, shape: tuple[int, int], extent: Extent, density: float = 1.0) -> Scale:
    """Decide the scale.

    Parameters
    ----------
    settings : FinishSettings
    shape : (int, int)
        Height and width of the prepared picture, px.
    extent : Extent
        Of all that is no ground.
    density : float
        Px of the prepared picture for each of the opened one, where it was
        enlarged: with no size asked for, an enlarged picture stays as large.

    Raises
    ------
    ArgumentError
        If the size asked for cannot be cut.
    """
    asked = asked_side(settings)
    if asked is None:
        return Scale(PX_PER_MM_UNSET * density)
    side, length = asked
    height, width = shape
    left, top, right, bottom = (0, 0, width, height) if settings.page == "picture" else extent
    return Scale((right - left, bottom - top)[side] / length)
