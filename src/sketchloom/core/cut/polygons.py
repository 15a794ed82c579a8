"""Paths to polygons, for what the map does not hold."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves import Path

__all__ = ["SAG", "Flat", "Pieces", "flatten", "pieces_of", "solid"]

SAG = 0.002
"""mm that a polygon may lie beside its curve."""
_TURN = 0.16
"""rad that a curve may turn between two points of its polygon."""
_GRID = 1e-4
"""mm"""
_SPECK = 1e-3
"""mm2; no cutter shows what is smaller."""


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


class Pieces(NamedTuple):
    """The pieces of a layer as polygons, each with the contours that it has.

    Attributes
    ----------
    shapes : (P,) array of Polygon
        mm.
    of_contour : (C,) int
        Piece of each contour of the path; -1 for one that is of none, being
        open or too small to hold anything.
    outer : (C,) bool
        Which contours run round a piece; the others are holes.
    sound : (P,) bool
        Which pieces are just what their contours go round; the others have one
        that crosses itself or another, and are what it comes to.
    crossed : (P,) float
        By how much that differs from what the contours enclose, mm2.
    valid : bool
        Whether no piece overlaps another. Where one does, the pieces are what
        all outlines come to, and all contours are of piece -1.
    """

    shapes: Any
    of_contour: Ints
    outer: Bools
    sound: Bools
    crossed: Floats
    valid: bool


def pieces_of(flat: Flat) -> Pieces:
    """Give the pieces of a layer; open contours hold nothing."""
    closed = np.array(flat.path.closed, bool)
    rings = flat.rings
    index = np.array([i for i, ring in enumerate(rings) if closed[i] and len(ring) >= 3], np.int64)
    of_contour, is_outer = np.full(len(rings), -1), np.zeros(len(rings), bool)
    if not len(index):
        return Pieces(np.zeros(0, object), of_contour, is_outer, np.zeros(0, bool), np.zeros(0), True)
    if flat.path.meant is not None:
        parts = np.array([part for part in shapely.get_parts(flat.path.meant) if part.area > _SPECK], object)
        return Pieces(parts, of_contour, is_outer, np.zeros(len(parts), bool), np.zeros(len(parts)), False)
    nest = _nested([rings[i] for i in index.tolist()])
    is_outer[index] = nest.outer
    if nest.holder is not None:
        parts = _filled(nest)
        sound = shapely.is_valid(parts)
        whole = bool(sound.all()) and bool(shapely.is_valid(shapely.multipolygons(parts)))
        crossed = np.zeros(len(parts))
        more: list[Any] = []
        for i in np.flatnonzero(~sound).tolist():
            repaired = _without_specks(shapely.make_valid(parts[i], method="structure", keep_collapsed=False))
            crossed[i] = abs(parts[i].area - sum(part.area for part in repaired))
            parts[i] = repaired[0] if repaired else shapely.Polygon()
            more += repaired[1:]
        parts = np.array([*parts, *more], object)
        if whole or not _overlap(parts):
            kept = ~shapely.is_empty(parts)  # an outline that only doubles back on itself holds nothing
            number = np.where(kept, np.cumsum(kept) - 1, -1)
            of_contour[index] = number[nest.holder]
            sound = np.append(sound, np.zeros(len(more), bool))[kept]
            crossed = np.append(crossed, np.zeros(len(more)))[kept]
            return Pieces(parts[kept], of_contour, is_outer, sound, crossed, True)
    parts = np.array(shapely.get_parts(_assembled([rings[i] for i in index.tolist()])), object)
    return Pieces(parts, of_contour, is_outer, np.zeros(len(parts), bool), np.zeros(len(parts)), False)


def _without_specks(shape: Any) -> list[Any]:
    """Polygons of a shape, largest first, without the specks that an outline leaves where it doubles back."""
    kept = []
    for part in shapely.get_parts(solid(shape)):
        if part.area > _SPECK:
            holes = [ring for ring in part.interiors if shapely.Polygon(ring).area > _SPECK]
            kept.append(shapely.Polygon(part.exterior, holes))
    return sorted(kept, key=lambda part: -part.area)


def _overlap(parts: Any) -> bool:
    """Whether any polygons overlap by more than a speck."""
    one, other = shapely.STRtree(parts).query(parts, predicate="intersects")
    some = one < other
    return bool((shapely.area(shapely.intersection(parts[one[some]], parts[other[some]])) > _SPECK).any())


def flatten(path: Path) -> Flat:
    """Bring a path to lines of points that lie within `SAG` of it.

    A segment is worked out in one sense only, so that the two layers beside an
    edge get the same points to the last digit.
    """
    control = path.segments
    straight = np.concatenate([np.zeros(0, bool), *path.straight])
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
    ends = np.append(0, np.cumsum(steps))
    place = np.arange(len(of)) - ends[of]
    t = np.where(back[of], steps[of] - place, place) / steps[of]
    s, t = (1 - t)[:, None], t[:, None]
    p = control[of]
    points = s**3 * p[:, 0] + 3 * s * s * t * p[:, 1] + 3 * s * t * t * p[:, 2] + t**3 * p[:, 3]
    counts = np.array([len(flags) for flags in path.straight], np.int64)
    return Flat(path, points, ends[np.append(0, np.cumsum(counts))], of)


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
    nest = _nested(rings)
    if nest.holder is not None:
        parts = _filled(nest)
        whole = parts[0] if len(parts) == 1 else shapely.multipolygons(parts)
        if whole.is_valid:
            return whole
    depth = np.bincount(nest.inner, minlength=len(rings))
    valid = shapely.make_valid(shapely.polygons(nest.lines), method="structure", keep_collapsed=False)
    try:
        return _overlaid(valid, depth, nest.outer, None)
    except shapely.errors.GEOSException:  # outlines that cross where no number lies between
        return _overlaid(shapely.set_precision(valid, _GRID), depth, nest.outer, _GRID)


class _Nest(NamedTuple):
    """How rings lie in each other."""

    lines: Any  # (R,) linear rings
    outer: Bools  # (R,)
    inner: Ints  # rings that lie in others,
    around: Ints  # and those around them
    holder: Ints | None  # (R,) number of the outer ring that each belongs to, or None where a hole lies in none


def _nested(rings: Sequence[Floats]) -> _Nest:
    """Tell which rings lie in which; a hole belongs to the smallest outer ring round it."""
    points, sizes = np.concatenate(rings), np.array([len(ring) for ring in rings])
    of = np.repeat(np.arange(len(rings)), sizes)
    lines = shapely.linearrings(points, indices=of)
    polygons = shapely.polygons(lines)
    first = np.cumsum(sizes) - sizes
    following = np.arange(1, len(points) + 1)
    following[first + sizes - 1] = first
    (x, y), (x_next, y_next) = points.T, points[following].T
    signed = np.add.reduceat(x * y_next - y * x_next, first) / 2
    areas = np.abs(signed)
    outer = (signed > 0) == (signed[np.argmax(areas)] > 0)
    inner, around = shapely.STRtree(polygons).query(shapely.points(points[first]), predicate="intersects")
    true = (inner != around) & (areas[around] > areas[inner])
    inner, around = inner[true], around[true]
    fits = outer[around] & ~outer[inner]
    hole, shell = inner[fits], around[fits]
    order = np.lexsort((areas[shell], hole))
    hole, shell = hole[order], shell[order]
    smallest = np.append(True, hole[1:] != hole[:-1])[: len(hole)]
    holder = np.where(outer, np.cumsum(outer) - 1, -1)
    holder[hole[smallest]] = holder[shell[smallest]]
    return _Nest(lines, outer, inner, around, holder if (holder >= 0).all() else None)


def _filled(nest: _Nest) -> Any:
    """Outer rings with the holes that lie in them; (P,) array of Polygon."""
    assert nest.holder is not None
    order = np.lexsort((np.arange(len(nest.lines)), ~nest.outer, nest.holder))  # each outer ring, then its holes
    out: Any = shapely.polygons(nest.lines[order], indices=nest.holder[order])
    return out


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


def solid(shape: Any) -> Any:
    """The polygons of a shape, without the lines and points that overlays leave where outlines touch."""
    if shape.geom_type in ("Polygon", "MultiPolygon"):
        return shape
    kept = [part for part in shapely.get_parts(shape) if part.geom_type in ("Polygon", "MultiPolygon")]
    return shapely.union_all(kept) if kept else shapely.Polygon()
