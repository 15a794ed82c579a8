"""What a maker decides about the pieces: what is too small, what holds the islands, and the work by hand."""

import math

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.tidy.islands import MOST_BRIDGES, Direction
from sketchloom.core.tidy.kinds import AnyWork
from sketchloom.core.tidy.places import check_length

__all__ = ["Bridging", "TidySettings", "check_tidy"]

_MOST_AREA = 1e6
"""mm2"""
MOST_WORK = 2000


class Bridging(msgspec.Struct, frozen=True):
    """How islands are held by themselves."""

    width: float
    """mm"""
    count: int = 2
    direction: Direction = "nearest"


class TidySettings(msgspec.Struct, frozen=True):
    """What a maker decides about the pieces."""

    least_area: float = 0.25
    """mm2; smaller faces, and smaller holes, join a neighbour."""
    least_width: float = 0.0
    """mm; thinner hairs and tails join a neighbour."""
    fill_holes: float = 0.0
    """mm2; holes of at most so much are filled."""
    cut_away: tuple[str, ...] | None = None
    """Inks that are cut away from a stencil's sheet; None is all that are cut."""
    bridges: Bridging | None = None
    """Bridges that every island gets; None leaves islands to be held by hand."""
    work: tuple[AnyWork, ...] = ()


def check_tidy(tidy: TidySettings) -> None:
    """Raise ArgumentError for what cannot be used."""
    for what, area in (("A least area", tidy.least_area), ("A hole to fill", tidy.fill_holes)):
        if not (math.isfinite(area) and 0 <= area <= _MOST_AREA):
            raise ArgumentError(f"{what} of {area:g} mm² cannot be used; type 0 to 1000000 mm².")
    check_length("A least width", tidy.least_width)
    if tidy.bridges is not None:
        check_length("A bridge", tidy.bridges.width, 0.01)
        if not 1 <= tidy.bridges.count <= MOST_BRIDGES:
            raise ArgumentError(f"{tidy.bridges.count} bridges an island cannot be laid; type 1 to {MOST_BRIDGES}.")
    if len(tidy.work) > MOST_WORK:
        raise ArgumentError(f"{len(tidy.work)} pieces of work by hand are too many; at most {MOST_WORK} can be kept.")
    for work in tidy.work:
        work.check()
