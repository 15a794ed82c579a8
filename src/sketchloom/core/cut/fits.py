"""Runs that are to be fitted: evenly stepped from corner to corner, each through the program's own fitter once."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import fit_exact
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut.rings import Run
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Fits"]

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
_STRAY = 4e-4
"""mm beside a line that a point may lie and say nothing."""


class Fits:
    """Runs that are to be fitted, each once, however many outlines have it and whichever way they run."""

    def __init__(self, runs: list[list[Run]], within: Sequence[float], tick: Tick) -> None:
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


def _straight(points: Floats, closed: bool) -> tuple[Floats, Bools]:
    """A line straight from point to point."""
    line = np.vstack([points, points[:1]]) if closed else points
    control = np.repeat(line[:-1, None], 4, 1)
    control[:, 3] = line[1:]
    straight = np.ones(len(control), bool)
    return straight_thirds(control, straight), straight


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
