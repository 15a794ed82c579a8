"""Polygons back to paths: what is known is taken over, the rest goes through the program's own fitter."""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints, kd_tree
from sketchloom.core.curves import Path, find_crossings, fit_exact
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut.polygons import Flat
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.units import DECIMALS

__all__ = ["CRUMB", "Request", "refitted", "refitted_apart", "refitted_together"]

CRUMB = 1e-4
"""mm2; a smaller polygon is none."""
_CORNER = 0.35
"""rad at a point of a polygon, above which it is a corner."""
_STEP = 0.05
"""mm between the points that curves are fitted through."""
_FINEST = 0.02
"""mm between the points of what is short."""
_POINTS = 200
"""That an outline has at least, while they are no closer than that."""
_MOST_POINTS = 500_000
"""About; longer outlines get them farther apart."""
_CLOSER = 0.25
"""Of the bound, that what crosses is fitted again within."""
_TOLERANCE = 0.006
"""mm that a fitted curve may leave its polygon, so that it stays within a hundredth of what was meant."""
_STRAY = 4e-4
"""mm beside a line that a point may lie and say nothing."""
_HAIR = 1.2 * 10.0**-DECIMALS
"""mm between corners of layers that are one: files cannot tell them apart."""
_FLAT = 1e-9
"""mm that a straight segment may lie beside the one before and still come back on it."""
_LEAST = 0.02
"""mm; a ring that is nowhere longer is none."""


class _Run(NamedTuple):
    """A stretch of a ring: segments that are kept as they are, or points to fit."""

    points: Floats  # (N, 2), with both its ends; without the last where it is all of a ring
    closed: bool = False
    control: Floats | None = None  # (k, 4, 2), of segments that are kept
    straight: Bools | None = None


class Request(NamedTuple):
    """Polygons that are to be a path again.

    Attributes
    ----------
    shape : Polygon, MultiPolygon or GeometryCollection
        mm.
    sources : sequence of Flat
        Paths that its outlines may run along.
    within : float
        mm that a fitted curve may leave the polygons.
    layer : int
        Whose it is; outlines of one layer must not cross.
    """

    shape: Any
    sources: Sequence[Flat] = ()
    within: float = _TOLERANCE
    layer: int = 0


def refitted(shape: Any, sources: Sequence[Flat] = (), tick: Tick = no_tick, within: float = _TOLERANCE) -> Path:
    """Bring polygons back to a path; see `refitted_together`."""
    return refitted_together([Request(shape, sources, within)], tick)[0]


def refitted_together(requests: Sequence[Request], tick: Tick = no_tick) -> list[Path]:
    """Bring polygons back to paths, those of layers that lie beside each other with the same curves between them.

    Where an outline runs along a curve that it came from, over the whole of a
    segment, that segment is taken over as it is; the rest is fitted within a
    hundredth of a mm by the program's own fitter, corners kept. What then
    crosses is fitted more closely, and at last is the polygon itself. A
    stretch that two shapes share is fitted once, within the larger of their
    bounds.
    """
    rings: list[Floats] = []
    owner: list[int] = []
    for number, request in enumerate(requests):
        own = list(_rings_of(request.shape))
        own = [_settled(ring) for ring in (_on_sources(own, request.sources) if len(requests) > 1 else own)]
        own = [ring for ring in own if len(ring) >= 3 and np.ptp(ring, axis=0).max() > _LEAST]
        rings += own
        owner += [number] * len(own)
    if len(requests) > 1:
        rings = _met(rings)
    known = [_Known(request.sources) for request in requests]
    runs = [known[number].runs(ring) for number, ring in zip(owner, rings, strict=True)]
    if len(requests) > 1:
        runs = _parted(_loosened(runs))
    fits = _Fits(runs, [requests[number].within for number in owner], tick)
    made = [_contour(fits.parts(row)) for row in range(len(runs))]
    layers = np.array([requests[number].layer for number in owner], np.int64)
    _uncrossed(fits, made, layers, [np.flatnonzero(layers == layer).tolist() for layer in np.unique(layers)])
    return _by_owner(made, owner, len(requests))


def refitted_apart(shapes: Sequence[Any], within: float) -> list[Path]:
    """Bring polygons back to paths, each as if it were alone; see `refitted_together`."""
    rings, owner = [], []
    for number, shape in enumerate(shapes):
        own = [_settled(ring) for ring in _rings_of(shape)]
        own = [ring for ring in own if len(ring) >= 3 and np.ptp(ring, axis=0).max() > _LEAST]
        rings += own
        owner += [number] * len(own)
    fits = _Fits([[_Run(ring, closed=True)] for ring in rings], [within] * len(rings), no_tick)
    made = [_contour(fits.parts(row)) for row in range(len(rings))]
    _uncrossed(fits, made, np.array(owner, np.int64), [list(range(len(rings)))])
    return _by_owner(made, owner, len(shapes))


