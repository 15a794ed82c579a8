"""A path cut down to a shape: curves stay what they are, but for the last of each, which ends where it is cut."""

from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut.polygons import Flat
from sketchloom.core.units import FINEST

__all__ = ["clipped", "lines_within", "part_of_cubic"]

_SAMPLES, _HALVINGS = 64, 40
"""Places of a segment that are looked at, and how often what lies between is halved."""
_ON = 1e-6
"""mm that a point may lie beside a line that it was cut from."""


class _Step(NamedTuple):
    """A way along a segment from one parameter to another, or a straight line where there is none."""

    segment: int
    begin: float
    end: float
    to: tuple[float, float]


def part_of_cubic(control: Floats, begin: float, end: float) -> Floats:
    """A cubic, (4, 2), from one parameter to another, either way round, by de Casteljau's construction."""

    def halves(points: Floats, t: float) -> tuple[Floats, Floats]:
        rows = [points]
        while len(rows[-1]) > 1:
            rows.append(rows[-1][:-1] * (1 - t) + rows[-1][1:] * t)
        return np.array([row[0] for row in rows]), np.array([row[-1] for row in rows[::-1]])

    if (begin, end) == (0.0, 1.0):
        return control
    if begin > end:
        return part_of_cubic(control, end, begin)[::-1]
    head, _ = halves(control, end)
    return halves(head, begin / end if end > 0 else 0.0)[1]


def clipped(flat: Flat, shape: Any) -> Path:
    """Cut a path down to a shape, which is made of its own polygons by straight cuts.

    Parameters
    ----------
    flat : Flat
        The path as lines of points.
    shape : Polygon or MultiPolygon
        Its corners are points of those lines, lie on them, or are of cuts.

    Returns
    -------
    Path
        Holes run the other way round than what holds them.
    """
    chords = _Chords(flat)
    contours, flags = [], []
    for polygon in shapely.get_parts(shape).tolist():
        for number, ring in enumerate((polygon.exterior, *polygon.interiors)):
            control, straight = _contour(chords, np.array(ring.coords))
            contour = np.round(np.vstack([control[:, :3].reshape(-1, 2), control[:1, 0]]), FINEST) + 0.0
            own = Path((contour,), (straight,))
            if (float(own.areas[0]) > 0) is not (number == 0):
                own = own.reversed()
            contours.append(own.contours[0])
            flags.append(own.straight[0])
    return Path(tuple(contours), tuple(flags))


def lines_within(path: Path, shape: Any) -> Path:
    """Give the stretches of a path that lie in a shape, open where they leave it; curves stay what they are."""
    shapely.prepare(shape)
    contours, flags, is_open = [], [], []
    for contour, straight, closed in zip(path.contours, path.straight, path.closed, strict=True):
        control = contour[3 * np.arange(len(straight))[:, None] + np.arange(4)]
        for begin, end in _stretches(control, closed, shape):
            whole = end - begin == len(control)
            parts, of = [], []
            at = begin
            while at < end - _ON:
                to = min(np.floor(at + _ON) + 1, end)
                segment = int(at + _ON) % len(control)
                parts.append(part_of_cubic(control[segment], max(0.0, at - int(at + _ON)), to - int(at + _ON)))
                of.append(bool(straight[segment]))
                at = to
            pieces = np.array(parts)
            contours.append(np.round(np.vstack([pieces[:, :3].reshape(-1, 2), pieces[-1:, 3]]), FINEST) + 0.0)
            flags.append(np.array(of))
            is_open.append(not (closed and whole))
    return Path(tuple(contours), tuple(flags), tuple(is_open) if any(is_open) else ())


def _stretches(control: Floats, closed: bool, shape: Any) -> list[tuple[float, float]]:
    """From where to where a contour lies in a shape, by segments; a closed one may run on beyond its end."""
    many = len(control)

    def inside(at: Floats) -> Bools:
        segment = np.minimum(at.astype(int), many - 1)
        t = (at - segment)[:, None]
        s, c = 1 - t, control[segment]
        points = s**3 * c[:, 0] + 3 * s * s * t * c[:, 1] + 3 * s * t * t * c[:, 2] + t**3 * c[:, 3]
        return np.asarray(shapely.contains_xy(shape, points))

    samples = np.linspace(0, many, many * _SAMPLES + 1)
    within = inside(samples)
    change = np.flatnonzero(within[1:] != within[:-1])
    if not len(change):
        return [(0.0, float(many))] if within[0] else []
    low, high = samples[change], samples[change + 1]
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        same = inside(middle) == within[change]
        low, high = np.where(same, middle, low), np.where(same, high, middle)
    edges = ((low + high) / 2).tolist()
    if within[0]:
        edges.insert(0, 0.0)
    if within[-1]:
        edges.append(float(many))
    out = list(zip(edges[::2], edges[1::2], strict=True))
    if closed and within[0] and within[-1]:
        (_, end), (begin, _) = out[0], out[-1]
        out = [*out[1:-1], (begin, many + end)]
    return out


