"""Steps along outlines at which material, or the ground beside it, is thin."""

import numpy as np

from sketchloom.core.arrays import Ints
from sketchloom.core.inspect.balls import Balls
from sketchloom.core.inspect.steps import Steps

__all__ = ["Thin"]

_FACES = 0.866
"""Cosine above which a ball lies between two edges that face each other; below it lies in a corner."""
_ROUND_END = 1.87
"""Times its width that an outline runs from one side of a place to the other, where that is only round an end."""
_CLOSES_IN = 0.9
"""Times the width at the last step of what is thin that the ball beyond has, at most, where it comes to an end."""


class Thin:
    """The steps that have balls on one side, in order along their outlines, and which of them are thin."""

    def __init__(self, steps: Steps, balls: Balls, able: Ints, sign: int) -> None:
        self.steps, self.balls, self.sign = steps, balls, sign
        self.able = able
        self.contour = steps.contour[able]
        count = len(able)
        first = np.flatnonzero(np.append(True, self.contour[1:] != self.contour[:-1]))
        last = np.append(first[1:], count) - 1
        self.following = np.arange(1, count + 1)
        self.following[last] = first
        self.before = np.empty(count, np.int64)
        self.before[self.following] = np.arange(count)
        self.width = balls.width[able]
        self.thin = np.isfinite(self.width)
        chord = np.hypot(*(balls.touch[able] - steps.at[able]).T)
        self.chord = np.where(self.thin, chord, np.inf)
        partner = np.maximum(balls.partner[able], 0)
        same = steps.contour[partner] == self.contour
        around = np.abs(steps.place[partner] - steps.place[able])
        around = np.minimum(around, steps.length[self.contour] - around)
        self.round_end = self.thin & same & (around <= _ROUND_END * self.chord)
        self.facing = self.thin & (balls.facing[able] >= _FACES) & ~self.round_end
        place_of = np.full(len(steps.at), -1)
        place_of[able] = np.arange(count)
        self.partner = np.where(self.facing, place_of[partner], -1)
        tips = np.append(0, np.cumsum(steps.point_after if sign > 0 else steps.notch_after))
        here, there = able, able[self.following]
        begin, end = np.searchsorted(steps.contour, [self.contour, self.contour + 1])
        wraps = self.following <= np.arange(count)
        over = tips[end] - tips[here] + tips[there] - tips[begin]
        self.cut_after = np.where(wraps, over, tips[there] - tips[here]) > 0
        centre = steps.at[able] + sign * np.minimum(self.width, 1e6)[:, None] / 2 * steps.normal[able]
        self.centre = np.where(self.thin[:, None], centre, 0.0)

    def ends_at(self, beyond: int, last: int) -> bool:
        """Whether what is thin ends behind a step: the ball beyond lies in a round end, or is smaller."""
        closes_in = self.thin[beyond] and self.width[beyond] < _CLOSES_IN * self.width[last]
        return bool(self.round_end[beyond] or closes_in)
