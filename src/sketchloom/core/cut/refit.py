"""Polygons back to paths: what is known is taken over, the rest goes through the program's own fitter."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path, find_crossings, fit_exact
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut.polygons import Flat
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.units import DECIMALS

__all__ = ["CRUMB", "refitted"]

CRUMB = 1e-4
"""mm2; a smaller polygon is none."""
_CORNER = 0.35
"""rad at a point of a polygon, above which it is a corner."""
_STEP = 0.05
"""mm between the points that curves are fitted through."""
_MOST_POINTS = 500_000
"""About; longer outlines get them farther apart."""
_CLOSER = 0.25
"""Of the bound, that what crosses is fitted again within."""
_TOLERANCE = 0.006
"""mm that a fitted curve may leave its polygon, so that it stays within a hundredth of what was meant."""
_STRAY = 4e-4
"""mm beside a line that a point may lie and say nothing."""
_LEAST = 0.02
"""mm; a ring that is nowhere longer is none."""


class _Run(NamedTuple):
    """A stretch of a ring: segments that are kept as they are, or points to fit."""

    control: Floats | None  # (k, 4, 2)
    straight: Bools | None
    points: Floats | None  # (N, 2), with both its ends


def refitted(shape: Any, sources: Sequence[Flat] = (), tick: Tick = no_tick, within: float = _TOLERANCE) -> Path:
    """Bring polygons back to a path.

    Where an outline runs along a curve that it came from, over the whole of a
    segment, that segment is taken over as it is; the rest is fitted within a
    hundredth of a mm by the program's own fitter, corners kept. What then
    crosses is fitted more closely, and at last is the polygon itself.

    Parameters
    ----------
    shape : Polygon, MultiPolygon or GeometryCollection
        mm.
    sources : sequence of Flat
        Paths that its outlines may run along.
    within : float
        mm that a fitted curve may leave the polygons.
    """
    rings = []
    for part in shapely.get_parts(shape):
        if part.geom_type == "Polygon" and part.area > CRUMB:
            part = shapely.orient_polygons(part, exterior_cw=True)  # as the map's outlines run, with y down
            rings += [shapely.get_coordinates(ring)[:-1] for ring in (part.exterior, *part.interiors)]
    rings = [_settled(ring) for ring in rings]
    rings = [ring for ring in rings if len(ring) >= 3 and np.ptp(ring, axis=0).max() > _LEAST]
    known = _Known(sources)
    runs = [known.runs(ring) for ring in rings]
    made = [_contour(parts) for parts in _fit_runs(runs, within, tick)]
    for closer in (within * _CLOSER, 0.0):  # at last the polygon itself, which crosses nothing
        bad = _crossed(made)
        if not bad:
            break
        again = (
            _fit_runs([runs[row] for row in bad], closer, no_tick) if closer else [_steps(rings[row]) for row in bad]
        )
        for row, parts in zip(bad, again, strict=True):
            made[row] = _contour(parts)
    kept = [one for one in made if one is not None]
    return Path(tuple(contour for contour, _ in kept), tuple(straight for _, straight in kept))


def _contour(parts: list[tuple[Floats, Bools]]) -> tuple[Floats, Bools] | None:
    """Fitted runs as one closed contour, rounded; None where nothing is left of it."""
    control = np.round(np.concatenate([control for control, _ in parts]), DECIMALS) + 0.0
    straight = np.concatenate([flag for _, flag in parts])
    control[1:, 0] = control[:-1, 3]
    control[0, 0] = control[-1, 3]
    kept = ~straight | (np.abs(control[:, 3] - control[:, 0]).max(1) > 0)
    control, straight = control[kept], straight[kept]
    if len(control) < 2:
        return None
    straight_thirds(control, straight)
    return np.vstack([control[:, :3].reshape(-1, 2), control[:1, 0]]), straight


def _crossed(made: list[tuple[Floats, Bools] | None]) -> list[int]:
    """Which contours cross themselves or others."""
    rows = [row for row, one in enumerate(made) if one is not None]
    path = Path(tuple(one[0] for one in made if one is not None), tuple(one[1] for one in made if one is not None))
    of = np.repeat(rows, [len(straight) for straight in path.straight]).astype(np.int64)
    found: list[int] = np.unique(of[find_crossings(path.segments).segments]).tolist()
    return found


def _steps(ring: Floats) -> list[tuple[Floats, Bools]]:
    """A ring straight from point to point."""
    control = np.repeat(ring[:, None], 4, 1)
    control[:, 3] = np.roll(ring, -1, axis=0)
    straight = np.ones(len(ring), bool)
    return [(straight_thirds(control, straight), straight)]


def _settled(ring: Floats) -> Floats:
    """Without points that lie on the one before."""
    step = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T)
    return ring[step > 1e-7]


class _Known:
    """Steps of known paths, looked up by their middles: corners may lie on several contours, steps do not."""

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
        known = (self._sorted[place] == code) & (self._start[step] == ring).all(1)
        segment = np.where(known, self._segment[step], -1)
        change = segment != np.roll(segment, 1)
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
            own = [segment[starts[i]]]
            out.append(_Run(self._control[own], self._straight[own], None))
        flush()
        return out


def _code(points: Floats) -> Any:
    """Points as one value each, for looking up."""
    return np.ascontiguousarray(points + 0.0).view(np.complex128).ravel()


def _fit_runs(runs: list[list[_Run]], within: float, tick: Tick) -> list[list[tuple[Floats, Bools]]]:
    """Fit all runs that are to be fitted, in one batch."""
    lines: list[Any] = []
    closed, corners = [], []
    loose = [run.points for ring in runs for run in ring if run.points is not None]
    length = sum(float(np.hypot(*np.diff(points, axis=0).T).sum()) for points in loose)
    step = max(_STEP, length / _MOST_POINTS)
    for ring in runs:
        for run in ring:
            if run.points is not None:
                loop = len(ring) == 1
                points, sharp = _resampled(run.points, loop, step)
                lines.append(points / step)
                closed.append(loop)
                corners.append(sharp)
    pieces = fit_exact(lines, closed, corners, within / step, tick) if lines else []
    out, at = [], 0
    for ring in runs:
        parts = []
        for run in ring:
            if run.control is not None and run.straight is not None:
                parts.append((run.control, run.straight))
            else:
                parts.append((pieces[at].control * step, pieces[at].straight))
                at += 1
        out.append(parts)
    return out


def _resampled(points: Floats, loop: bool, step: float) -> tuple[Floats, Bools]:
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
    along = np.append(0.0, np.cumsum(np.hypot(*np.diff(line, axis=0).T)))
    stops = np.flatnonzero(np.append(corner, loop)) if loop else np.flatnonzero(corner)
    if loop and 0 not in stops:
        stops = np.append(0, stops)
    out: list[Any] = []
    sharp: list[Any] = []
    for low, high in pairwise(stops.tolist()):
        count = max(2, int(np.ceil((along[high] - along[low]) / step)))
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
