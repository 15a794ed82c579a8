"""Paths to polygons and back: what the map does not hold goes through shapely and is fitted again."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves import Path, fit_exact
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.layers.finish import DECIMALS
from sketchloom.core.progress import Tick, no_tick

__all__ = ["SAG", "Flat", "flatten", "refitted", "solid"]

SAG = 0.002
"""mm that a polygon may lie beside its curve."""
_TURN = 0.16
"""rad that a curve may turn between two points of its polygon."""
_CORNER = 0.35
"""rad at a point of a polygon, above which it is a corner."""
_STEP = 0.05
"""mm between the points that curves are fitted through."""
_TOLERANCE = 0.006
"""mm that a fitted curve may leave its polygon; with `SAG` on either side it stays within a hundredth."""
_STRAY = 4e-4
"""mm beside a line that a point may lie and say nothing."""
_LEAST = 0.02
"""mm; a ring that is nowhere longer is none."""
_GRID = 1e-4
"""mm"""
_CRUMB = 1e-4
"""mm2"""


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


class _Run(NamedTuple):
    """A stretch of a ring: segments that are kept as they are, or points to fit."""

    control: Floats | None  # (k, 4, 2)
    straight: Bools | None
    points: Floats | None  # (N, 2), with both its ends


def refitted(shape: Any, sources: Sequence[Flat] = (), tick: Tick = no_tick) -> Path:
    """Bring polygons back to a path.

    Where an outline runs along a curve that it came from, over the whole of a
    segment, that segment is taken over as it is; the rest is fitted within a
    hundredth of a mm by the program's own fitter, corners kept.

    Parameters
    ----------
    shape : Polygon, MultiPolygon or GeometryCollection
        mm.
    sources : sequence of Flat
        Paths that its outlines may run along.
    """
    rings = []
    for part in shapely.get_parts(shape):
        if part.geom_type == "Polygon" and part.area > _CRUMB:
            part = shapely.orient_polygons(part, exterior_cw=True)  # as the map's outlines run, with y down
            rings += [shapely.get_coordinates(ring)[:-1] for ring in (part.exterior, *part.interiors)]
    rings = [_settled(ring) for ring in rings]
    rings = [ring for ring in rings if len(ring) >= 3 and np.ptp(ring, axis=0).max() > _LEAST]
    known = _Known(sources)
    runs = [known.runs(ring) for ring in rings]
    fitted = _fit_runs(runs, tick)
    contours, flags = [], []
    for parts in fitted:
        control = np.round(np.concatenate([control for control, _ in parts]), DECIMALS) + 0.0
        straight = np.concatenate([flag for _, flag in parts])
        control[1:, 0] = control[:-1, 3]
        control[0, 0] = control[-1, 3]
        kept = ~straight | (np.abs(control[:, 3] - control[:, 0]).max(1) > 0)
        control, straight = control[kept], straight[kept]
        if len(control) < 2:
            continue
        straight_thirds(control, straight)
        contours.append(np.vstack([control[:, :3].reshape(-1, 2), control[:1, 0]]))
        flags.append(straight)
    return Path(tuple(contours), tuple(flags))


def _settled(ring: Floats) -> Floats:
    """Without points that lie on the one before."""
    step = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T)
    return ring[step > 1e-7]


class _Known:
    """Steps of known paths, looked up by their middles: two layers share a step, but run it in either sense."""

    def __init__(self, sources: Sequence[Flat]) -> None:
        self._start = np.concatenate([np.zeros((0, 2)), *(flat.points for flat in sources)])
        ends: list[Any] = [np.zeros((0, 2))]
        segments: list[Any] = [np.zeros(0, np.int64)]
        flats: list[Floats] = [np.zeros((0, 4, 2))]
        for flat in sources:
            after = np.arange(1, len(flat.points) + 1)
            after[flat.first[1:] - 1] = flat.first[:-1]
            ends.append(flat.points[after])
            segments.append(flat.segment + sum(len(part) for part in flats))
            flats.append(flat.path.segments)
        self._control = np.concatenate(flats)
        self._straight = np.concatenate([np.zeros(0, bool), *(flag for flat in sources for flag in flat.path.straight)])
        self._segment = np.concatenate(segments)
        self._length = np.bincount(self._segment, minlength=len(self._control))
        code = _code((self._start + np.concatenate(ends)) / 2)
        self._order = np.argsort(code, kind="stable")
        self._sorted = code[self._order]

    def runs(self, ring: Floats) -> list[_Run]:
        """Cut a ring into what is known and what is to be fitted."""
        if not len(self._sorted):
            return [_Run(None, None, ring)]
        code = _code((ring + np.roll(ring, -1, axis=0)) / 2)
        place = np.minimum(np.searchsorted(self._sorted, code), len(self._sorted) - 1)
        step = self._order[place]
        known = self._sorted[place] == code
        segment = np.where(known, self._segment[step], -1)
        way = np.where(known, np.where((self._start[step] == ring).all(1), 1, -1), 0)
        change = (segment != np.roll(segment, 1)) | (way != np.roll(way, 1))
        starts = np.flatnonzero(change)
        if not len(starts):
            return [_Run(None, None, ring)]
        sizes = np.diff(np.append(starts, starts[0] + len(ring)))
        whole = (segment[starts] >= 0) & (sizes == self._length[segment[starts]])
        if not whole.any():
            return [_Run(None, None, ring)]
        turn = int(np.argmax(whole))
        out: list[_Run] = []
        loose: list[int] = []

        def flush() -> None:
            if loose:
                index = np.append(np.concatenate([np.arange(starts[i], starts[i] + sizes[i]) for i in loose]),
                                  starts[loose[-1]] + sizes[loose[-1]])  # fmt: skip
                out.append(_Run(None, None, ring[index % len(ring)]))
                loose.clear()

        for i in (np.arange(len(starts)) + turn) % len(starts):
            if not whole[i]:
                loose.append(int(i))
                continue
            flush()
            control = self._control[[segment[starts[i]]]]
            control = control if way[starts[i]] > 0 else control[:, ::-1]
            out.append(_Run(control, self._straight[[segment[starts[i]]]], None))
        flush()
        return out


def _code(points: Floats) -> Any:
    """Points as one value each, for looking up."""
    return np.ascontiguousarray(points + 0.0).view(np.complex128).ravel()


def _fit_runs(runs: list[list[_Run]], tick: Tick) -> list[list[tuple[Floats, Bools]]]:
    """Fit all runs that are to be fitted, in one batch."""
    lines: list[Any] = []
    closed, corners = [], []
    for ring in runs:
        for run in ring:
            if run.points is not None:
                loop = len(ring) == 1
                points, sharp = _resampled(run.points, loop)
                lines.append(points / _STEP)
                closed.append(loop)
                corners.append(sharp)
    pieces = fit_exact(lines, closed, corners, _TOLERANCE / _STEP, tick) if lines else []
    out, at = [], 0
    for ring in runs:
        parts = []
        for run in ring:
            if run.control is not None and run.straight is not None:
                parts.append((run.control, run.straight))
            else:
                parts.append((pieces[at].control * _STEP, pieces[at].straight))
                at += 1
        out.append(parts)
    return out


def _resampled(points: Floats, loop: bool) -> tuple[Floats, Bools]:
    """Points evenly along a line from corner to corner; the corners are kept as they are."""
    points = _without_crumbs(points, loop)
    ahead = np.roll(points, -1, axis=0) - points
    behind = points - np.roll(points, 1, axis=0)
    turn = np.abs(np.arctan2(behind[:, 0] * ahead[:, 1] - behind[:, 1] * ahead[:, 0], (behind * ahead).sum(1)))
    corner = turn > _CORNER
    if not loop:
        corner[[0, -1]] = True
    elif corner.any():
        start = int(np.argmax(corner))
        points, corner = np.roll(points, -start, axis=0), np.roll(corner, -start)
    line = np.vstack([points, points[:1]]) if loop else points
    step = np.hypot(*np.diff(line, axis=0).T)
    along = np.append(0.0, np.cumsum(step))
    stops = np.flatnonzero(np.append(corner, loop)) if loop else np.flatnonzero(corner)
    if loop and 0 not in stops:
        stops = np.append(0, stops)
    out: list[Any] = []
    sharp: list[Any] = []
    for low, high in pairwise(stops.tolist()):
        count = max(2, int(np.ceil((along[high] - along[low]) / _STEP)))
        where = np.linspace(along[low], along[high], count + 1)[:-1]
        part: Any = np.stack([np.interp(where, along, line[:, axis]) for axis in (0, 1)], 1)
        part[0] = line[low]
        out.append(part)
        sharp.append(np.arange(count) == 0 if corner[low] else np.zeros(count, bool))
    if not loop:
        out.append(line[-1:])
        sharp.append(np.ones(1, bool))
    return np.concatenate(out), np.concatenate(sharp)


def _without_crumbs(points: Floats, loop: bool) -> Floats:
    """Without the tiny steps that overlays leave, whose directions say nothing."""
    line = np.vstack([points, points[:1]]) if loop else points
    kept = shapely.get_coordinates(shapely.simplify(shapely.linestrings(line), _STRAY))
    return kept[:-1] if loop and len(kept) > 3 else points if loop else kept
