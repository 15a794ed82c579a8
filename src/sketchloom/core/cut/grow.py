"""What grows and shrinks: rims, overlaps, gaps, margins and cuts, on polygons."""

from typing import Any, Literal

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.cut.polygons import SAG, solid

__all__ = ["CornerStyle", "grown", "left_of", "overlapped"]

CornerStyle = Literal["round", "mitred", "bevelled"]
_JOIN: dict[CornerStyle, Literal["round", "mitre", "bevel"]] = {
    "round": "round",
    "mitred": "mitre",
    "bevelled": "bevel",
}
_MITRE = 4.0
"""Times the rim that the point of a mitred corner may reach."""
_FINEST = 12
"""Steps of a quarter circle, at least."""


def _steps(by: float) -> int:
    """Steps of a quarter circle of a radius, so that its chords lie within `SAG` of it."""
    turn = 2 * np.arccos(max(0.0, 1 - SAG / max(abs(by), SAG)))
    return max(_FINEST, int(np.ceil(np.pi / 2 / turn)))


def grown(shape: Any, by: float, corners: CornerStyle = "round") -> Any:
    """Grow a shape by a distance, mm, or draw it in where that is negative.

    For a convex shape of area A and outline L the area is A + L d + pi d^2
    (Steiner's formula) with round corners.
    """
    if not by:
        return shape
    return shapely.buffer(shape, by, quad_segs=_steps(by), join_style=_JOIN[corners], mitre_limit=_MITRE)


def overlapped(shape: Any, above: Any, by: float) -> Any:
    """Let a shape run on under what lies above it, by a distance and no farther than that hides it."""
    under = solid(shapely.intersection(grown(shape, by), above))
    return solid(shapely.union(shape, under))


def left_of(line: Floats, reach: float) -> Any:
    """All that lies on the left hand of a line as one walks along it, its ends run on straight; (N, 2), y down.

    Empty where the line comes back to where it was, so that it has no two sides.
    """
    ends = []
    for here, before in ((line[0], line[1]), (line[-1], line[-2])):
        way = here - before
        ends.append(here + way / max(float(np.hypot(*way)), 1e-9) * reach)
    whole = shapely.linestrings(np.vstack([ends[0], line, ends[1]]))
    middle = line.mean(0)
    room = shapely.box(*(middle - 0.7 * reach), *(middle + 0.7 * reach))
    parts = shapely.get_parts(shapely.polygonize([shapely.union_all([room.boundary, whole.intersection(room)])]))
    way = np.diff(line, axis=0)
    length = np.maximum(np.hypot(*way.T), 1e-9)[:, None]
    aside = 1e-3 * np.stack([way[:, 1], -way[:, 0]], 1) / length  # left as one walks, with y down
    samples = shapely.points((line[1:] + line[:-1]) / 2 + aside)
    return shapely.union_all([part for part in parts if shapely.contains(part, samples).any()])
