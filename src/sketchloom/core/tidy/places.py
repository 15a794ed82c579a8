"""Checks of places and lengths that records hold."""

import math
from collections.abc import Iterable

from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point

__all__ = ["MOST_POINTS", "check_length", "check_places"]

MOST_POINTS = 20_000
_FARTHEST = 100.0
"""Of source coordinates, lengths of the longer side."""
_LONGEST = 1000.0
"""mm"""


def check_places(points: Iterable[Point]) -> None:
    """Refuse places that are no numbers, or too many; raises ArgumentError."""
    points = list(points)
    if not 0 < len(points) <= MOST_POINTS:
        raise ArgumentError(f"Work by hand with {len(points)} places cannot be used; take it back.")
    if not all(math.isfinite(value) and abs(value) <= _FARTHEST for point in points for value in point):
        raise ArgumentError("Work by hand has no place that can be used; take it back.")


def check_length(what: str, mm: float, least: float = 0.0) -> None:
    """Refuse a length out of range; raises ArgumentError."""
    if not (math.isfinite(mm) and least <= mm <= _LONGEST):
        raise ArgumentError(f"{what} of {mm:g} mm cannot be used; type {least:g} to {_LONGEST:g} mm.")
