"""What a maker decides about the pieces: what is too small, what holds the islands, and the work by hand."""

import math
from collections.abc import Sequence
from typing import Literal

import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.errors import ArgumentError
from sketchloom.core.palette import is_key
from sketchloom.core.tidy.bridges import MOST_BRIDGES, Direction
from sketchloom.core.tidy.kinds import AnyWork
from sketchloom.core.tidy.places import check_length

__all__ = ["Bridging", "InkLimits", "LimitName", "TidySettings", "check_tidy"]

_MOST_AREA = 1e6
"""mm2"""
MOST_WORK = 2000
LimitName = Literal["least_area", "least_width", "fill_holes"]


class Bridging(msgspec.Struct, frozen=True):
    """How islands are held by themselves."""

    width: float
    """mm"""
    count: int = 2
    direction: Direction = "nearest"


class InkLimits(msgspec.Struct, frozen=True):
    """Limits that hold for the pieces of one ink; what is None is as for all."""

    key: str
    least_area: float | None = None
    least_width: float | None = None
    fill_holes: float | None = None


class TidySettings(msgspec.Struct, frozen=True):
    """What a maker decides about the pieces."""

    least_area: float = 0.25
    """mm2; smaller faces, and smaller holes, join a neighbour."""
    least_width: float = 0.0
    """mm; thinner hairs and tails join a neighbour."""
    fill_holes: float = 0.0
    """mm2; holes of at most so much are filled."""
    limits: tuple[InkLimits, ...] = ()
    """Of single inks, one entry each."""
    cut_away: tuple[str, ...] | None = None
    """Inks that are cut away from a stencil's sheet; None is all that are cut."""
    bridges: Bridging | None = None
    """Bridges that every island gets; None leaves islands to be held by hand."""
    work: tuple[AnyWork, ...] = ()

    def with_limits(self, key: str, **limits: float | None) -> tuple[InkLimits, ...]:
        """`limits` with some of one ink's changed; an entry that says nothing more goes."""
        own = msgspec.structs.replace(self.limits_of(key), **limits)
        kept = [one for one in self.limits if one.key != key]
        if own != InkLimits(key):
            kept.append(own)
        return tuple(sorted(kept, key=lambda one: one.key))

    def limits_of(self, key: str) -> InkLimits:
        """What is said of one ink."""
        return next((one for one in self.limits if one.key == key), InkLimits(key))

    def each(self, setting: LimitName, keys: Sequence[str], scale: float) -> Floats:
        """A limit by label, ground's first, times a scale; (1 + len(keys),)."""
        general = float(getattr(self, setting))
        own = {one.key: getattr(one, setting) for one in self.limits}
        values = [general, *(general if own.get(key) is None else own[key] for key in keys)]
        out: Floats = np.array(values) * scale
        return out


def _check_limits(of: TidySettings | InkLimits) -> None:
    for what, area in (("A least area", of.least_area), ("A hole to fill", of.fill_holes)):
        if area is not None and not (math.isfinite(area) and 0 <= area <= _MOST_AREA):
            raise ArgumentError(f"{what} of {area:g} mm² cannot be used; type 0 to 1000000 mm².")
    if of.least_width is not None:
        check_length("A least width", of.least_width)


def check_tidy(tidy: TidySettings) -> None:
    """Raise ArgumentError for what cannot be used."""
    _check_limits(tidy)
    keys = [one.key for one in tidy.limits]
    for one in tidy.limits:
        _check_limits(one)
        if keys.count(one.key) > 1 or not is_key(one.key):
            raise ArgumentError(f"The limits of “{one.key[:20]}” are those of no ink; take them away.")
    if tidy.bridges is not None:
        check_length("A bridge", tidy.bridges.width, 0.01)
        if not 1 <= tidy.bridges.count <= MOST_BRIDGES:
            raise ArgumentError(f"{tidy.bridges.count} bridges an island cannot be laid; type 1 to {MOST_BRIDGES}.")
    if len(tidy.work) > MOST_WORK:
        raise ArgumentError(f"{len(tidy.work)} pieces of work by hand are too many; at most {MOST_WORK} can be kept.")
    for work in tidy.work:
        work.check()
