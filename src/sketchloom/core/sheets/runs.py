"""The order in which the tool goes: inside before outside, small before large, then by short ways.

What lies inside an outline is cut before it, as a piece that is cut free may
move; small pieces before large ones, while the sheet still holds them; then
what is nearest (common practice). What is drawn comes before what is cut.
"""

from collections.abc import Iterator, Sequence
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut
from sketchloom.core.sheets.timing import corners_of
from sketchloom.core.sheets.tour import MOST_BETTERED, best_starts, bettered, short_way

__all__ = ["Run", "Stroke", "in_cutting_order", "strokes_of"]

_SMALL = 100.0
"""mm2; what goes round less is cut before what goes round more."""
_MOST_STARTS = 12
_ROUNDS = 8
_WORTH = 1e-6
"""mm; less is no gain."""
_GROUPS = {"draw": "pens", "score": "scores", "engrave": "engraves", "cut": "cuts"}
_FIRST = ("pens", "scores", "engraves", "marks", "cuts", "weeding")


class Run(NamedTuple):
    """A contour as the tool runs it, from where it comes down."""

    cut: Cut
    contour: Floats
    """(3 n + 1, 2), mm on the sheet: node, two controls, node, and so on."""
    straight: Bools
    closed: bool
    role: Literal["", "marks", "weeding"] = ""
    outline: int = -1
    """Of which outline of its sheet it is a part, where tabs break one."""

    @property
    def group(self) -> str:
        """The group of a file that it stands in."""
        return self.role or _GROUPS[self.cut.kind]

    @property
    def path(self) -> Path:
        """It alone."""
        return Path((self.contour,), (self.straight,), () if self.closed else (True,))


class Stroke(NamedTuple):
    """What follows each other on a sheet and is of one cut."""

    cut: Cut
    group: str
    path: Path


def strokes_of(runs: Sequence[Run]) -> tuple[Stroke, ...]:
    """Put runs together that follow each other and are of one cut."""
    out: list[tuple[Run, list[Run]]] = []
    for run in runs:
        if not out or out[-1][0].cut.key != run.cut.key:
            out.append((run, []))
        out[-1][1].append(run)
    return tuple(
        Stroke(
            first.cut,
            first.group,
            Path(
                tuple(run.contour for run in own),
                tuple(run.straight for run in own),
                () if all(run.closed for run in own) else tuple(not run.closed for run in own),
            ),
        )
        for first, own in out
    )


def in_cutting_order(runs: Sequence[Run]) -> tuple[Run, ...]:
    """Give the contours of a sheet in the order in which they are cut, each from its best start."""
    if not runs:
        return ()
    forest = _Forest(runs)
    corner = np.zeros(2)
    starts = [_starts(run) for run in runs]
    places = np.array([(down.min(0) + down.max(0)) / 2 for _, down, _ in starts])
    order = forest.ordered(places, corner)
    best = _started(order, starts)
    for _ in range(_ROUNDS):
        tried = _started(_again(best, starts, forest, corner), starts)
        gain = best.length - tried.length
        if gain > _WORTH:
            best = tried
        if gain <= _WORTH or len(runs) > MOST_BETTERED:  # many are ordered anew once
            break
    return tuple(
        _begun(runs[one], int(starts[one].nodes[pick])) for one, pick in zip(best.order, best.picks, strict=True)
    )


class _Starts(NamedTuple):
    """Where a run may begin."""

    nodes: Ints
    down: Floats  # where the tool comes down, (K, 2)
    up: Floats  # where it then goes up


class _Started(NamedTuple):
    """An order with the start of each contour, and the length of all ways between."""

    order: list[int]
    picks: list[int]
    length: float


def _started(order: list[int], starts: Sequence[_Starts]) -> _Started:
    corner = np.zeros(2)
    picks = best_starts(corner, [(starts[one].down, starts[one].up) for one in order], corner)
    ends = [side[pick] for one, pick in zip(order, picks, strict=True) for side in (starts[one].down, starts[one].up)]
    way = np.vstack([corner, *ends, corner])
    return _Started(order, picks, float(np.hypot(*(way[1::2] - way[::2]).T).sum()))


def _again(best: _Started, starts: Sequence[_Starts], forest: "_Forest", corner: Floats) -> list[int]:
    """Order anew by where the tool comes down now: of few contours by turns and moves, of many from the beginning."""
    places = np.zeros((len(starts), 2))
    for one, pick in zip(best.order, best.picks, strict=True):
        places[one] = starts[one].down[pick]
    if len(starts) > MOST_BETTERED:
        return forest.ordered(places, corner)
    return bettered(best.order, places, forest.bound, corner, corner)


def _starts(run: Run) -> _Starts:
    """An open run begins at either end, a closed one at its corners, or anywhere if it has none."""
    nodes = run.contour[::3]
    if not run.closed:
        return _Starts(np.array([0, len(nodes) - 1]), nodes[[0, -1]], nodes[[-1, 0]])
    among = np.flatnonzero(corners_of(run.contour))
    if not len(among):
        among = np.arange(len(nodes) - 1)
    if len(among) > _MOST_STARTS:
        among = among[np.linspace(0, len(among), _MOST_STARTS, endpoint=False).astype(int)]
    return _Starts(among, nodes[among], nodes[among])


