"""Finished size: from px of the picture to mm of the cut."""

from typing import Literal, NamedTuple

import msgspec
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.curves import ArcCurves
from sketchloom.core.curves.path import bounds_of
from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.planar import PlanarMap
from sketchloom.core.units import PX_PER_MM_UNSET

__all__ = ["DECIMALS", "PX_PER_MM_UNSET", "FinishSettings", "Finished", "finish", "first_scale"]

DECIMALS = 3
"""Of a mm, in the files: a micrometre, a twentieth of what a cutter's step commonly is."""

LARGEST = 100_000.0


class FinishSettings(msgspec.Struct, frozen=True):
    """How large the cut is."""

    page: Literal["design", "picture"] = "design"
    width: float | None = None
    """mm, of the page; None takes 96 px to the inch."""
    height: float | None = None
    """mm; used where `width` is None, so that either side can be set."""


class Finished(NamedTuple):
    """Curves in mm, and the page they lie on."""

    curves: ArcCurves
    size: tuple[float, float]  # mm
    px_per_mm: float
    origin: Floats  # px


def _asked(settings: FinishSettings) -> tuple[int, float] | None:
    for axis, length in enumerate((settings.width, settings.height)):
        if length is not None:
            if not 0.1 <= length <= LARGEST:
                raise ArgumentError(f"A finished size of {length:g} mm cannot be cut; type one from 0.1 mm to 100 m.")
            return axis, length
    return None


def first_scale(labels: Bytes, settings: FinishSettings, unset: float = PX_PER_MM_UNSET) -> float:
    """Pixels per mm, from the label map's bounds before it is tidied.

    Parameters
    ----------
    labels : (H, W) uint8
    settings : FinishSettings
    unset : float
        px per mm where no size is asked for.

    Raises
    ------
    NothingToCutError
        If all is ground.
    ArgumentError
        If the size asked for is not a size.
    """
    columns, rows = np.flatnonzero(labels.any(0)), np.flatnonzero(labels.any(1))
    if not len(columns):
        raise NothingToCutError(
            "Nothing is left to cut: the whole picture is ground; keep the ground or open another picture."
        )
    asked = _asked(settings)
    if asked is None:
        return unset
    if settings.page == "picture":
        extent = labels.shape[1], labels.shape[0]
    else:
        extent = int(columns[-1] - columns[0] + 1), int(rows[-1] - rows[0] + 1)
    return extent[asked[0]] / asked[1]


def finish(planar: PlanarMap, curves: ArcCurves, settings: FinishSettings, unset: float = PX_PER_MM_UNSET) -> Finished:
    """Bring curves to mm at the finished size, exactly, rounded once.

    Raises
    ------
    NothingToCutError
        If all is ground.
    """
    cut = planar.faces.label > 0
    outer = cut[planar.left] != cut[planar.right]
    if not outer.any():
        raise NothingToCutError("Nothing is left to cut: every piece was too small; lower the least area.")
    if settings.page == "picture":
        left, top, right, bottom = 0.0, 0.0, float(planar.shape[1]), float(planar.shape[0])
    else:
        of_arc = np.repeat(np.arange(len(outer)), np.diff(curves.offset))
        left, top, right, bottom = bounds_of(curves.segments[outer[of_arc]])
    asked = _asked(settings)
    extent = right - left, bottom - top
    px_per_mm = extent[asked[0]] / asked[1] if asked else unset
    origin = np.array([left, top])
    size = round(extent[0] / px_per_mm, DECIMALS), round(extent[1] / px_per_mm, DECIMALS)
    return Finished(curves.in_mm(origin, px_per_mm, DECIMALS), size, px_per_mm, origin)
