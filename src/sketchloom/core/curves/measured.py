"""How far edges lie from curves, measured to whatever curve is nearest.

Beside a junction a sample of an edge often lies on another curve than the one
that it was taken for, and beside a node on another segment.
"""

from dataclasses import replace

import numpy as np
import shapely

from sketchloom.core.arrays import Floats, Ints, ranges
from sketchloom.core.curves.arcs import ArcCurves
from sketchloom.core.curves.path import points_at

__all__ = ["measured_anew"]

_TOLD = 0.5
"""px that a curve lies away, from which on it is made sure of."""
_CLOSE = 0.25
"""px that a place of such a curve may lie away without being looked at again."""
_TIMES = np.linspace(0, 1, 65)


def measured_anew(
    curves: ArcCurves, origin: Floats | None = None, px_per_mm: float = 1.0, arcs: Ints | None = None,
    close: float = _CLOSE,
) -> ArcCurves:  # fmt: skip
    """Measure the samples of arcs that lie far from their curves to the nearest of all curves.

    Parameters
    ----------
    curves : ArcCurves
        px, or mm of a page.
    origin : (2,) float, optional
        Of the page, px.
    px_per_mm : float
    arcs : (N,) int, optional
        Those that lie far by default.
    close : float
        px; samples that lie nearer are left.
    """
    deviation = curves.deviation
    if arcs is None:
        arcs = np.flatnonzero(deviation.largest * px_per_mm > _TOLD)
    if not len(arcs):
        return curves
    own, _ = ranges(deviation.offset[arcs], np.diff(deviation.offset)[arcs])
    own = own[deviation.away[own] * px_per_mm > close]
    at = shapely.points((deviation.place[own] - (np.zeros(2) if origin is None else origin)) / px_per_mm)
    control = curves.segments
    hulls = shapely.box(*control.min(1).T, *control.max(1).T)
    _, near = shapely.STRtree(hulls).query(at, "dwithin", deviation.away[own])
    if not len(near):
        return curves
    lines = shapely.linestrings(points_at(control[np.unique(near)], _TIMES))
    place, distance = shapely.STRtree(lines).query_nearest(at, return_distance=True, all_matches=False)
    away = deviation.away.copy()
    away[own[place[0]]] = np.minimum(away[own[place[0]]], distance)
    return replace(curves, deviation=deviation._replace(away=away))
