"""What is drawn, scored or engraved, and the pieces that it lies on."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.sheets.pieces import Part, parts_of

__all__ = ["Lying", "lying_on"]

_MOST = 0.5
"""Share of a part that lies on a piece, so that it is drawn on it."""


class Lying(NamedTuple):
    """A part of what is not cut out, and what it lies on."""

    part: Part
    on: str
    """Key of a cut; empty where it lies on none."""
    piece: int
    """Of that cut, in the order of `parts_of`."""


def lying_on(cuts: Sequence[Cut]) -> list[Lying]:
    """Tell which piece each closed part that is not cut out lies on: the highest below it, else the lowest above.

    Parameters
    ----------
    cuts : sequence of Cut
        Of one design, bottom first.
    """
    if all(cut.kind == "cut" or cut.is_strokes for cut in cuts):
        return []
    shapes, of = [], list[tuple[int, int]]()
    for height, cut in enumerate(cuts):
        for piece, part in enumerate(parts_of(cut) if cut.kind == "cut" else ()):
            shapes.append(part.shape)
            of.append((height, piece))
    tree = shapely.STRtree(shapes)
    out = []
    for height, cut in enumerate(cuts):
        for part in () if cut.kind == "cut" or cut.is_strokes else parts_of(cut):
            near = tree.query(part.shape)
            shared = shapely.area(shapely.intersection(np.array(shapes, object)[near], part.shape))
            bears = [of[place] for place in near[shared > _MOST * part.shape.area].tolist()]
            below = [one for one in bears if one[0] < height]
            best = max(below) if below else min(bears, default=None)
            out.append(Lying(part, cuts[best[0]].key, best[1]) if best is not None else Lying(part, "", 0))
    return out
