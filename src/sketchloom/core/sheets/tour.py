"""Short ways past places: nearest next, bettered by 2-opt, and the best of several starts of each contour.

A way that crosses itself is shortened by turning what lies between round
(Croes 1958, "A method for solving traveling-salesman problems", Operations
Research 6), looked for among the nearest places only (Bentley 1992, "Fast
algorithms for geometric traveling salesman problems", ORSA Journal on
Computing 4). Where the order is known, the starts are chosen by dynamic
programming (Bellman 1957).
"""

from collections.abc import Sequence

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, kd_tree

__all__ = ["MOST_BETTERED", "best_starts", "bettered", "short_way"]

MOST_BETTERED = 300
"""Places up to which an order with bounds is bettered: every turn and every move of up to three is tried."""

_NEAR = 8
"""Nearest places that a turn is looked for among."""
_MOST_ROUNDS = 2000
_MOST_MOVED = 3
_MOST_COMPARED = 500
"""Places; of more a tree tells which are near."""
_WORTH = 1e-9
"""mm; less is no gain."""


def short_way(places: Floats, begin: Floats) -> list[int]:
    """Give an order in which places, (N, 2), are come by on a short way from `begin`, (2,); it ends anywhere."""
    if len(places) < 2:
        return list(range(len(places)))
    return _turned(np.vstack([begin, places]), _nearest_next(places, begin))


def _nearest_next(places: Floats, at: Floats) -> list[int]:
    left, index = places.copy(), np.arange(len(places))
    out: list[int] = []
    while len(left):
        away = left - at
        one = int(np.argmin(np.einsum("ij,ij->i", away, away)))
        out.append(int(index[one]))
        at = left[one].copy()
        left[one], index[one] = left[-1], index[-1]
        left, index = left[:-1], index[:-1]
    return out


def _turned(points: Floats, order: Sequence[int]) -> list[int]:
    """2-opt on a way that begins at point 0 and ends anywhere."""
    way = np.concatenate([[0], np.array(order) + 1])
    many = len(way)
    close = _near(points, min(_NEAR + 1, many))
    place = np.empty(many, int)
    for _ in range(_MOST_ROUNDS):
        place[way] = np.arange(many)
        lines = points[way]
        step = np.append(np.hypot(*np.diff(lines, axis=0).T), 0.0)  # nothing follows the last
        one = np.repeat(np.arange(many), close.shape[1])
        other = place[close[way].ravel()]
        low, high = np.minimum(one, other), np.maximum(one, other)
        after = np.minimum(high + 1, many - 1)
        joined = np.hypot(*(lines[low] - lines[high]).T)  # what follows `low`, up to `high`, is turned round
        behind = np.where(high + 1 < many, np.hypot(*(lines[low + (low + 1 < many)] - lines[after]).T), 0.0)
        gain = step[low] + step[high] - joined - behind
        first = np.maximum(low, 1)  # the same with the steps before both: what begins at `low`, up to before `high`
        before = np.hypot(*(lines[first - 1] - lines[high - 1]).T)
        other_gain = np.where(low >= 1, step[first - 1] + step[high - 1] - before - joined, -1.0)
        begins = np.concatenate([low + 1, first])
        ends = np.concatenate([high, high - 1])
        gains = np.concatenate([gain, other_gain])
        good = np.flatnonzero((gains > _WORTH) & (begins < ends))
        if not len(good):
            break
        taken = np.zeros(many + 1, bool)
        for move in good[np.lexsort((ends[good], begins[good], -gains[good]))].tolist():
            begin, end = int(begins[move]), int(ends[move])
            if not taken[begin - 1 : end + 2].any():
                taken[begin - 1 : end + 2] = True
                way[begin : end + 1] = way[begin : end + 1][::-1]
    return [int(one) - 1 for one in way[1:]]


def _near(points: Floats, some: int) -> Ints:
    """The nearest of each point, itself left out; (N, some - 1)."""
    if len(points) > _MOST_COMPARED:
        return np.asarray(kd_tree(points).query(points, some)[1])[:, 1:]
    far = np.hypot(points[:, None, 0] - points[None, :, 0], points[:, None, 1] - points[None, :, 1])
    np.fill_diagonal(far, -1.0)
    return np.argsort(far, axis=1, kind="stable")[:, 1:some]