def _uncrossed(
    fits: "_Fits", made: list[tuple[Floats, Bools] | None], of: Ints, searched: Sequence[Sequence[int]]
) -> None:
    """Fit anew the contours that cross themselves or another of the same shape.

    Parameters
    ----------
    fits : _Fits
    made : list of contour
        Is changed.
    of : (rows,) int
        Which shape each contour is of.
    searched : sequence of sequence of int
        Contours that are searched together.
    """
    for closer in (_CLOSER, 0.0):  # at last the polygon itself, which crosses nothing
        bad = [row for rows in searched for row in _crossed(made, rows, of)]
        if not bad:
            break
        for row in fits.closer(bad, closer):
            made[row] = _contour(fits.parts(row))


def _by_owner(made: Sequence[tuple[Floats, Bools] | None], owner: Sequence[int], count: int) -> list[Path]:
    """Contours as one path for each of their owners."""
    own: list[list[tuple[Floats, Bools]]] = [[] for _ in range(count)]
    for one, number in zip(made, owner, strict=True):
        if one is not None:
            own[number].append(one)
    return [_path_of(contours) for contours in own]


def _rings_of(shape: Any) -> Iterator[Floats]:
    for part in shapely.get_parts(shape):
        if part.geom_type == "Polygon" and part.area > CRUMB:
            part = shapely.orient_polygons(part, exterior_cw=True)  # as the map's outlines run, with y down
            for ring in (part.exterior, *part.interiors):
                yield shapely.get_coordinates(ring)[:-1]


def _path_of(contours: Sequence[tuple[Floats, Bools]]) -> Path:
    return Path(tuple(contour for contour, _ in contours), tuple(straight for _, straight in contours))


def _on_sources(rings: list[Floats], sources: Sequence[Flat]) -> list[Floats]:
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


def _met(rings: list[Floats]) -> list[Floats]:
    """Rings whose corners are the same number where overlays left them a hair apart."""
    points = np.concatenate([np.zeros((0, 2)), *rings])
    pairs = kd_tree(points).query_pairs(_HAIR, output_type="ndarray")
    first = np.arange(len(points))
    np.minimum.at(first, pairs.max(1), pairs.min(1))
    points = points[first]
    ends = np.append(0, np.cumsum([len(ring) for ring in rings]))
    rings = [_settled(points[low:high]) for low, high in pairwise(ends.tolist())]
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


def _loosened(runs: list[list[_Run]]) -> list[list[_Run]]:
    """Let go of segments that were to be kept, where another outline along them is to be fitted."""
    while True:
        loose = {step for parts in runs for run in parts if run.control is None for step in _steps_of(run)}
        out = [[run if run.control is None or loose.isdisjoint(_steps_of(run)) else _Run(run.points, run.closed)
                for run in parts] for parts in runs]  # fmt: skip
        out = [_joined(parts) for parts in out]
        if sum(map(len, out)) == sum(map(len, runs)) and all(
            one.control is other.control for now, old in zip(out, runs, strict=True)
            for one, other in zip(now, old, strict=True)
        ):  # fmt: skip
            return out
        runs = out


def _joined(parts: list[_Run]) -> list[_Run]:
    """Put runs that are to be fitted and follow each other together."""
    if len(parts) > 1 and all(run.control is None for run in parts):
        return [_Run(np.vstack([run.points[:-1] for run in parts]), closed=True)]
    turn = next((i for i, run in enumerate(parts) if run.control is not None), 0)
    out: list[_Run] = []
    for run in parts[turn:] + parts[:turn]:
        if out and run.control is None and out[-1].control is None:
            out[-1] = _Run(np.vstack([out[-1].points, run.points[1:]]))
        else:
            out.append(run)
    return out


def _parted(runs: list[list[_Run]]) -> list[list[_Run]]:
    """Cut what is to be fitted wherever more than two steps meet: where outlines part, or another one comes in."""
    steps = {step for parts in runs for run in parts for step in _steps_of(run)}
    ends = np.frombuffer(b"".join(sorted(steps)), float).reshape(-1, 2)
    corners, count = np.unique(ends, axis=0, return_counts=True)
    meets = {corner.tobytes() for corner in corners[count > 2]}

    def parted(run: _Run) -> list[_Run]:
        if run.control is not None:
            return [run]
        return _cut_at(run, [i for i, point in enumerate(run.points + 0.0) if point.tobytes() in meets])

    return [[part for run in parts for part in parted(run)] for parts in runs]


