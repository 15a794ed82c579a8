"""A thinned mask as branches between the knots where they meet."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Branch", "find_branches", "gathered", "pruned"]

_SPUR = 1.1
"""Times the usual half width: a branch that leads no farther out is no stroke."""
_EIGHT = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))
_STRAIGHT_FIRST = tuple(sorted(_EIGHT, key=lambda step: abs(step[0]) + abs(step[1])))
"""So that stairs are walked pixel by pixel."""


class Branch(NamedTuple):
    """A thinned line between two knots (places in a list), or from an end (-1), or a ring (-2)."""

    points: Floats  # x, y of pixels' middles
    start: int
    stop: int


def find_branches(line: Bools, tick: Tick = no_tick) -> tuple[list[Branch], list[Floats]]:
    """Walk along a thinned mask from knot to knot; knots are clusters of pixels where lines meet."""
    around = [np.roll(line, (-dy, -dx), (0, 1)) for dy, dx in _EIGHT]
    turns = sum((~around[i] & around[(i + 1) % 8]).astype(np.int8) for i in range(8))
    meets = line & (np.asarray(turns) >= 3)
    count, label, _, middle = cv2.connectedComponentsWithStats(meets.astype(np.uint8), connectivity=8)
    knots = [np.asarray(middle[i]) for i in range(1, count)]
    knotted = {(x, y) for y, x in np.argwhere(meets).tolist()}
    left = {(x, y) for y, x in np.argwhere(line & ~meets).tolist()}
    pixels = len(left)
    out: list[Branch] = []

    def knot_at(x: int, y: int) -> int:
        return int(label[y, x]) - 1

    def walk(x: int, y: int, came: int) -> Branch:
        points = [(x, y)]
        left.discard((x, y))
        tick(1 - len(left) / pixels)
        while True:
            near = [(x + dx, y + dy) for dy, dx in _STRAIGHT_FIRST]
            onward = [place for place in near if place in left]
            ends = [knot_at(*place) for place in near if place in knotted]
            ends = [knot for knot in ends if knot != came or len(points) > 3]
            if ends and (not onward or len(points) > 1 or came >= 0):
                return Branch(np.array(points, float), came, ends[0])
            if not onward:
                return Branch(np.array(points, float), came, -1)
            x, y = onward[0]
            left.discard((x, y))
            points.append((x, y))

    for y, x in np.argwhere(meets).tolist():
        for dy, dx in _EIGHT:
            if (x + dx, y + dy) in left:
                out.append(walk(x + dx, y + dy, knot_at(x, y)))
    ends = np.asarray(sum(part.astype(np.int8) for part in around))
    for y, x in np.argwhere(line & ~meets & (ends <= 1)).tolist():
        if (x, y) in left:
            out.append(walk(x, y, -1))
    for x, y in sorted(left):  # rings
        if (x, y) in left:
            ring = walk(x, y, -1)
            out.append(ring._replace(start=-2, stop=-2) if len(ring.points) > 3 else ring)
    return out, knots


def pruned(branches: list[Branch], knots: list[Floats], reach: list[float], half: Floats) -> list[Branch]:
    """Drop branches that end free and hardly leave the width of what they hang on.

    At the blunt end of a stroke there are two, one to each corner. Where
    only such branches meet there is a dot, and the longest stays.
    """
    kept = list(branches)
    every = np.concatenate([b.points for b in branches]).astype(int) if branches else np.zeros((0, 2), int)
    usual = float(np.median(half[every[:, 1], every[:, 0]])) if len(every) else 0.0
    while True:
        at: dict[int, list[Branch]] = {}
        for b in kept:
            for knot in {b.start, b.stop} - {-1, -2}:
                at.setdefault(knot, []).append(b)
        gone: list[Branch] = []
        for knot, here in at.items():
            short = [
                b for b in here if min(b.start, b.stop) == -1 and _is_spur(b, knots[knot], reach[knot], half, usual)
            ]
            if len(here) + sum(b.start == b.stop for b in here) < 3:
                continue
            if len(short) == len(here):
                longest = max(short, key=lambda b: (len(b.points), b.points[0].tolist()))
                short = [b for b in short if b is not longest]
            gone += short
        if not gone:
            return kept
        kept = [b for b in kept if not any(b is other for other in gone)]


def _is_spur(branch: Branch, knot: Floats, reach: float, half: Floats, usual: float) -> bool:
    """Whether a branch hardly leads out of the widest circle about its knot."""
    tip = branch.points[0] if branch.start == -1 else branch.points[-1]
    beyond = float(np.hypot(*(tip - knot))) + float(half[int(tip[1]), int(tip[0])]) - reach
    return beyond < _SPUR * usual


def gathered(
    branches: list[Branch], knots: list[Floats], reach: list[float]
) -> tuple[list[Branch], list[Floats], list[float]]:
    """Make one knot of those that lie within one another's reach, as where a slanting line crosses a thick one."""
    own = list(range(len(knots)))

    def first(knot: int) -> int:
        while own[knot] != knot:
            knot = own[knot]
        return knot

    for b in branches:
        if min(b.start, b.stop) >= 0 and b.start != b.stop:
            near = np.hypot(*(knots[b.start] - knots[b.stop])) <= max(reach[b.start], reach[b.stop])
            if near and len(b.points) <= 1.5 * max(reach[b.start], reach[b.stop]):
                own[first(b.stop)] = first(b.start)
    groups: dict[int, list[int]] = {}
    for knot in range(len(knots)):
        groups.setdefault(first(knot), []).append(knot)
    number = {knot: place for place, group in enumerate(groups.values()) for knot in group}
    middles = [np.mean([knots[knot] for knot in group], axis=0) for group in groups.values()]
    reaches = [max(reach[knot] for knot in group) for group in groups.values()]
    kept = []
    for b in branches:
        start, stop = (number.get(knot, knot) for knot in (b.start, b.stop))
        short = len(b.points) <= 1.5 * reaches[start] if start >= 0 else False
        if not (start >= 0 and start == stop and b.start != b.stop and short):
            kept.append(b._replace(start=start, stop=stop))
    return kept, middles, reaches