def best_starts(begin: Floats, choices: Sequence[tuple[Floats, Floats]], home: Floats) -> list[int]:
    """Choose for each of a row of contours where the tool comes down, so that all ways between them are shortest.

    Parameters
    ----------
    begin : (2,) float
    choices : sequence of ((K, 2), (K, 2))
        Where the tool may come down on a contour, and where it then goes up.
    home : (2,) float
        Where it goes at last.
    """
    cost, at = np.zeros(1), begin[None]
    came: list[Ints] = []
    for down, up in choices:
        ways = cost[:, None] + np.hypot(at[:, None, 0] - down[None, :, 0], at[:, None, 1] - down[None, :, 1])
        best = ways.argmin(0)
        came.append(best)
        cost, at = ways[best, np.arange(len(down))], up
    out: list[int] = []
    one = int((cost + np.hypot(*(at - home).T)).argmin())
    for best in reversed(came):
        out.append(one)
        one = int(best[one])
    return out[::-1]


def bettered(way: Sequence[int], places: Floats, bound: Bools, begin: Floats, home: Floats) -> list[int]:
    """Shorten an order by turns and moves that keep its bounds, until none helps.

    Parameters
    ----------
    way : sequence of int
        Places in turn; it keeps the bounds.
    places : (N, 2) float
    bound : (N, N) bool
        Whether the first of two must come before the second.
    begin, home : (2,) float
        Where the tool comes from, and where it goes at last.
    """
    row = np.array(way)
    many = len(row)
    while many > 1:
        at = np.vstack([begin, places[row], home])
        far = np.hypot(at[:, None, 0] - at[None, :, 0], at[:, None, 1] - at[None, :, 1])
        held = np.zeros((many + 1, many + 1), int)
        held[1:, 1:] = bound[np.ix_(row, row)].cumsum(0).cumsum(1)  # bounds among all that comes before two places
        moves = [
            _best_turn(far, held),
            *(_best_move(far, held, some) for some in range(1, min(_MOST_MOVED, many - 1) + 1)),
        ]
        gain, order = max(moves, key=lambda move: move[0])
        if gain <= _WORTH:
            break
        row = row[order]
    return [int(one) for one in row]


def _best_turn(far: Floats, held: Ints) -> tuple[float, Ints]:
    """The best stretch to turn round, as what it saves and the new order."""
    many = len(held) - 1
    low, high = np.triu_indices(many, 1)
    inside = held[high + 1, high + 1] - held[low, high + 1] - held[high + 1, low] + held[low, low]
    gain = far[low, low + 1] + far[high + 1, high + 2] - far[low, high + 1] - far[low + 1, high + 2]
    gain = np.where(inside == 0, gain, -np.inf)
    best = int(gain.argmax())
    order = np.arange(many)
    order[low[best] : high[best] + 1] = order[low[best] : high[best] + 1][::-1]
    return float(gain[best]), order


def _best_move(far: Floats, held: Ints, some: int) -> tuple[float, Ints]:
    """The best place for so many that follow each other, as what it saves and the new order."""
    many = len(held) - 1
    first, behind = (each.ravel() for each in np.indices((many - some + 1, many + 1)))  # they go behind so many
    last = first + some
    out = far[first, first + 1] + far[last, last + 1] - far[first, last + 1]
    back = far[behind, first + 1] + far[last, np.minimum(behind + 1, many + 1)]
    back = back - far[behind, np.minimum(behind + 1, many + 1)]
    down = np.minimum(behind, first)  # what is passed on the way back lies from here up to `first`
    passed_back = held[first, last] - held[down, last] - held[first, first] + held[down, first]
    up = np.maximum(behind, last)
    passed_on = held[last, up] - held[first, up] - held[last, last] + held[first, last]
    stays = (behind >= first) & (behind <= last)
    gain = np.where(stays | (passed_back > 0) | (passed_on > 0), -np.inf, out - back)
    best = int(gain.argmax())
    moved = np.arange(first[best], last[best])
    rest = np.delete(np.arange(many), moved)
    at = int(behind[best]) - (some if behind[best] > first[best] else 0)
    return float(gain[best]), np.concatenate([rest[:at], moved, rest[at:]])
