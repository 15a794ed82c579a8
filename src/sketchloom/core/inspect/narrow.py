"""Narrow places of a layer: where its material, or the ground beside it, is narrower than some width."""

from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints, connected_parts, near_pairs
from sketchloom.core.inspect.balls import Balls, Side, Tiled, balls_of
from sketchloom.core.inspect.recall import Recall
from sketchloom.core.inspect.steps import Steps
from sketchloom.core.inspect.thin import Thin

__all__ = ["Narrow", "narrow_places", "step_length"]

_POINTED = 0.6
"""Times the width at its foot that a tip has at its end, at most, or it is a blunt tail."""
_FALLS = 0.97
"""Times the widest so far that a tip's width may fall back while it still grows."""
_STEP = 0.25
"""Of the width asked for, that steps are long at most."""
_SHORTEST = 0.16
"""mm that steps are long at most, whatever the width; narrow places are found exactly between longer ones."""
_MOST_STEPS = 1_000_000
"""About; steps of longer outlines are longer."""
_BESIDE = 1
"""Steps to either side of a place between which its width is made exact."""
_SAME = 0.02
"""mm between the middles of two balls that are one."""
_STRAY = 0.01
"""mm that a centre line may leave the middles of the balls."""
_SPECK = 0.01
"""mm; what is thin over no more than that is where two outlines meet in a point."""


class Narrow(NamedTuple):
    """A narrow place.

    Attributes
    ----------
    width : float
        At its narrowest, mm, between the two edges that it lies between.
    at : (float, float)
        Its middle there, mm.
    box : (float, float, float, float)
        Extent of all that is as narrow.
    length : float
        Of it, along the middle, mm.
    lines : tuple of (n, 2) float
        Along the middle.
    across : (2, 2) float
        From edge to edge at its narrowest.
    whole : bool
        Whether it is a whole piece, or a whole window.
    widest : float
        mm, of what is narrow here.
    contours : tuple of int
        Outlines that it lies between.
    """

    width: float
    at: tuple[float, float]
    box: tuple[float, float, float, float]
    length: float
    lines: tuple[Floats, ...]
    across: Floats
    whole: bool
    widest: float
    contours: tuple[int, ...]


def step_length(widest: float, length: float) -> float:
    """How long steps may be, mm, where places narrower than a width are looked for on outlines of a length."""
    return max(_STEP * widest, _SHORTEST, length / _MOST_STEPS)


def narrow_places(laid: Tiled, piece: Ints, widest: float, side: Side, recall: Recall) -> list[Narrow]:
    """Find what is narrower than a width, pointed tips and corners aside.

    Balls between edges that face each other make the middle line of what is
    thin. From each end where the outline only runs round it, the line is
    followed while it widens; where that began as a point, it is a tip, and left
    out. The narrowest place of each stretch that is left is measured between
    the two edges themselves.

    Parameters
    ----------
    laid : Tiled
        Steps of closed outlines.
    piece : (C,) int
        What each outline goes round: a piece for the inside, a window for the outside; -1 leaves it out of
        what can be narrow as a whole.
    widest : float
        mm
    side : {'inside', 'outside'}
    recall : Recall
    """
    steps, balls = laid.steps, balls_of(laid, widest, side, recall)
    sign = 1 if side == "inside" else -1
    able = np.flatnonzero((steps.bend == 0) | (steps.bend == sign))
    able = able[_has_thin(steps, balls, piece)[steps.contour[able]]]
    if not len(able):
        return []
    return [place for place in _places(Thin(steps, balls, able, sign), piece) if _reach(place.box) > _SPECK]


def _reach(box: tuple[float, float, float, float]) -> float:
    return max(box[2] - box[0], box[3] - box[1])


def _has_thin(steps: Steps, balls: Balls, piece: Ints) -> Bools:
    """Which outlines have anything to do with what is thin; the others need no further look."""
    thin = np.flatnonzero(np.isfinite(balls.width))
    out = np.zeros(len(piece), bool)
    out[steps.contour[thin]] = True
    out[steps.contour[np.maximum(balls.partner[thin], 0)]] = True
    together = np.zeros(int(piece.max(initial=-1)) + 2, bool)
    together[piece[out]] = True
    together[-1] = False
    return out | together[piece]


