"""The label map: one small integer a pixel, naming its ink."""

from dataclasses import dataclass, field

import msgspec

from sketchloom.core.arrays import Bytes, Floats

__all__ = ["GROUND", "MOST_INKS", "Ink", "LabelMap"]

GROUND = 0
MOST_INKS = 254


class Ink(msgspec.Struct, frozen=True):
    """One ink of a picture."""

    name: str
    srgb: tuple[int, int, int]
    found: tuple[int, int, int] | None = None
    """As it was found in the picture, where it is shown in another colour."""

    @property
    def key(self) -> tuple[int, int, int]:
        """The colour that settings know it by."""
        return self.found or self.srgb

    @property
    def hex(self) -> str:
        """The colour as ``#rrggbb``."""
        return "#{:02x}{:02x}{:02x}".format(*self.srgb)


@dataclass(frozen=True, eq=False)
class LabelMap:
    """Labels of a picture's pixels, and what they were read from.

    Attributes
    ----------
    labels : (H, W) uint8
        0 is ground, where nothing is cut; label ``i`` is ``palette[i - 1]``.
    palette : tuple of Ink
        Each ink occurs in `labels`.
    evidence : (H, W, 4) uint8
        The picture the labels were read from, cleared of alpha, light and
        tone curve, so that an edge pixel is a linear blend; the fourth value
        says nothing.
    tones : (H, W) uint8
        Labels before tones were joined to inks and the ground was cleared.
    mix : (T, 3) float
        The pure colour of each tone in `evidence`.
    """

    labels: Bytes
    palette: tuple[Ink, ...]
    evidence: Bytes = field(repr=False)
    tones: Bytes = field(repr=False)
    mix: Floats = field(repr=False)
