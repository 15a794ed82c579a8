"""Outlines of polygons in runs: what is known is kept, the rest is cut where outlines part and is to be fitted."""

from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, kd_tree
from sketchloom.core.cut.polygons import Flat
from sketchloom.core.units import DECIMALS

__all__ = ["CRUMB", "Known", "Run", "loosened", "met", "on_sources", "parted", "rings_of", "settled"]

CRUMB = 1e-4
"""mm2; a smaller polygon is none."""
_HAIR = 1.2 * 10.0**-DECIMALS
"""mm between corners of layers that are one: files cannot tell them apart."""
_LEAST = 0.02
"""mm; a ring that is nowhere longer is none."""


class Run(NamedTuple):
    """A stretch of a ring: segments that are kept as they are, or points to fit."""

    points: Floats  # (N, 2), with both its ends; without the last where it is all of a ring
    closed: bool = False
    control: Floats | None = None  # (k, 4, 2), of segments that are kept
    straight: Bools | None = None


def rings_of(shape: Any) -> Iterator[Floats]:
    """Give the outlines of polygons, as the map's run; each point once."""
    for part in shapely.get_parts(shape):
        if part.geom_type == "Polygon" and part.area > CRUMB:
            part = shapely.orient_polygons(part, exterior_cw=True)  # as the map's outlines run, with y down
            for ring in (part.exterior, *part.interiors):
                yield shapely.get_coordinates(ring)[:-1]


def settled(rings: Iterable[Floats]) -> list[Floats]:
    """Without points that lie on the one before, and without rings of which nothing is left."""
    return [ring for ring in map(_without_twins, rings) if len(ring) >= 3 and np.ptp(ring, axis=0).max() > _LEAST]


def _without_twins(ring: Floats) -> Floats:
    """Without points that lie on the one before."""
    step = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T)
    return ring[step > 1e-7]


def on_sources(rings: list[Floats], sources: Sequence[Flat]) -> list[Floats]:
    """Rings with the very numbers of the sources where overlays left them a hair beside."""
    if not rings or not sources:
        return rings
    known = np.concatenate([flat.points for flat in sources])
    points = np.concatenate(rings)
    away, place = kd_tree(known).query(points, distance_upper_bound=_HAIR)
    near = np.isfinite(away) & (away > 0)
    points[near] = known[place[near]]
    ends = np.append(0, np.cumsum([len(ring) for ring in rings]))
    return [points[low:high] for low, high in pairwise(ends.tolist())]


def met(rings: list[Floats]) -> list[Floats]:
    """Rings whose corners are the same number where overlays left them a hair apart."""
    points = np.concatenate([np.zeros((0, 2)), *rings])
    pairs = kd_tree(points).query_pairs(_HAIR, output_type="ndarray")
    first = np.arange(len(points))
    np.minimum.at(first, pairs.max(1), pairs.min(1))
    points = points[first]
    ends = np.append(0, np.cumsum([len(ring) for ring in rings]))
    rings = [_without_twins(points[low:high]) for low, high in pairwise(ends.tolist())]
    return _with_corners(rings, np.unique(np.concatenate([np.zeros((0, 2)), *rings]), axis=0))


def _with_corners(rings: list[Floats], corners: Floats) -> list[Floats]:
    """Rings that have a corner wherever one of another lies on them."""
    sizes = np.array([len(ring) for ring in rings], np.int64)
    low = np.concatenate([np.zeros((0, 2)), *rings])
    high = np.concatenate([np.zeros((0, 2)), *(np.roll(ring, -1, axis=0) for ring in rings)])
    steps = shapely.linestrings(np.stack([low, high], 1))
    corner, step = shapely.STRtree(steps).query(shapely.points(corners), predicate="dwithin", distance=_HAIR)
    way, at = high[step] - low[step], corners[corner] - low[step]
    along = (at * way).sum(1) / (way * way).sum(1)
    between = (np.hypot(*at.T) > _HAIR) & (np.hypot(*(corners[corner] - high[step]).T) > _HAIR)
    corner, step, along = corner[between], step[between], along[between]
    order = np.lexsort((along, step))
    points: Floats = np.insert(low, step[order] + 1, corners[corner[order]], axis=0)
    of = np.repeat(np.arange(len(rings)), sizes)
    counts = sizes + np.bincount(of[step], minlength=len(rings))
    ends = np.append(0, np.cumsum(counts))
    return [points[a:b] for a, b in pairwise(ends.tolist())]