def _steps_of(run: _Run) -> list[bytes]:
    """The steps of a run as values to look up, the same for both directions."""
    line = np.vstack([run.points, run.points[:1]]) if run.closed else run.points
    low, high = line[:-1], line[1:]
    turn = (low[:, 0] > high[:, 0]) | ((low[:, 0] == high[:, 0]) & (low[:, 1] > high[:, 1]))
    ends = np.hstack([np.where(turn[:, None], high, low), np.where(turn[:, None], low, high)])
    return [row.tobytes() for row in ends + 0.0]


def _cut_at(run: _Run, places: list[int]) -> list[_Run]:
    """A run cut at some of its points."""
    count = len(run.points)
    if not run.closed:
        stops = [0, *(place for place in places if 0 < place < count - 1), count - 1]
        return [_Run(run.points[low : high + 1]) for low, high in pairwise(stops)]
    if not places:
        return [run]
    line = np.vstack([run.points[places[0] :], run.points[: places[0] + 1]])
    stops = [place - places[0] for place in places] + [count]
    return [_Run(line[low : high + 1]) for low, high in pairwise(stops)]


def _contour(parts: list[tuple[Floats, Bools]]) -> tuple[Floats, Bools] | None:
    """Fitted runs as one closed contour, rounded; None where nothing is left of it."""
    control: Floats = np.round(np.concatenate([control for control, _ in parts]), DECIMALS) + 0.0
    straight = np.concatenate([flag for _, flag in parts])
    control[1:, 0] = control[:-1, 3]
    control[0, 0] = control[-1, 3]
    kept = ~straight | (np.abs(control[:, 3] - control[:, 0]).max(1) > 0)
    control, straight = _without_spikes(control[kept], straight[kept])
    if len(control) < 2:
        return None
    straight_thirds(control, straight)
    return np.vstack([control[:, :3].reshape(-1, 2), control[:1, 0]]), straight


def _without_spikes(control: Floats, straight: Bools) -> tuple[Floats, Bools]:
    """Without straight segments on which an outline goes out and comes straight back, as rounding leaves slivers."""
    while len(control) > 2:
        ahead = np.roll(control, -1, axis=0)
        out, back = control[:, 3] - control[:, 0], ahead[:, 3] - ahead[:, 0]
        cross = np.abs(out[:, 0] * back[:, 1] - out[:, 1] * back[:, 0])
        folds = straight & np.roll(straight, -1) & (cross <= _FLAT * np.hypot(*back.T)) & ((out * back).sum(1) < 0)
        if not folds.any():
            break
        at = int(np.argmax(folds))
        following = (at + 1) % len(control)
        control[at, 3] = control[following, 3]
        control, straight = np.delete(control, following, axis=0), np.delete(straight, following)
        nothing = straight & (np.abs(control[:, 3] - control[:, 0]).max(1) == 0)
        control, straight = control[~nothing], straight[~nothing]
    return control, straight


def _crossed(made: Sequence[tuple[Floats, Bools] | None], rows: Sequence[int], of: Ints) -> list[int]:
    """Which of some contours cross themselves, or others of the same shape."""
    own = [(row, one) for row in rows if (one := made[row]) is not None]
    path = _path_of([one for _, one in own])
    contour = np.repeat([row for row, _ in own], [len(straight) for straight in path.straight]).astype(np.int64)
    pairs = contour[find_crossings(path.segments).segments]
    found: list[int] = np.unique(pairs[of[pairs[:, 0]] == of[pairs[:, 1]]]).tolist()
    return found


def _straight(points: Floats, closed: bool) -> tuple[Floats, Bools]:
    """A line straight from point to point."""
    line = np.vstack([points, points[:1]]) if closed else points
    control = np.repeat(line[:-1, None], 4, 1)
    control[:, 3] = line[1:]
    straight = np.ones(len(control), bool)
    return straight_thirds(control, straight), straight


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
            return [_Run(ring, closed=True)]
        code = _code((ring + np.roll(ring, -1, axis=0)) / 2)
        place = np.minimum(np.searchsorted(self._sorted, code), len(self._sorted) - 1)
        step = self._order[place]
        known = (self._sorted[place] == code) & (self._start[step] == ring).all(1)
        segment = np.where(known, self._segment[step], -1)
        change = segment != np.roll(segment, 1)
        starts = np.flatnonzero(change)
        if not len(starts):
            return [_Run(ring, closed=True)]
        sizes = np.diff(np.append(starts, starts[0] + len(ring)))
        whole = (segment[starts] >= 0) & (sizes == self._length[segment[starts]])
        if not whole.any():
            return [_Run(ring, closed=True)]
        turn = int(np.argmax(whole))
        out: list[_Run] = []
        loose: list[int] = []

        def points_of(some: list[int]) -> Floats:
            index = np.append(
                np.concatenate([np.arange(starts[i], starts[i] + sizes[i]) for i in some]),
                starts[some[-1]] + sizes[some[-1]],
            )
            return ring[index % len(ring)]

        def flush() -> None:
            if loose:
                out.append(_Run(points_of(loose)))
                loose.clear()

        for i in (np.arange(len(starts)) + turn) % len(starts):
            if not whole[i]:
                loose.append(int(i))
                continue
            flush()
            own = [segment[starts[i]]]
            out.append(_Run(points_of([int(i)]), False, self._control[own], self._straight[own]))
        flush()
        return out


