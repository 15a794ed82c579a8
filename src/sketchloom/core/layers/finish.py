"""Finished size: the curves in mm, on their page."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.curves import ArcCurves, drawn_apart
from sketchloom.core.curves.path import bounds_of
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.planar import PlanarMap
from sketchloom.core.scale import Extent, FinishSettings, Scale, asked_side
from sketchloom.core.units import DECIMALS, FINEST

__all__ = ["Finished", "decimals_of", "extent_of", "finish"]

_OF_PIXEL = 5.0
"""Times finer than a pixel that digits are, so that rounding lets no outlines cross."""


class Finished(NamedTuple):
    """Curves in mm, and the page they lie on."""

    curves: ArcCurves
    size: tuple[float, float]  # mm
    px_per_mm: float
    origin: Floats  # px


def extent_of(labels: Bytes) -> Extent:
    """Bounds of all that is no ground.

    Raises
    ------
    NothingToCutError
        If all is ground.
    """
    columns, rows = np.flatnonzero(labels.any(0)), np.flatnonzero(labels.any(1))
    if not len(columns):
        raise NothingToCutError(
            "Nothing is left to cut: the whole picture is ground; keep the ground or open another picture."
        )
    return int(columns[0]), int(rows[0]), int(columns[-1] + 1), int(rows[-1] + 1)


def decimals_of(px_per_mm: float) -> int:
    """Decimals of a mm that files need at a scale: `DECIMALS`, more where a pixel is below 0.005 mm."""
    return int(np.clip(np.ceil(np.log10(_OF_PIXEL * px_per_mm) - 1e-9), DECIMALS, FINEST))


def finish(planar: PlanarMap, curves: ArcCurves, settings: FinishSettings, scale: Scale) -> Finished:
    """Bring curves to mm, rounded once, so that the page has exactly the size that was asked for.

    `scale` was decided on whole pixels; the curves show to a part of a pixel
    how far the design reaches, and the page takes that difference up.

    Raises
    ------
    NothingToCutError
        If all is ground.
    """
    cut = planar.faces.label > 0
    outer = cut[planar.left] != cut[planar.right]
    if not outer.any():
        raise NothingToCutError(
            "Nothing is left to cut: every piece went to the ground or was too small; lower the least area."
        )
    if settings.page == "picture":
        left, top, right, bottom = 0.0, 0.0, float(planar.shape[1]), float(planar.shape[0])
    else:
        of_arc = np.repeat(np.arange(len(outer)), np.diff(curves.offset))
        left, top, right, bottom = bounds_of(curves.segments[outer[of_arc]])
    asked = asked_side(settings)
    extent = right - left, bottom - top
    px_per_mm = extent[asked[0]] / asked[1] if asked else scale.px_per_mm
    origin = np.array([left, top])
    size = round(extent[0] / px_per_mm, DECIMALS), round(extent[1] / px_per_mm, DECIMALS)
    places = decimals_of(px_per_mm)
    curves = drawn_apart(planar, curves, lambda points: np.round((points - origin) / px_per_mm, places) * px_per_mm)
    return Finished(curves.in_mm(origin, px_per_mm, places), size, px_per_mm, origin)