def _places(thin: Thin, piece: Ints) -> list[Narrow]:
    """Group what is thin, leave its tips out, and measure what is left."""
    count = len(thin.able)
    joined = thin.facing & thin.facing[thin.following] & ~thin.cut_after & (thin.following != np.arange(count))
    here = np.flatnonzero(joined)
    there = thin.following[here]
    across = np.flatnonzero(thin.facing & (thin.partner >= 0))
    across = across[thin.facing[thin.partner[across]]]
    close = _close(thin)
    rows = np.concatenate([here, across, close[:, 0]])
    columns = np.concatenate([there, thin.partner[across], close[:, 1]])
    _, group = connected_parts(count, rows, columns)
    kept = thin.facing.copy()
    runs = _runs(thin.facing, joined, thin)
    peaks = []
    for run, from_cap, to_cap in runs:
        stay = _without_tips(thin, run, from_cap, to_cap)
        peaks.append(run[int(np.argmax(thin.chord[run]))])
        kept[run[~stay]] = False
    whole = _wholly_thin(thin, piece)
    owner = np.where(piece >= 0, piece, 0)[thin.contour]
    in_whole = whole[owner] & (piece[thin.contour] >= 0)
    told = np.zeros(len(whole), bool)
    told[owner[kept & in_whole]] = True
    for peak in peaks:  # of a piece that is all tips, where it is widest counts
        if in_whole[peak] and not told[owner[peak]]:
            kept[peak] = told[owner[peak]] = True
    code = np.where(in_whole, -1 - owner, group)
    out = []
    order = np.flatnonzero(kept)
    order = order[np.lexsort((order, code[order]))]
    bounds = np.flatnonzero(np.append(True, code[order][1:] != code[order][:-1]))[: len(order)]
    lines = {int(run[0]): run for run, _, _ in runs}
    of_run = np.full(count, -1)
    for head, run in lines.items():
        of_run[run] = head
    seen: set[int] = set()
    for low, high in pairwise([*bounds.tolist(), len(order)]):
        members = order[low:high]
        some = [lines[int(head)] for head in np.unique(of_run[members]) if head >= 0]
        out.append(_measured(thin, members, [run[kept[run]] for run in some], bool(in_whole[members[0]])))
        seen.add(int(code[members[0]]))
    dots = np.flatnonzero(in_whole & thin.thin)
    dots = dots[np.argsort(owner[dots], kind="stable")]
    owners, first = np.unique(owner[dots], return_index=True)
    for number, own in zip(owners.tolist(), np.split(dots, first[1:]), strict=False):
        if -1 - number not in seen:  # all round ends, as a dot is
            out.append(_of_dot(thin, own))
    return out


def _close(thin: Thin) -> Ints:
    """Pairs of thin steps whose balls all but coincide, seen from two sides; (n, 2) int."""
    some = np.flatnonzero(thin.facing)
    if not len(some):
        return np.zeros((0, 2), np.int64)
    one, other = near_pairs(thin.centre[some], thin.centre[some], _SAME)
    return np.stack([some[one], some[other]], 1)[one < other]


def _runs(facing: Bools, joined: Bools, thin: Thin) -> list[tuple[Ints, bool, bool]]:
    """Stretches of an outline that are thin, in order, and whether each end only runs round an end of what is thin."""
    count = len(facing)
    starts = np.flatnonzero(facing & ~joined[thin.before])
    out: list[tuple[Ints, bool, bool]] = []
    done = np.zeros(count, bool)
    ends_at = np.flatnonzero(facing & ~joined)
    first_of = np.flatnonzero(np.append(True, thin.contour[1:] != thin.contour[:-1]))
    low_of, high_of = first_of, np.append(first_of[1:], count)
    contour_at = np.searchsorted(first_of, np.arange(count), "right") - 1
    for start in starts.tolist():
        place = contour_at[start]
        low, high = int(low_of[place]), int(high_of[place])
        after = ends_at[np.searchsorted(ends_at, start) :][:1]
        if len(after) and after[0] < high:
            run = np.arange(start, int(after[0]) + 1)
        else:
            end = int(ends_at[np.searchsorted(ends_at, low)])
            run = np.append(np.arange(start, high), np.arange(low, end + 1))
        done[run] = True
        before, following = int(thin.before[run[0]]), int(thin.following[run[-1]])
        from_cap = bool(thin.cut_after[before] or thin.ends_at(before, int(run[0])))
        to_cap = bool(thin.cut_after[run[-1]] or thin.ends_at(following, int(run[-1])))
        out.append((run, from_cap, to_cap))
    for place in np.unique(contour_at[facing & ~done]).tolist():
        run = np.arange(int(low_of[place]), int(high_of[place]))
        out.append((run[facing[run]], False, False))
    return out