def _code(points: Floats) -> Any:
    """Points as one value each, for looking up."""
    return np.ascontiguousarray(points + 0.0).view(np.complex128).ravel()


class _Fits:
    """Runs that are to be fitted, each once, however many outlines have it and whichever way they run."""

    def __init__(self, runs: list[list[_Run]], within: Sequence[float], tick: Tick) -> None:
        self._runs = runs
        self._lines: list[tuple[Floats, bool]] = []
        self._uses: list[list[tuple[int, bool]]] = []  # for each ring, which line each run is, and whether backwards
        bounds: list[float] = []
        seen: dict[bytes, tuple[int, bool]] = {}
        for parts, bound in zip(runs, within, strict=True):
            uses = []
            for run in parts:
                if run.control is not None:
                    uses.append((-1, False))
                    continue
                line, back = _one_way(run.points, run.closed)
                number, first = seen.setdefault(line.tobytes() + bytes([run.closed]), (len(self._lines), back))
                if number == len(self._lines):
                    self._lines.append((run.points, run.closed))
                    bounds.append(bound)
                bounds[number] = max(bounds[number], bound)
                uses.append((number, back != first))
            self._uses.append(uses)
        self._within = np.array(bounds)
        lengths = np.array([float(np.hypot(*np.diff(line, axis=0).T).sum()) for line, _ in self._lines])
        self._steps = np.maximum(np.clip(lengths / _POINTS, _FINEST, _STEP), lengths.sum() / _MOST_POINTS)
        self._fitted: list[tuple[Floats, Bools]] = self._fit(range(len(self._lines)), 1.0, tick)

    def parts(self, row: int) -> list[tuple[Floats, Bools]]:
        """A ring as segments, run by run."""
        out = []
        for run, (number, back) in zip(self._runs[row], self._uses[row], strict=True):
            if run.control is not None and run.straight is not None:
                out.append((run.control, run.straight))
            else:
                control, straight = self._fitted[number]
                out.append((control[::-1, ::-1], straight[::-1]) if back else (control, straight))
        return out

    def closer(self, rows: Sequence[int], share: float) -> list[int]:
        """Fit runs of some rings within a share of their bounds, 0 for their points; gives the rings that changed."""
        numbers = sorted({number for row in rows for number, _ in self._uses[row] if number >= 0})
        again = self._fit(numbers, share, no_tick) if share else [_straight(*self._lines[i]) for i in numbers]
        for number, fitted in zip(numbers, again, strict=True):
            self._fitted[number] = fitted
        changed = set(numbers)
        return [row for row, uses in enumerate(self._uses) if any(number in changed for number, _ in uses)]

    def _fit(self, numbers: Sequence[int], share: float, tick: Tick) -> list[tuple[Floats, Bools]]:
        lines, closed, corners = [], [], []
        steps = self._steps[list(numbers)]
        for number, step in zip(numbers, steps.tolist(), strict=True):
            line, loop = self._lines[number]
            points, sharp = _resampled(line, loop, step)
            lines.append(points / step)
            closed.append(loop)
            corners.append(sharp)
        bounds = share * self._within[list(numbers)] / steps
        pieces = fit_exact(lines, closed, corners, bounds, tick) if lines else []
        return [(piece.control * step, piece.straight) for piece, step in zip(pieces, steps.tolist(), strict=True)]


def _one_way(points: Floats, closed: bool) -> tuple[Floats, bool]:
    """A line in the direction, and a closed one from the corner, that all who have it agree on."""
    points = points + 0.0
    if closed:
        points = np.roll(points, -int(np.lexsort(points.T[::-1])[0]), axis=0)
    other = np.roll(points[::-1], 1, axis=0) if closed else points[::-1]
    back = (other[:2].ravel() + 0.0).tolist() < points[:2].ravel().tolist()
    return (np.ascontiguousarray(other), True) if back else (points, False)


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