def loosened(runs: list[list[Run]]) -> list[list[Run]]:
    """Let go of segments that were to be kept, where another outline along them is to be fitted."""
    while True:
        loose = {step for parts in runs for run in parts if run.control is None for step in _steps_of(run)}
        out = [[run if run.control is None or loose.isdisjoint(_steps_of(run)) else Run(run.points, run.closed)
                for run in parts] for parts in runs]  # fmt: skip
        out = [_joined(parts) for parts in out]
        if sum(map(len, out)) == sum(map(len, runs)) and all(
            one.control is other.control for now, old in zip(out, runs, strict=True)
            for one, other in zip(now, old, strict=True)
        ):  # fmt: skip
            return out
        runs = out


def _joined(parts: list[Run]) -> list[Run]:
    """Put runs that are to be fitted and follow each other together."""
    if len(parts) > 1 and all(run.control is None for run in parts):
        return [Run(np.vstack([run.points[:-1] for run in parts]), closed=True)]
    turn = next((i for i, run in enumerate(parts) if run.control is not None), 0)
    out: list[Run] = []
    for run in parts[turn:] + parts[:turn]:
        if out and run.control is None and out[-1].control is None:
            out[-1] = Run(np.vstack([out[-1].points, run.points[1:]]))
        else:
            out.append(run)
    return out


def parted(runs: list[list[Run]]) -> list[list[Run]]:
    """Cut what is to be fitted wherever more than two steps meet: where outlines part, or another one comes in."""
    steps = {step for parts in runs for run in parts for step in _steps_of(run)}
    ends = np.frombuffer(b"".join(sorted(steps)), float).reshape(-1, 2)
    corners, count = np.unique(ends, axis=0, return_counts=True)
    meets = {corner.tobytes() for corner in corners[count > 2]}

    def cut(run: Run) -> list[Run]:
        if run.control is not None:
            return [run]
        return _cut_at(run, [i for i, point in enumerate(run.points + 0.0) if point.tobytes() in meets])

    return [[part for run in parts for part in cut(run)] for parts in runs]


def _steps_of(run: Run) -> list[bytes]:
    """The steps of a run as values to look up, the same for both directions."""
    line = np.vstack([run.points, run.points[:1]]) if run.closed else run.points
    low, high = line[:-1], line[1:]
    turn = (low[:, 0] > high[:, 0]) | ((low[:, 0] == high[:, 0]) & (low[:, 1] > high[:, 1]))
    ends = np.hstack([np.where(turn[:, None], high, low), np.where(turn[:, None], low, high)])
    return [row.tobytes() for row in ends + 0.0]


def _cut_at(run: Run, places: list[int]) -> list[Run]:
    """A run cut at some of its points."""
    count = len(run.points)
    if not run.closed:
        stops = [0, *(place for place in places if 0 < place < count - 1), count - 1]
        return [Run(run.points[low : high + 1]) for low, high in pairwise(stops)]
    if not places:
        return [run]
    line = np.vstack([run.points[places[0] :], run.points[: places[0] + 1]])
    stops = [place - places[0] for place in places] + [count]
    return [Run(line[low : high + 1]) for low, high in pairwise(stops)]


class Known:
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

    def runs(self, ring: Floats) -> list[Run]:
        """Cut a ring into what is known and what is to be fitted."""
        if not len(self._sorted):
            return [Run(ring, closed=True)]
        code = _code((ring + np.roll(ring, -1, axis=0)) / 2)
        place = np.minimum(np.searchsorted(self._sorted, code), len(self._sorted) - 1)
        step = self._order[place]
        known = (self._sorted[place] == code) & (self._start[step] == ring).all(1)
        segment = np.where(known, self._segment[step], -1)
        change = segment != np.roll(segment, 1)
        starts = np.flatnonzero(change)
        if not len(starts):
            return [Run(ring, closed=True)]
        sizes = np.diff(np.append(starts, starts[0] + len(ring)))
        whole = (segment[starts] >= 0) & (sizes == self._length[segment[starts]])
        if not whole.any():
            return [Run(ring, closed=True)]
        turn = int(np.argmax(whole))
        out: list[Run] = []
        loose: list[int] = []

        def points_of(some: list[int]) -> Floats:
            index = np.append(
                np.concatenate([np.arange(starts[i], starts[i] + sizes[i]) for i in some]),
                starts[some[-1]] + sizes[some[-1]],
            )
            return ring[index % len(ring)]

        def flush() -> None:
            if loose:
                out.append(Run(points_of(loose)))
                loose.clear()

        for i in (np.arange(len(starts)) + turn) % len(starts):
            if not whole[i]:
                loose.append(int(i))
                continue
            flush()
            own = [segment[starts[i]]]
            out.append(Run(points_of([int(i)]), False, self._control[own], self._straight[own]))
        flush()
        return out


def _code(points: Floats) -> Any:
    """Points as one value each, for looking up."""
    return np.ascontiguousarray(points + 0.0).view(np.complex128).ravel()
