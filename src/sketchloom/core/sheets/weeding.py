"""Boxes and lines that let waste be weeded in parts; none of them crosses what is cut."""

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Floats

__all__ = ["weeding_boxes", "weeding_lines"]

Box = tuple[float, float, float, float]

_APART = 0.5
"""mm; boxes that lie closer are one."""
_STEP = 50.0
"""mm between lines through waste; common practice."""
_CLEAR = 1.5
"""mm that lines stay away from what is cut."""
_SHORTEST = 12.0
"""mm; shorter lines help nobody."""


def weeding_boxes(bounds: Sequence[Box], margin: float, together: bool) -> list[Box]:
    """Give boxes round pieces, each as far from them as the margin; those that would meet are one.

    Parameters
    ----------
    bounds : sequence of box
        Of pieces on a sheet: left, top, right and bottom, mm.
    margin : float
        mm
    together : bool
        Whether one box goes round all.
    """
    boxes = np.array(bounds, float).reshape(-1, 4) + np.array([-margin, -margin, margin, margin])
    if together and len(boxes):
        boxes = np.hstack([boxes[:, :2].min(0), boxes[:, 2:].max(0)])[None]
    while len(boxes):
        low, high = boxes[:, None], boxes[None]
        meets = (np.maximum(low, high)[..., :2] - _APART < np.minimum(low, high)[..., 2:]).all(2)
        np.fill_diagonal(meets, False)
        one, other = np.nonzero(np.triu(meets))
        if not len(one):
            break
        first, second = int(one[0]), int(other[0])
        joined = np.hstack([boxes[[first, second], :2].min(0), boxes[[first, second], 2:].max(0)])
        boxes = np.vstack([np.delete(boxes, [first, second], 0), joined])
    return [
        (float(a), float(b), float(c), float(d)) for a, b, c, d in sorted(boxes.tolist(), key=lambda box: box[1::-1])
    ]


def weeding_lines(box: Box, pieces: Any) -> list[Floats]:
    """Give straight lines that part the waste in a box, (2, 2) each; they stay clear of pieces and end on the box."""
    left, top, right, bottom = box
    taken = shapely.buffer(shapely.union_all(pieces), _CLEAR)
    out = []
    for low, high, across in ((left, right, True), (top, bottom, False)):
        many = max(1, int(np.ceil((high - low) / _STEP)))
        for at in np.linspace(low, high, many + 1)[1:-1].tolist():
            ends = [(at, top), (at, bottom)] if across else [(left, at), (right, at)]
            parts = shapely.get_parts(shapely.difference(shapely.linestrings(ends), taken)).tolist()
            out += [np.array(part.coords) for part in parts if part.length >= _SHORTEST]
    return out