def _begun(run: Run, node: int) -> Run:
    """Begin a run at another node; an open one at its end is run backwards."""
    if not run.closed:
        return run if node == 0 else run._replace(contour=run.contour[::-1], straight=run.straight[::-1])
    contour = np.vstack([run.contour[3 * node : -1], run.contour[: 3 * node + 1]])
    return run._replace(contour=contour, straight=np.roll(run.straight, -node))


class _Forest:
    """Which contours lie inside which, and what is one block in the file: a layer, or layers that lie in each other."""

    def __init__(self, runs: Sequence[Run]) -> None:
        self._runs = runs
        self.areas = np.array([abs(float(run.path.areas[0])) if run.closed else 0.0 for run in runs])
        self.parent = self._parents()
        self._blocks = self._blocked()

    def _parents(self) -> list[int]:
        """The smallest contour that a contour lies inside of, or -1."""
        closed = [place for place, run in enumerate(self._runs) if run.closed and run.group == "cuts"]
        out = [-1] * len(self._runs)
        rings = [_ring(self._runs[place].contour) for place in closed]
        shapes = np.array([shapely.Polygon(ring) for ring in rings], object)
        if not len(shapes):
            return out
        inside = shapely.point_on_surface(shapes)
        within, around = shapely.STRtree(shapes).query(inside, "within")
        areas = self.areas[closed]
        for one, other in zip(within.tolist(), around.tolist(), strict=True):
            larger = (areas[other], other) > (areas[one], one)
            now = out[closed[one]]
            if larger and (now < 0 or (areas[other], closed[other]) < (self.areas[now], now)):
                out[closed[one]] = closed[other]
        return out

    def _blocked(self) -> list[list[int]]:
        """Layers one after another, what lies inside another first; those that lie in each other are one block."""
        keys = list(dict.fromkeys(run.cut.key for run in sorted(self._runs, key=lambda run: _FIRST.index(run.group))))
        own = {key: [place for place, run in enumerate(self._runs) if run.cut.key == key] for key in keys}
        before: dict[str, set[str]] = {key: set() for key in keys}
        for place, run in enumerate(self._runs):
            for above in self._above(place):
                before[self._runs[above].cut.key].add(run.cut.key)
        left, out = list(keys), list[list[int]]()
        while left:
            free = next((key for key in left if not before[key] & (set(left) - {key})), None)
            if free is not None:
                out.append(own[free])
                left.remove(free)
            else:
                out.append([place for key in left for place in own[key]])
                left = []
        return out

    @cached_property
    def bound(self) -> Bools:
        """Whether the first of two must be cut before the second, (N, N): block by block, insides, small ones."""
        many = len(self._runs)
        block = np.zeros(many, int)
        for number, members in enumerate(self._blocks):
            block[members] = number
        parent = np.array(self.parent)
        small = self.areas < _SMALL
        out = block[:, None] < block[None, :]
        held = np.flatnonzero(parent >= 0)
        out[held, parent[held]] |= block[held] == block[parent[held]]
        together = (parent[:, None] == parent[None, :]) & (block[:, None] == block[None, :])
        return np.asarray(out | (together & small[:, None] & ~small[None, :]))

    def _above(self, place: int) -> Iterator[int]:
        while (place := self.parent[place]) >= 0:
            yield place

    def ordered(self, places: Floats, at: Floats) -> list[int]:
        """All contours in turn, by a place of each; from `at` on."""
        out: list[int] = []
        for block in self._blocks:
            members = set(block)
            inside: dict[int, list[int]] = {}
            for one in block:
                inside.setdefault(next((above for above in self._above(one) if above in members), -1), []).append(one)
            stack = [iter(self._row(inside.get(-1, []), places, at))]
            opened = set[int]()
            while stack:
                one = next(stack[-1], -1)
                if one < 0:
                    stack.pop()
                elif one in inside and one not in opened:
                    opened.add(one)
                    stack += [iter([one]), iter(self._row(inside[one], places, at))]
                else:
                    out.append(one)
                    at = places[one]
        return out

    def _row(self, ones: Sequence[int], places: Floats, at: Floats) -> list[int]:
        """What lies side by side: small before large, each by a short way."""
        out: list[int] = []
        small = [one for one in ones if self.areas[one] < _SMALL]
        for own in (small, [one for one in ones if self.areas[one] >= _SMALL]):
            way = short_way(places[own], at)
            out += [own[one] for one in way]
            at = places[out[-1]] if out else at
        return out


def _ring(contour: Floats) -> Floats:
    """A contour as points: its nodes, and three between on each cubic."""
    pieces = contour[:-1].reshape(-1, 3, 2)
    ends = np.vstack([pieces[1:, 0], contour[-1:]])
    t = np.array([0.0, 0.25, 0.5, 0.75])[:, None, None]
    s = 1 - t
    points = s**3 * pieces[:, 0] + 3 * s * s * t * pieces[:, 1] + 3 * s * t * t * pieces[:, 2] + t**3 * ends
    return np.asarray(points.transpose(1, 0, 2).reshape(-1, 2))
