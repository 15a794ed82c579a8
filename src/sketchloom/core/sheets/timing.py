"""How long a cutter takes: stretches between full stops, each run up to speed and down again.

A stretch of length d at a speed v and an acceleration a takes d/v + v/a, or
2 sqrt(d/a) where it is too short to reach v: uniformly accelerated motion, as
in any handbook of mechanics. The tool stops fully at corners of more than 30
degrees and at both ends of a contour, and nowhere else.
"""

import math
from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import lengths_of
from sketchloom.core.stock import Cutter

__all__ = ["LIFT", "Timing", "corners_of", "schedule_of", "seconds_of", "stretches_of", "timing_of"]

LIFT = 0.05
"""s that lifting the tool, or putting it down, takes; common practice."""
_CORNER = 30.0
"""Degrees"""
_NONE = 1e-9


class Timing(NamedTuple):
    """What cutting takes."""

    cut: float  # mm, tool down
    travel: float  # mm, tool up
    cut_time: float  # s, tool down
    time: float  # s, with travel and lifts

    def with_(self, more: "Timing") -> "Timing":
        """Give both together."""
        return Timing(*(one + other for one, other in zip(self, more, strict=True)))


def seconds_of(lengths: Floats, speed: float, acceleration: float) -> Floats:
    """Time of each stretch between full stops; mm, mm/s, mm/s2 to s."""
    lengths = np.asarray(lengths, float)
    long = lengths >= speed**2 / acceleration
    return np.where(long, lengths / speed + speed / acceleration, 2 * np.sqrt(lengths / acceleration))


def stretches_of(path: Path) -> Floats:
    """Lengths between full stops of all contours, in order, mm; every contour begins and ends with one."""
    out: list[Floats] = []
    segments = path.segments
    lengths = lengths_of(segments)
    begin, end = _directions(segments)
    first = 0
    for flags in path.straight:
        last = first + len(flags)
        own = lengths[first:last]
        if len(own):
            turn = np.abs((begin[first + 1 : last] - end[first : last - 1] + np.pi) % (2 * np.pi) - np.pi)
            stops = np.flatnonzero(turn > math.radians(_CORNER)) + 1
            out.append(np.add.reduceat(own, np.append(0, stops)))
        first = last
    return np.concatenate([np.zeros(0), *out])


def _directions(segments: Floats) -> tuple[Floats, Floats]:
    """Angle in which each cubic sets out, and in which it arrives; a control on its node counts for nothing."""

    def angle(nodes: list[int]) -> Floats:
        way = np.zeros((len(segments), 2))
        for other in nodes[1:]:
            unset = np.hypot(*way.T) < _NONE
            way[unset] = (segments[:, other] - segments[:, nodes[0]])[unset]
        return np.asarray(np.arctan2(way[:, 1], way[:, 0]))

    return angle([0, 1, 2, 3]), np.asarray((angle([3, 2, 1, 0]) + np.pi) % (2 * np.pi))


def corners_of(contour: Floats) -> Bools:
    """Nodes of a closed contour, (3 n + 1, 2), at which the tool stops fully; (n,)."""
    segments = contour[3 * np.arange(len(contour) // 3)[:, None] + np.arange(4)]
    begin, end = _directions(segments)
    turn = np.abs((begin - np.roll(end, 1) + np.pi) % (2 * np.pi) - np.pi)
    return np.asarray(turn > math.radians(_CORNER))


def schedule_of(paths: Iterable[Path], cutter: Cutter) -> Floats:
    """When the tool is down on each of some paths of one contour, and when it goes up, s from the start; (P, 2).

    It sets out from the sheet's corner; that it comes back there is not in it.
    """
    out: list[tuple[float, float]] = []
    now, at = 0.0, np.zeros(2)
    for path in paths:
        (contour,) = path.contours
        move = np.hypot(*(contour[0] - at))
        now += LIFT + (float(seconds_of(move, cutter.speed, cutter.acceleration)) if move > _NONE else 0.0)
        down = now
        now += float(seconds_of(stretches_of(path), cutter.speed, cutter.acceleration).sum())
        out.append((down, now))
        now, at = now + LIFT, contour[-1]
    return np.array(out).reshape(-1, 2)


def timing_of(paths: Iterable[Path], cutter: Cutter) -> Timing:
    """Time the paths of a sheet, contour after contour as they stand, from the sheet's corner and back to it."""
    stretches: list[Floats] = [np.zeros(0)]
    ends: list[Floats] = [np.zeros((1, 2))]
    contours = 0
    for path in paths:
        stretches.append(stretches_of(path))
        for contour in path.contours:
            ends.append(contour[[0, -1]])
            contours += 1
    cut = np.concatenate(stretches)
    way = np.vstack([*ends, np.zeros((1, 2))])
    moves = np.hypot(*(way[1::2] - way[:-1:2]).T) if contours else np.zeros(0)
    cut_time = float(seconds_of(cut, cutter.speed, cutter.acceleration).sum())
    moving = float(seconds_of(moves[moves > _NONE], cutter.speed, cutter.acceleration).sum())
    return Timing(float(cut.sum()), float(moves.sum()), cut_time, cut_time + moving + 2 * LIFT * contours)
