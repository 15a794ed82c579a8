"""Branches strung together: lines that run straight through the knots."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.centre.branches import Branch

__all__ = ["JUNCTION", "Line", "strung"]

_STRAIGHT_ON = 0.6
"""rad; two branches that bend less at a junction are one stroke."""
JUNCTION = 1.2
"""Times the half width: so near a junction the thinned line bends towards it."""


class Line(NamedTuple):
    """Branches strung together."""

    points: Floats
    ring: bool
    meets: tuple[bool, bool]  # whether its two ends lie where it meets another


class _Tip(NamedTuple):
    """One end of a branch at a knot."""

    branch: int
    at_stop: bool
    place: Floats  # where the branch still runs true
    way: Floats  # unit, towards the knot


def _tip(number: int, points: Floats, at_stop: bool, reach: float, middle: Floats) -> _Tip:
    order = points[::-1] if at_stop else points
    clear = np.flatnonzero(np.hypot(*(order - middle).T) > JUNCTION * reach)
    begin = int(clear[0]) if len(clear) else len(order) - 1
    run = order[begin : begin + max(5, int(2 * reach))]
    if len(run) < 2:
        run = order
    axis = np.linalg.svd(run - run.mean(0))[2][0] if len(run) > 1 else np.array([1.0, 0.0])
    if axis @ (middle - run.mean(0)) < 0:
        axis = -axis
    foot = run.mean(0) + axis * ((order[begin] - run.mean(0)) @ axis)
    return _Tip(number, at_stop, foot, axis)


def strung(branches: list[Branch], knots: list[Floats], reach: list[float], mask: Bools) -> list[Line]:
    """Draw lines straight through knots, two branches at a time; the others end there."""
    tips: dict[int, list[_Tip]] = {k: [] for k in range(len(knots))}
    trimmed = [b.points for b in branches]
    for number, b in enumerate(branches):
        for at_stop, knot in ((False, b.start), (True, b.stop)):
            if knot >= 0:
                tips[knot].append(_tip(number, b.points, at_stop, reach[knot], knots[knot]))
    ends: dict[tuple[int, bool], tuple[int, bool] | Floats] = {}
    for knot, here in tips.items():
        blunt = len(here) == 1
        meet = _blunt_end(here[0], mask) if blunt else _meeting(here, knots[knot], reach[knot])
        pairs = sorted(
            (float(np.arccos(np.clip(-(a.way @ b.way), -1, 1))), i, j)
            for i, a in enumerate(here)
            for j, b in enumerate(here[:i])
        )
        taken: set[int] = set()
        for bend, i, j in pairs:
            through = bend < _STRAIGHT_ON or len(here) == 2
            if through and i not in taken and j not in taken:
                taken |= {i, j}
                ends[here[i].branch, here[i].at_stop] = here[j].branch, here[j].at_stop
                ends[here[j].branch, here[j].at_stop] = here[i].branch, here[i].at_stop
        for i, tip in enumerate(here):
            if i not in taken:
                ends[tip.branch, tip.at_stop] = meet
    for knot, here in tips.items():
        for tip in here:
            points = trimmed[tip.branch]
            far = np.hypot(*(points - knots[knot]).T) > JUNCTION * reach[knot]
            if far.any():
                trimmed[tip.branch] = points[far] if not far.all() else points
    return _chained(branches, trimmed, ends)


def _blunt_end(tip: _Tip, mask: Bools) -> Floats:
    """Where a stroke without a round end reaches its edge."""
    at = tip.place
    while True:
        on = at + 0.25 * tip.way
        x, y = np.rint(on).astype(int)
        if not (0 <= y < mask.shape[0] and 0 <= x < mask.shape[1] and mask[y, x]):
            return np.asarray(at)
        at = on


def _meeting(tips: list[_Tip], knot: Floats, reach: float) -> Floats:
    """Where the lines of some branches come closest together, near their knot."""
    matrix, right = 1e-3 * np.eye(2), 1e-3 * knot
    for tip in tips:
        across = np.eye(2) - np.outer(tip.way, tip.way)
        matrix, right = matrix + across, right + across @ tip.place
    place = np.linalg.solve(matrix, right)
    return place if np.hypot(*(place - knot)) < 1.5 * reach + 1 else knot


def _chained(
    branches: list[Branch], points: list[Floats], ends: dict[tuple[int, bool], tuple[int, bool] | Floats]
) -> list[Line]:
    used: set[int] = set()
    out: list[Line] = []

    def follow(number: int, from_start: bool) -> tuple[list[Floats], bool]:
        """Branches from one end on; and whether they come back to it."""
        parts: list[Floats] = []
        here, forwards = number, from_start
        while True:
            used.add(here)
            parts.append(points[here] if forwards else points[here][::-1])
            then = ends.get((here, forwards))
            if not isinstance(then, tuple):
                if then is not None:
                    parts.append(np.asarray(then)[None])
                return parts, False
            if then[0] in used:
                return parts, then[0] == number
            here, forwards = then[0], not then[1]

    for number, b in enumerate(branches):
        if number not in used and b.start == -2:
            used.add(number)
            out.append(Line(points[number], True, (False, False)))
    starts = [(n, at_stop) for n in range(len(branches)) for at_stop in (False, True)]
    for number, at_stop in sorted(starts, key=lambda s: isinstance(ends.get(s), tuple)):
        if number in used:
            continue
        begin = ends.get((number, at_stop))
        closed_chain = isinstance(begin, tuple)
        parts, ring = follow(number, not at_stop)
        if isinstance(begin, np.ndarray):
            parts.insert(0, begin[None])
        meets = isinstance(begin, np.ndarray), len(parts[-1]) == 1 and not ring
        out.append(Line(np.concatenate(parts), ring and closed_chain, meets))
    return out
