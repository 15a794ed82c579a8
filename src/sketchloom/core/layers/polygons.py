"""Paths to polygons, for what the map does not hold."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves import Path

__all__ = ["SAG", "Flat", "flatten", "solid"]

SAG = 0.002
"""mm that a polygon may lie beside its curve."""
_TURN = 0.16
"""rad that a curve may turn between two points of its polygon."""
_GRID = 1e-4
"""mm"""


class Flat(NamedTuple):
    """A path as lines of points, with where each of them comes from.

    Attributes
    ----------
    path : Path
        mm.
    points : (N, 2) float
        Points of all contours in order; the last of a contour is not repeated.
    first : (C + 1,) int
        Where each contour begins in `points`.
    segment : (N,) int
        Segment of the path that leaves each point.
    """

    path: Path
    points: Floats
    first: Ints
    segment: Ints

    @property
    def rings(self) -> list[Floats]:
        """The contours, each a line of points."""
        return [self.points[low:high] for low, high in pairwise(self.first.tolist())]

    @property
    def shape(self) -> Any:
        """Polygons within `SAG` of the path, mm; its contours are outer ones and holes, which do not cross."""
        return _assembled(self.rings)


def flatten(path: Path) -> Flat:
    """Bring a path to lines of points that lie within `SAG` of it."""
    rings: list[Any] = []
    segments: list[Any] = []
    done = 0
    for contour, straight in zip(path.contours, path.straight, strict=True):
        count = len(straight)
        ring, of = _flat_contour(contour[3 * np.arange(count)[:, None] + np.arange(4)], straight)
        rings.append(ring)
        segments.append(of + done)
        done += count
    points = np.concatenate([np.zeros((0, 2)), *rings])
    first = np.append(0, np.cumsum([len(ring) for ring in rings])).astype(np.int64)
    return Flat(path, points, first, np.concatenate([np.zeros(0, np.int64), *segments]))


def _flat_contour(control: Floats, straight: Bools) -> tuple[Any, Any]:
    """Points of a contour, the end of each segment left out, and the segment of each.

    A segment is worked out in one sense only, so that the two layers beside an
    edge get the same points to the last digit.
    """
    back = _is_back(control)
    control = np.where(back[:, None, None], control[:, ::-1], control)
    bend = np.abs(control[:, 2:] - 2 * control[:, 1:-1] + control[:, :-2])
    far = np.hypot(*np.moveaxis(bend, 2, 0)).max(1)
    legs = np.diff(control, axis=1)
    angle = np.arctan2(legs[..., 1], legs[..., 0])
    turn = np.abs((np.diff(angle, axis=1) + np.pi) % (2 * np.pi) - np.pi).sum(1)
    steps = np.maximum(np.ceil(np.sqrt(6 * far / (8 * SAG))), np.ceil(turn / _TURN))
    steps = np.where(straight, 1, np.maximum(steps, 1)).astype(np.int64)
    of = np.repeat(np.arange(len(control)), steps)
    place = np.arange(len(of)) - np.repeat(np.cumsum(steps) - steps, steps)
    t = np.where(back[of], steps[of] - place, place) / steps[of]
    s, t = (1 - t)[:, None], t[:, None]
    p = control[of]
    points = s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3]
    return points, of


def _is_back(control: Floats) -> Bools:
    """Which segments run towards the lesser of their ends, by x and then y; loops by their controls."""
    out = np.zeros(len(control), bool)
    open_yet = np.ones(len(control), bool)
    for near, far in ((0, 3), (1, 2)):
        for axis in (0, 1):
            apart = control[:, near, axis] - control[:, far, axis]
            out |= open_yet & (apart > 0)
            open_yet &= apart == 0
    return out


def _assembled(rings: Sequence[Floats]) -> Any:
    """Polygons of rings, those that run the other way round than the largest being holes.

    Where outlines cross themselves or each other, rings are laid over each
    other by how deep they lie; if need be on a fine grid, on which no overlay
    fails.
    """
    rings = [ring for ring in rings if len(ring) >= 3]
    if not rings:
        return shapely.Polygon()
    signed = np.array([_area(ring) for ring in rings])
    outer = (signed > 0) == (signed[np.argmax(np.abs(signed))] > 0)
    lines = np.array([shapely.linearrings(ring) for ring in rings])
    plain = shapely.polygons(lines)
    tree = shapely.STRtree(plain)
    inner, around = tree.query(shapely.points([ring[0] for ring in rings]), predicate="intersects")
    true = (inner != around) & (np.abs(signed[around]) > np.abs(signed[inner]))
    inner, around = inner[true], around[true]
    whole = _with_holes(lines, outer, np.abs(signed), inner, around)
    if whole is not None:
        return whole
    depth = np.bincount(inner, minlength=len(rings))
    valid = shapely.make_valid(plain, method="structure", keep_collapsed=False)
    try:
        return _overlaid(valid, depth, outer, None)
    except shapely.errors.GEOSException:  # outlines that cross where no number lies between
        return _overlaid(shapely.set_precision(valid, _GRID), depth, outer, _GRID)


def _overlaid(rings: Any, depth: Ints, outer: Bools, grid: float | None) -> Any:
    """Lay rings over each other by how deep they lie, outer ones of a depth before its holes."""
    out = shapely.Polygon()
    for level in np.unique(depth).tolist():
        for overlay, kind in ((shapely.union, outer), (shapely.difference, ~outer)):
            some = rings[(depth == level) & kind]
            if len(some):
                laid = solid(shapely.union_all(some, grid_size=grid))
                out = solid(overlay(out, laid, grid_size=grid))
    return out


def _with_holes(lines: Any, outer: Bools, areas: Floats, inner: Ints, around: Ints) -> Any:
    """Outer rings with the holes that lie in them; None where that is no valid shape.

    A hole belongs to the smallest outer ring round it.
    """
    fits = outer[around] & ~outer[inner]
    inner, around = inner[fits], around[fits]
    order = np.lexsort((areas[around], inner))
    inner, around = inner[order], around[order]
    first = np.append(True, inner[1:] != inner[:-1]) if len(inner) else np.zeros(0, bool)
    hole, holder = inner[first], around[first]
    if len(hole) != int((~outer).sum()):
        return None
    by_holder = np.argsort(holder, kind="stable")
    hole, holder = hole[by_holder], holder[by_holder]
    shells = np.flatnonzero(outer)
    ends = np.searchsorted(holder, shells, "right")
    starts = np.searchsorted(holder, shells, "left")
    parts = [
        shapely.polygons(lines[shell], lines[hole[low:high]] if high > low else None)
        for shell, low, high in zip(shells.tolist(), starts.tolist(), ends.tolist(), strict=True)
    ]
    whole = parts[0] if len(parts) == 1 else shapely.multipolygons(parts)
    return whole if whole.is_valid else None


def solid(shape: Any) -> Any:
    """The polygons of a shape, without the lines and points that overlays leave where outlines touch."""
    if shape.geom_type in ("Polygon", "MultiPolygon"):
        return shape
    kept = [part for part in shapely.get_parts(shape) if part.geom_type in ("Polygon", "MultiPolygon")]
    return shapely.union_all(kept) if kept else shapely.Polygon()


def _area(ring: Floats) -> float:
    x, y = ring.T
    return 0.5 * float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum())
