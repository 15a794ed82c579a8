"""What shows when hands lay a layer off, or film shrinks: the worst case, and the overlap that hides it."""

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.cut.grow import grown
from sketchloom.core.cut.polygons import solid
from sketchloom.core.progress import Tick, no_tick

__all__ = ["AUTO_SLIP", "Slip", "find_slip", "reach_of"]

AUTO_SLIP = 0.5
"""mm that hands lay a sheet off; common practice. An overlap that is to hide the slip takes it where none is typed."""
_CRUMB = 2e-3
"""mm2; less that shows is of the curves' tolerance, not of the slip."""
_SURE = 0.02
"""mm that an overlap is more than the slip, for what fitted curves may be off on both sides."""


class Slip(NamedTuple):
    """The worst case of a slip.

    Attributes
    ----------
    gaps : Polygon or MultiPolygon
        Where ground would show, mm.
    many : int
    area : float
        mm2
    overlap : float
        mm under upper neighbours that hides them all; 0 where there is nothing to hide.
    """

    gaps: Any
    many: int
    area: float
    overlap: float


def reach_of(shape: Any, slip: float, shrink: float) -> float:
    """How far an edge of a layer may be off: the slip, and what its largest piece shrinks to its middle, mm."""
    most = 0.0
    if shrink:
        for part in shapely.get_parts(shape):
            most = max(most, float(shapely.hausdorff_distance(part.centroid, part.exterior)))
    return slip + shrink / 100 * most


def find_slip(shapes: Sequence[Any], slip: float, shrinks: Sequence[float], tick: Tick = no_tick) -> Slip:
    """Find what would show if any one layer were laid off in any direction.

    A place shows ground if only one layer covers it, and that layer, moved,
    brings there a place that it does not cover but another does: along the
    outer edge of the design nothing opens. So it is what one layer alone
    covers, within the slip of the rest of the design. An overlap as wide as
    the slip, under upper neighbours, hides all of it.

    Parameters
    ----------
    shapes : sequence of Polygon or MultiPolygon
        Layers that are laid on each other, mm; those that lie under all of it among them.
    slip : float
        mm
    shrinks : sequence of float
        Of each layer, per cent; a piece shrinks to its middle.
    """
    below, above = [shapely.Polygon()], [shapely.Polygon()]
    for one, other in zip(shapes, reversed(shapes), strict=True):
        below.append(solid(shapely.union(below[-1], one)))
        above.append(solid(shapely.union(above[-1], other)))
    gaps = []
    reach = 0.0
    for place, shape in enumerate(shapes):
        tick(place / len(shapes))
        others = solid(shapely.union(below[place], above[len(shapes) - 1 - place]))
        alone = _without_slivers(solid(shapely.difference(shape, others)))
        off = reach_of(shape, slip, shrinks[place])
        rest = _without_slivers(_beside(solid(shapely.difference(below[-1], shape)), alone, off))
        if rest.is_empty:
            continue
        shows = solid(shapely.intersection(alone, grown(rest, off)))
        if shows.area > _CRUMB:
            gaps.append(shows)
            reach = max(reach, off)
    found = shapely.union_all(gaps)
    parts = [part for part in shapely.get_parts(found) if part.geom_type == "Polygon" and part.area > _CRUMB]
    area = float(np.sum([part.area for part in parts]))
    return Slip(shapely.union_all(parts), len(parts), area, round(reach + _SURE, 3) if parts else 0.0)


def _beside(shape: Any, other: Any, reach: float) -> Any:
    """Pieces of a shape that lie within reach of another: where many lie apart, few do."""
    parts, others = shapely.get_parts(shape), shapely.get_parts(other)
    if not len(parts) or not len(others):
        return shapely.Polygon()
    near, _ = shapely.STRtree(others).query(parts, predicate="dwithin", distance=reach)
    return shapely.union_all(parts[np.unique(near)])


def _without_slivers(shape: Any) -> Any:
    """Without what is thinner than two fitted curves of one edge may lie apart; corners stay."""
    inner = shapely.buffer(shape, -_SURE, join_style="mitre")
    return shapely.buffer(inner, _SURE, join_style="mitre")