def _without_tips(thin: Thin, run: Ints, from_cap: bool, to_cap: bool) -> Bools:
    """Which steps of a run are of no pointed tip; a run that ends somewhere is no tail if it is shorter than wide."""
    width = thin.chord[run]
    stay = np.ones(len(run), bool)
    if from_cap or to_cap:
        reach = float(np.hypot(*np.ptp(thin.centre[run], axis=0)))
        if reach < float(width.max()):
            return ~stay
    if from_cap:
        stay[: _tip(width)] = False
    if to_cap:
        stay[len(width) - _tip(width[::-1]) :] = False
    return stay


def _tip(width: Floats) -> int:
    """How many steps of a run, from its end, are a pointed tip."""
    top = np.maximum.accumulate(width)
    falls = np.flatnonzero(width < _FALLS * top)
    upto = int(falls[0]) if len(falls) else len(width)
    peak = int(np.argmax(width[:upto]))
    return peak + (upto == len(width)) if width[0] <= _POINTED * width[peak] else 0


def _wholly_thin(thin: Thin, piece: Ints) -> Bools:
    """Which pieces are thin all round."""
    count = int(piece.max(initial=-1)) + 1
    of = piece[thin.contour]
    some = of >= 0
    wide = np.bincount(of[some & ~thin.thin], minlength=max(count, 1))
    every = np.bincount(of[some], minlength=max(count, 1))
    return (wide == 0) & (every > 0)


def _measured(thin: Thin, members: Ints, runs: list[Ints], whole: bool) -> Narrow:
    """Measure a narrow place between the edges that it lies between."""
    best = members[int(np.argmin(thin.chord[members]))]
    width = min(_between(thin, best), float(thin.chord[best]))
    steps = thin.steps
    ends = np.stack([steps.at[thin.able[best]], thin.balls.touch[thin.able[best]]])
    middle = ends.mean(0)
    centres = thin.centre[members]
    deep = thin.width[members][:, None] / 2
    low, high = (centres - deep).min(0), (centres + deep).max(0)
    lines = [_line(thin.centre[run]) for run in runs if len(run)]
    length = sum(float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in lines) / 2
    touched = steps.contour[np.maximum(thin.balls.partner[thin.able[members]], 0)]
    contours = sorted({*thin.contour[members].tolist(), *touched.tolist()})
    return Narrow(
        width, (float(middle[0]), float(middle[1])), (float(low[0]), float(low[1]), float(high[0]), float(high[1])),
        length, tuple(lines), ends, whole, float(thin.chord[members].max()), tuple(contours),
    )  # fmt: skip


def _of_dot(thin: Thin, members: Ints) -> Narrow:
    """Measure a piece that is thin all round, and nowhere long."""
    best = members[int(np.argmax(thin.width[members]))]
    middle = thin.centre[best]
    at = thin.steps.at[thin.able[members]]
    low, high = at.min(0), at.max(0)
    width = float(thin.width[best])
    return Narrow(
        width, (float(middle[0]), float(middle[1])), (float(low[0]), float(low[1]), float(high[0]), float(high[1])),
        0.0, (middle[None],), np.stack([middle, middle]), True, width, tuple(np.unique(thin.contour[members]).tolist()),
    )  # fmt: skip


def _line(points: Floats) -> Floats:
    """A line through points, without those that say nothing."""
    if len(points) < 3:
        return points
    kept: Any = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), _STRAY))
    return np.asarray(kept)


def _between(thin: Thin, best: int) -> float:
    """Distance between the edges on both sides of a place."""
    own = thin.able[best]
    other = int(thin.balls.partner[own])
    return float(shapely.distance(_edges(thin.steps, int(own)), _edges(thin.steps, other)))


def _edges(steps: Steps, at: int) -> Any:
    """The outline for some steps to either side of one."""
    contour = steps.contour[at]
    low, high = np.searchsorted(steps.contour, [contour, contour + 1]).tolist()
    index = low + (np.arange(at - _BESIDE, at + _BESIDE + 1) - low) % (high - low)
    index = index if high - low > 2 * _BESIDE else np.arange(low, high)
    ends = steps.half[index][:, None] * steps.along[index]
    pairs = np.stack([steps.at[index] - ends, steps.at[index] + ends], 1)
    return shapely.multilinestrings(shapely.linestrings(pairs))
