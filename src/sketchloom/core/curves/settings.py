"""What a trace keeps to, and what was done to it by hand."""

from typing import NamedTuple

import msgspec
import numpy as np

__all__ = ["PRESETS", "Bounds", "CurveEdit", "TraceSettings", "preset"]

Point = tuple[float, float]

FLOOR, FLOOR_EXACT = 0.08, 0.05
"""px; least tolerance, and that of clean pictures."""
CORNER, CORNER_OF_PHOTOS = 24.0, 60.0
"""Degrees; drawings have corners, the steps of a photograph wind."""


class CurveEdit(msgspec.Struct, frozen=True):
    """One stretch of an edge, drawn anew."""

    what: str
    """Such as "Node moved"; for the list and for undo."""
    inks: tuple[str, str]
    """Keys of the inks on both sides, sorted; empty for ground."""
    first: Point
    last: Point
    through: Point
    """Source coordinates: the ends of the stretch, and its middle as it was."""
    curve: tuple[Point, ...]
    """Source coordinates: node, two controls, node, and so on."""
    straight: tuple[bool, ...]


class TraceSettings(msgspec.Struct, frozen=True):
    """How closely curves keep to the edges, and what counts as straight and as a corner."""

    smoothness: float = 0.015
    """mm; bounds the running mean of the distance between edge and curve."""
    straightness: float = 0.0
    """mm; a stretch that bows no more is a straight line. No effect below `smoothness`."""
    corner: float | None = None
    """Degrees; an edge that turns more sharply turns a corner. None leaves it to the kind of picture."""
    square: float = 0.0
    """Degrees; a line that leans less is made level or upright."""
    mirror: float = 0.0
    """mm; halves that differ no more are made alike."""
    edits: tuple[CurveEdit, ...] = ()
    """Work by hand, in order."""

    def corner_in(self, photo: bool) -> float:
        """The corner that counts, in degrees."""
        if self.corner is not None:
            return self.corner
        return CORNER_OF_PHOTOS if photo else CORNER

    def bounds(self, px_per_mm: float, photo: bool = False) -> "Bounds":
        """Bring them to px and radians."""
        return Bounds(
            self.smoothness * px_per_mm,
            self.straightness * px_per_mm,
            float(np.deg2rad(self.corner_in(photo))),
            float(np.deg2rad(self.square)),
            self.mirror * px_per_mm,
        )


class Bounds(NamedTuple):
    """What a trace keeps to."""

    tolerance: float
    """px; bounds the running mean of the signed distance; not below `FLOOR`, in clean pictures `FLOOR_EXACT`."""
    straight: float = 0.0
    """px; the same for straight lines, where it is more."""
    corner: float = 0.42
    """rad"""
    square: float = 0.0
    """rad"""
    mirror: float = 0.0
    """px"""

    def floored(self, exact: bool) -> "Bounds":
        """With the tolerance that counts: no curve is asked to follow its samples more closely than this."""
        return self._replace(tolerance=max(self.tolerance, FLOOR_EXACT if exact else FLOOR))


PRESETS: dict[str, dict[str, float | None]] = {
    "Cut": {"smoothness": 0.015, "straightness": 0.0, "corner": None},
    "Draw": {"smoothness": 0.06, "straightness": 0.0, "corner": 40.0},
    "Route": {"smoothness": 0.12, "straightness": 0.25, "corner": 30.0},
}
"""For a blade; for a pen, which likes long curves; for a router, whose bit cannot follow less."""


def preset(name: str, photo: bool) -> dict[str, float | None]:
    """Settings for a purpose; in a photograph the kind of picture says what a corner is, whatever the purpose."""
    return {**PRESETS[name], "corner": None} if photo else PRESETS[name]
