"""True corners of edges, and where they are."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints

__all__ = ["Lines", "Neighbours", "corner_places", "find_corners", "lines_through", "turn_between"]

_SIDE = 4
_FARTHEST = 3.0
_PLACE = 0.1
_BLUNT, _MOST_BLUNT = 2.0, 4
"""Of the blur, how far from a corner it rounds the sides that meet there, in points; and the most."""


class Neighbours(NamedTuple):
    """Points of many arcs, with who is next to whom; loops run round."""

    first: Ints  # (N,) first point of the arc of each point
    size: Ints  # (N,) points in that arc
    loop: Bools  # (N,) whether it is a loop
    place: Ints  # (N,) place within the arc

    def of(self, rows: Ints) -> "Neighbours":
        """Some of the points, with the same neighbours."""
        return Neighbours(self.first[rows], self.size[rows], self.loop[rows], self.place[rows])

    def at(self, step: Ints | int) -> tuple[Ints, Bools]:
        """Index of the point `step` further on, clamped at the ends, and whether it is there."""
        place = self.place + step
        low, high = place < 0, place >= self.size
        out = low | high
        if not out.any():
            return self.first + place, ~out
        rows = np.flatnonzero(out)
        size = self.size[rows]
        place[rows] = np.where(self.loop[rows], place[rows] % size, np.clip(place[rows], 0, size - 1))
        return self.first + place, ~out | self.loop


def turn_between(a: Floats, b: Floats) -> Floats:
    """Signed angle from each vector to its fellow, rad; (N, 2) and (N, 2) to (N,)."""
    return np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(1))


def find_corners(points: Floats, near: Neighbours, coarse: Bools, least_turn: float, blur: float = 0.0) -> Bools:
    """Find the points at which an edge turns a corner.

    The turn between the directions over about four points on each side, the
    nearest left out as it mixes both sides, less twice each side's own turn:
    small circles turn steadily and have none.

    Parameters
    ----------
    points : (N, 2) float
    near : Neighbours
    coarse : (N,) bool
        Points of edges without anti-aliasing, whose corners are a pixel rounder.
    least_turn : float
        rad.
    blur : float
        px, as for `corner_places`; the directions are taken over longer sides.

    Returns
    -------
    (N,) bool
    """
    most = _SIDE + _blunt(blur)
    side = np.where(near.loop, np.clip((near.size - 2) // 4, 1, most), np.clip((near.size - 1) // 2, 1, most))
    gap = np.where(near.size >= 12, 1 + coarse, 0)
    before, ok_before = near.at(-gap)
    after, ok_after = near.at(gap)
    back, ok_back = near.at(-gap - side)
    ahead, ok_ahead = near.at(gap + side)
    p = points
    turn = np.abs(turn_between(p[before] - p[back], p[ahead] - p[after]))
    there = ok_before & ok_after & ok_back & ok_ahead
    inner = near.loop | ((near.place > 1) & (near.place < near.size - 2))
    rows = np.flatnonzero((turn > least_turn) & inner & (there | (near.size < 12)))  # hardly any
    near, before, after, back, ahead = near.of(rows), before[rows], after[rows], back[rows], ahead[rows]
    half_back, _ = near.at((-gap - side // 2)[rows])
    half_ahead, _ = near.at((gap + side // 2)[rows])
    own = np.abs(turn_between(p[half_back] - p[back], p[before] - p[half_back]))
    own += np.abs(turn_between(p[half_ahead] - p[after], p[ahead] - p[half_ahead]))
    strength = turn[rows] - 2 * own
    close_back, _ = near.at(-2)
    close_ahead, _ = near.at(2)
    rank = np.zeros(len(p))
    rank[rows] = strength + _PLACE * np.abs(
        turn_between(p[rows] - p[close_back], p[close_ahead] - p[rows])
    )  # a plateau's middle
    good = strength > least_turn
    for step in range(1, 4):
        before, ok_before = near.at(-step)
        after, ok_after = near.at(step)
        good &= ~ok_before | (rank[rows] > rank[before]) | (before == rows)
        good &= ~ok_after | (rank[rows] >= rank[after])
    corner = np.zeros(len(p), bool)
    corner[rows[good]] = True
    return corner


def _blunt(blur: float) -> int:
    """Points beside a corner that a blur has rounded."""
    return min(round(_BLUNT * blur), _MOST_BLUNT)


class Lines(NamedTuple):
    """Straight lines: a point on each and the unit normal."""

    point: Floats  # (C, 2)
    normal: Floats  # (C, 2)
    sure: Floats  # (C,) 0 where there were too few points


def lines_through(points: Floats, weight: Floats) -> Lines:
    """Weighted total least-squares lines; points (C, K, 2), weight (C, K)."""
    mass = np.maximum(weight.sum(1), 1e-9)
    middle = (points * weight[..., None]).sum(1) / mass[:, None]
    rest = points - middle[:, None]
    xx, yy = (weight * rest[..., 0] ** 2).sum(1), (weight * rest[..., 1] ** 2).sum(1)
    xy = (weight * rest[..., 0] * rest[..., 1]).sum(1)
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)
    normal = np.stack([-np.sin(angle), np.cos(angle)], 1)
    sure = np.where((weight > 0.05).sum(1) >= 2, np.minimum(1.0, mass / 3), 0.0)
    return Lines(middle, normal, sure)


def corner_places(
    points: Floats, weight: Floats, corners: Ints, near: Neighbours, is_break: Bools, blur: float = 0.0
) -> Floats:
    """Where the straight sides of each corner meet.

    Parameters
    ----------
    points : (N, 2) float
    weight : (N,) float
    corners : (C,) int
    near : Neighbours
    is_break : (N,) bool
        Corners and ends; a side stops before the next.
    blur : float
        px; standard deviation of what rounds the edges of a soft picture. The
        sides are looked at beyond it, and over as much more.

    Returns
    -------
    (C, 2) float
        The point itself where the sides are too short or too parallel.
    """
    own = Neighbours(near.first[corners], near.size[corners], near.loop[corners], near.place[corners])
    blunt = _blunt(blur)
    most = _SIDE + 1 + 2 * blunt
    sides = []
    for sign in (-1, 1):
        index = np.empty((len(corners), most), np.int64)
        mass = np.empty((len(corners), most))
        going = np.ones(len(corners), bool)
        for k in range(1, most + 1):
            index[:, k - 1], there = own.at(sign * k)
            going &= there & ~is_break[index[:, k - 1]]
            mass[:, k - 1] = weight[index[:, k - 1]] * going * (0.02 if k <= blunt else 0.3 if k == 1 else 1.0)
        sides.append(lines_through(points[index], mass))
    a, b = sides
    det = a.normal[:, 0] * b.normal[:, 1] - a.normal[:, 1] * b.normal[:, 0]
    ca, cb = (a.normal * a.point).sum(1), (b.normal * b.point).sum(1)
    with np.errstate(divide="ignore", invalid="ignore"):
        meet = np.stack(
            [(ca * b.normal[:, 1] - cb * a.normal[:, 1]) / det, (cb * a.normal[:, 0] - ca * b.normal[:, 0]) / det], 1
        )
    away = np.linalg.norm(meet - points[corners], axis=1)
    good = (np.abs(det) > 0.2) & (a.sure > 0) & (b.sure > 0) & (away < _FARTHEST)
    return np.where(good[:, None], meet, points[corners])