class _Chords:
    """The lines of a path that is flattened: which of them a step goes along."""

    def __init__(self, flat: Flat) -> None:
        self.flat = flat
        self.control = flat.path.segments
        self.straight = np.concatenate([np.zeros(0, bool), *flat.path.straight])
        self.index = {(x, y): place for place, (x, y) in enumerate(flat.points.tolist())}
        many = len(flat.points)
        self.after, self.before = np.arange(1, many + 1), np.arange(-1, many - 1)
        for low, high in pairwise(flat.first.tolist()):
            if high > low:
                self.after[high - 1], self.before[low] = low, high - 1
        steps = np.bincount(flat.segment, minlength=len(self.control))
        starts = np.append(0, np.cumsum(steps))[:-1]
        self.step = 1 / np.maximum(steps, 1)
        self.time = (np.arange(many) - starts[flat.segment]) * self.step[flat.segment]

    def step_of(self, one: tuple[float, float], other: tuple[float, float]) -> _Step:
        """Tell along which segment a step from a corner to the next goes, if along any."""
        places = [self.index.get(one), self.index.get(other)]
        for place in dict.fromkeys(place for place in places if place is not None):
            for chord in (place, int(self.before[place])):
                shares = [self._share(chord, at) for at in (one, other)]
                if shares[0] is not None and shares[1] is not None:
                    begin, end = (self._time(chord, share) for share in shares if share is not None)
                    return _Step(int(self.flat.segment[chord]), begin, end, other)
        return _Step(-1, 0.0, 1.0, other)

    def _time(self, chord: int, share: float) -> float:
        """Parameter of the segment at a share of one of its lines."""
        return round(float(self.time[chord]) + share * float(self.step[self.flat.segment[chord]]), 9)

    def _share(self, chord: int, at: tuple[float, float]) -> float | None:
        """How far along a line a point lies; None beside it."""
        first, last = self.flat.points[chord], self.flat.points[int(self.after[chord])]
        way, to = last - first, np.array(at) - first
        length = float(np.hypot(*way))
        if length < _ON:
            return None
        share, beside = float(to @ way) / length**2, abs(float(way[0] * to[1] - way[1] * to[0])) / length
        return min(1.0, max(0.0, share)) if beside <= _ON and -_ON <= share <= 1 + _ON else None


def _contour(chords: _Chords, ring: Floats) -> tuple[Floats, Any]:
    """One ring as cubics, (S, 4, 2), and which of them are straight."""
    corners = [(x, y) for x, y in ring[:-1].tolist()]
    steps = [chords.step_of(one, other) for one, other in pairwise([*corners, corners[0]])]
    joined: list[_Step] = []
    for step in _from_a_start(steps):
        last = joined[-1] if joined else None
        if last is not None and step.segment >= 0 and last.segment == step.segment and last.end == step.begin \
                and (last.end > last.begin) is (step.end > step.begin):  # fmt: skip
            joined[-1] = last._replace(end=step.end, to=step.to)
        else:
            joined.append(step)
    control, straight = [], []
    at = np.array(joined[-1].to)
    for step in joined:
        if step.segment < 0 or chords.straight[step.segment]:
            control.append(np.array([at, at, step.to, step.to]))
            straight.append(True)
        else:
            control.append(part_of_cubic(chords.control[step.segment], step.begin, step.end))
            straight.append(False)
        at = control[-1][3]
    made = np.array(control)
    flags = np.array(straight)
    to_curve = flags & ~np.roll(flags, -1)  # a cut ends on the curve, which lies a hair beside the lines it was made on
    made[to_curve, 3] = np.roll(made[:, 0], -1, 0)[to_curve]
    made[flags, 0] = np.roll(made[:, 3], 1, 0)[flags]
    kept = np.hypot(*(made[:, 3] - made[:, 0]).T) > 10.0**-FINEST
    kept |= ~flags
    return straight_thirds(made[kept], flags[kept]), flags[kept]


def _from_a_start(steps: list[_Step]) -> list[_Step]:
    """Begin where a segment does, so that none is told in two halves."""
    for place, step in enumerate(steps):
        before = steps[place - 1]
        if step.segment != before.segment or step.segment < 0 or before.end != step.begin:
            return steps[place:] + steps[:place]
    return steps
