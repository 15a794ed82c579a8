"""Gaps that end in a sharp point."""

from collections.abc import Iterator

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.words import finding
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import RoundNotch

__all__ = ["find_sharp"]

_ROOM = 0.3
"""mm round a notch."""
_DEEP, _WIDEST = 0.4, 10.0
"""mm from its tip at which a notch is still a notch, and by how many degrees it may be wider there."""
_LEG = 0.02
"""mm; shorter steps say nothing of a direction."""


def find_sharp(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find notches of the material whose edges meet at a small angle."""
    limit = subject.limit(layer, "sharp")
    outline = subject.outline(layer)
    points = outline.points
    if not len(points):
        return
    turn, leg = outline.turns
    long = leg > _LEG
    angle = 180 + np.degrees(turn)  # of the ground, where the outline turns to the outside
    contour = np.repeat(np.arange(len(outline.first) - 1), np.diff(outline.first))
    for i in np.flatnonzero(long & (turn < 0) & (angle < limit)).tolist():
        low, high = outline.first[contour[i]], outline.first[contour[i] + 1]
        if _opening(np.roll(points[low:high], low - i, axis=0)) > _WIDEST + limit:
            continue
        at = (float(points[i, 0]), float(points[i, 1]))
        box = (at[0] - _ROOM, at[1] - _ROOM, at[0] + _ROOM, at[1] + _ROOM)
        sentence = (
            f"This gap ends in a point of {angle[i]:.0f}°: the blade turns on the spot there, and tears the material."
        )
        mend = RoundNotch(layer=layer.key, at=at, radius=max(subject.limit(layer, "gap"), 0.1) / 2 * 1.05)
        yield finding(subject, "sharp", layer, at, box, float(angle[i]), sentence, (Fix("round", "Round it", (mend,)),))


def _opening(ring: Floats) -> float:
    """Angle between the two edges of a notch, seen from its tip to where they are some way along; the tip is first."""
    line = np.vstack([ring, ring[:1]])
    along = np.append(0.0, np.cumsum(np.hypot(*np.diff(line, axis=0).T)))
    stops = np.array([_DEEP, along[-1] - _DEEP])
    ends = np.stack([np.interp(stops, along, line[:, axis]) for axis in (0, 1)], 1) - ring[0]
    one, other = np.arctan2(ends[:, 1], ends[:, 0])
    apart = abs(float(one - other)) % (2 * np.pi)
    return float(np.degrees(min(apart, 2 * np.pi - apart)))
