"""Pixels a mm: decided once, before the first stage that needs mm; every stage and preview takes it from here."""

from typing import Literal, NamedTuple

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["Extent", "FinishSettings", "OwnSize", "Scale", "SizeFrom", "asked_side", "check_size", "find_scale"]

SMALLEST, LARGEST = 0.1, 100_000.0
"""mm"""

Extent = tuple[int, int, int, int]
"""Left, top, right, bottom of all that is no ground, px."""


class FinishSettings(msgspec.Struct, frozen=True):
    """How large the cut is."""

    page: Literal["design", "picture"] = "design"
    width: float | None = None
    """mm, of the design; None takes the size that the file says it has, or 96 px to the inch."""
    height: float | None = None
    """mm; used where `width` is None, so that either side can be set."""


SizeFrom = Literal["asked", "page", "dpi", "96"]
"""Where a size comes from: asked for; that of a PDF's page; the dots an inch that a scan states; 96 px to the inch."""


class OwnSize(NamedTuple):
    """The size that a file says its picture has."""

    px_per_mm: float
    says: Literal["page", "dpi"]


class Scale(NamedTuple):
    """How large a pixel is at the finished size."""

    px_per_mm: float
    size_from: SizeFrom = "asked"

    def reduced(self, by: float) -> "Scale":
        """The same on a picture that was reduced to a share of its width."""
        return self._replace(px_per_mm=self.px_per_mm * by)


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


def find_scale(
    settings: FinishSettings, shape: tuple[int, int], extent: Extent, density: float = 1.0, own: OwnSize | None = None
) -> Scale:
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
    own : OwnSize, optional
        The size that the opened file says it has; without one 96 px are an inch.

    Raises
    ------
    ArgumentError
        If the size asked for cannot be cut.
    """
    asked = asked_side(settings)
    if asked is None:
        return Scale(PX_PER_MM_UNSET * density, "96") if own is None else Scale(own.px_per_mm * density, own.says)
    side, length = asked
    height, width = shape
    left, top, right, bottom = (0, 0, width, height) if settings.page == "picture" else extent
    return Scale((right - left, bottom - top)[side] / length)
