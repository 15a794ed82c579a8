"""What mends change beyond their own places: nothing may be lost, or gained, anywhere else."""

from collections.abc import Sequence
from typing import Any

import shapely

from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import AnyMend

__all__ = ["changed_elsewhere"]

_FIT = 0.03
"""mm that an outline which was made anew may lie beside the old one."""
_LEAST = 0.05
"""mm2 that say something."""


def changed_elsewhere(before: Subject, after: Subject, mends: Sequence[AnyMend]) -> tuple[float, tuple[float, float]]:
    """The largest area, mm2, in which layers differ away from their mends' own places, and where; 0 where none.

    Parameters
    ----------
    before, after : Subject
        Layers are known by their keys; one that is not there is empty.
    mends : sequence of Mend
        That made one of the other; their places are mm on the page.
    """
    own = shapely.union_all([_place_of(before, mend) for mend in mends]) if mends else shapely.Polygon()
    worst, at = 0.0, (0.0, 0.0)
    for layer in before.layers:
        old = before.outline(layer).union
        there = after.layer(layer.key)
        new = after.outline(there).union if there is not None else shapely.Polygon()
        if there is not None and there.digest == layer.digest:
            continue
        differs = shapely.difference(shapely.symmetric_difference(old, new), own)
        for part in shapely.get_parts(shapely.buffer(differs, -_FIT)):
            area = float(shapely.buffer(part, _FIT).area)
            if area > max(_LEAST, worst):
                worst, at = area, (float(part.centroid.x), float(part.centroid.y))
    return worst, at


def _place_of(subject: Subject, mend: AnyMend) -> Any:
    """Where a mend may change what it is for."""
    layer = subject.layer(mend.layer)
    if layer is None:
        return shapely.Polygon()
    outline = subject.outline(layer)

    def near(room: Any) -> Any:
        return outline.pieces.shapes[outline.tree.query(room, predicate="intersects")]

    return mend.own_place(layer, near, _FIT)
