"""Choose where the nodes go: split until every curve fits, join while it still does."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves.fit.circles import fit_arcs
from sketchloom.core.curves.fit.corners import lines_through, turn_between
from sketchloom.core.curves.fit.cubics import fit_cubics
from sketchloom.core.curves.fit.tangents import pass_junctions, pass_smoothly
from sketchloom.core.curves.fit.track import Fits, Stretches, Track, fits_well
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Chosen", "choose_nodes"]

_MOST_TURN = 1.75
_MOST_BEND = 1.9
_BEND_SLACK = 0.6
_SHORTEST = 5
_LAG = 3
_END = 48
_ON_LINE = 0.6
_AS_WELL = 1.05
_AS_WELL_PX = 0.004


class Chosen(NamedTuple):
    """The segments, arc by arc."""

    first: Ints
    last: Ints
    control: Floats
    straight: Bools
    round: Bools


def choose_nodes(stretches: Stretches, tick: Tick = no_tick) -> Chosen:
    """Fit every arc with as few segments as the tolerance allows.

    Splitting top down at the worst place, then joining neighbours bottom up,
    best first; all segments of all arcs in one batch a round.

    References
    ----------
    .. [1] P. J. Schneider, "An algorithm for automatically fitting digitized
       curves", Graphics Gems, 1990.
    """
    first, last, fits, fresh = _split(stretches, tick)
    first, last, fits = _join(stretches, first, last, fits, fresh)
    tick(0.8)
    first, last, fits = _relax(stretches, first, last, fits)
    tick(0.9)
    fits, is_round = _recognise_arcs(stretches.track, first, last, fits)
    control, kept = pass_smoothly(stretches, first, last, fits, is_round)
    kept &= pass_junctions(stretches, first, last, fits._replace(control=control), is_round & kept)
    return Chosen(first, last, control, fits.straight, is_round & kept)


def _split(stretches: Stretches, tick: Tick) -> tuple[Ints, Ints, Fits, Bools]:
    """Split at the worst place until every curve fits; and which segments may be joined to their next.

    Two halves of a stretch that no curve fitted may not.
    """
    track = stretches.track
    first, last = _begin(stretches)
    done: list[tuple[Ints, Ints, Fits]] = []
    failed = [np.zeros(0, np.int64)]
    count = len(track.points)
    rounds = 0
    while len(first):
        fits = fit_cubics(track, first, last)
        good = fits_well(track, first, fits)
        good |= ((last - first < _SHORTEST) & np.isfinite(fits.error)) | (last - first < 3)
        done.append((first[good], last[good], _take(fits, good)))
        low, high = first[~good], last[~good]
        failed.append(low * count + high)
        margin = np.maximum(1, (high - low) // 4)
        middle = np.clip(fits.worst[~good], low + margin, high - margin)
        first, last = np.stack([low, middle], 1).ravel(), np.stack([middle, high], 1).ravel()
        rounds += 1
        tick(min(0.5, 0.08 * rounds))
    first = np.concatenate([low for low, _, _ in done])
    last = np.concatenate([high for _, high, _ in done])
    fits = Fits(*(np.concatenate(parts) for parts in zip(*(f for _, _, f in done), strict=True)))
    order = np.argsort(first, kind="stable")
    first, last = first[order], last[order]
    fresh = np.ones(len(first), bool)
    fresh[:-1] = ~np.isin(first[:-1] * count + last[1:], np.concatenate(failed))
    return first, last, _take(fits, order), fresh


def _recognise_arcs(track: Track, first: Ints, last: Ints, fits: Fits) -> tuple[Fits, Bools]:
    """Take a circular arc for a cubic where it fits as well, and say where."""
    found = np.zeros(len(first), bool)
    bent = np.flatnonzero(~fits.straight & (last - first >= _SHORTEST))
    if not len(bent):
        return fits, found
    arcs = fit_arcs(track, first[bent], last[bent])
    as_well = arcs.rms <= _AS_WELL * fits.rms[bent] + _AS_WELL_PX
    good = fits_well(track, first[bent], arcs) & as_well
    for kept, value in zip(fits, arcs, strict=True):
        kept[bent[good]] = value[good]
    found[bent[good]] = True
    return fits, found


def _take(fits: Fits, rows: Ints | Bools) -> Fits:
    return Fits(
        fits.control[rows],
        fits.straight[rows],
        fits.error[rows],
        fits.rms[rows],
        fits.largest[rows],
        fits.worst[rows],
    )


def _begin(stretches: Stretches) -> tuple[Ints, Ints]:
    """Cut at corners, and where more than a quarter turn and a bit has gone by."""
    node = stretches.track.node
    cut = stretches.sharp | stretches.end
    count = len(node)
    place = np.arange(count)
    piece = np.cumsum(cut) - 1
    starts = np.flatnonzero(cut)
    low = starts[piece]
    high = np.append(starts[1:], count - 1)[piece]
    back = node[np.maximum(place - _LAG, low)]
    ahead = node[np.minimum(place + _LAG, high)]
    a, b = node - back, ahead - node
    turn = np.abs(turn_between(a, b)) / _LAG
    turn[cut] = 0.0
    total = np.cumsum(turn)
    through = total - total[low]
    whole = np.maximum(total[np.maximum(high - 1, low)] - total[low], 1e-9)
    parts = np.ceil(whole / _MOST_TURN)
    arc_of = np.searchsorted(stretches.first, place, "right") - 1
    parts = np.where(stretches.round[arc_of], np.maximum(parts, 4), parts)
    step = np.floor(through / whole * parts * (1 - 1e-9))
    extra = np.zeros(count, bool)
    extra[1:] = (step[1:] > step[:-1]) & ~cut[1:] & ~cut[:-1]
    short = high - low < 2 * _SHORTEST
    extra &= ~short | stretches.round[arc_of]
    nodes = np.flatnonzero(cut | extra)
    is_last = np.zeros(count, bool)
    is_last[stretches.last] = True
    first, last = nodes[:-1], nodes[1:]
    inside = ~is_last[first]
    return first[inside], last[inside]


def _join(stretches: Stretches, first: Ints, last: Ints, fits: Fits, fresh: Bools) -> tuple[Ints, Ints, Fits]:
    """Join neighbours while one curve fits both, those that fit best first.

    `fresh` says of each segment whether joining it to the next has not been tried.
    """
    track = stretches.track
    fresh = fresh.copy()
    while True:
        pair = np.flatnonzero((last[:-1] == first[1:]) & fresh[:-1])
        pair = pair[~(stretches.sharp | stretches.end)[first[pair + 1]]]
        bend = _signed_bend(fits.control)
        pair = pair[np.abs(bend[pair] + bend[pair + 1]) <= _MOST_BEND + _BEND_SLACK]
        if not len(pair):
            return first, last, fits
        tried = fit_cubics(track, first[pair], last[pair + 1])
        good = fits_well(track, first[pair], tried) & (_bend(tried.control) <= _MOST_BEND)
        fresh[pair[~good]] = False
        score = np.full(len(first) + 2, np.inf)
        score[pair[good] + 1] = tried.error[good] - tried.straight[good]
        here = pair + 1
        best = good & (score[here] < score[here - 1]) & (score[here] <= score[here + 1])
        if not best.any():
            return first, last, fits
        chosen = pair[best]
        merged = _take(tried, best)
        for field, value in zip(fits, merged, strict=True):
            field[chosen] = value
        last[chosen] = last[chosen + 1]
        fresh[chosen] = True
        fresh[np.maximum(chosen - 1, 0)] = True
        keep = np.ones(len(first), bool)
        keep[chosen + 1] = False
        first, last, fresh, fits = first[keep], last[keep], fresh[keep], _take(fits, keep)


def _bend(control: Floats) -> Floats:
    """Angle between a curve's two ends, rad."""
    return np.abs(_signed_bend(control))


def _signed_bend(control: Floats) -> Floats:
    a, b = control[:, 1] - control[:, 0], control[:, 3] - control[:, 2]
    return turn_between(a, b)


def _relax(stretches: Stretches, first: Ints, last: Ints, fits: Fits) -> tuple[Ints, Ints, Fits]:
    """Move the nodes between straight lines and curves to where the line ends; join again what then can be.

    A line taken as far as the tolerance allows runs on into the curve. The
    middle of the line says where it truly runs.
    """
    track = stretches.track
    smooth = ~(stretches.sharp | stretches.end)
    moved = np.zeros(len(first), bool)
    for odd in (0, 1):
        here = np.flatnonzero((last[:-1] == first[1:]) & (fits.straight[:-1] != fits.straight[1:]))
        here = here[(here % 2 == odd) & smooth[last[here]]]
        if not len(here):
            continue
        ahead = fits.straight[here + 1]  # whether the line comes second
        line = here + ahead
        node = last[here] + np.where(ahead, -1, 1) * _line_ends(track, first[line], last[line], ahead)
        node = np.clip(node, first[here] + 3, last[here + 1] - 3)
        room = (node != last[here]) & (node >= first[here] + 3)
        here, node = here[room], node[room]
        if not len(here):
            continue
        both = fit_cubics(track, np.append(first[here], node), np.append(node, last[here + 1]))
        left, right = _take(both, np.arange(len(here))), _take(both, np.arange(len(here), 2 * len(here)))
        good = fits_well(track, node, left) & fits_well(track, node, right)
        good &= (left.straight == fits.straight[here]) & (right.straight == fits.straight[here + 1])
        rows = here[good]
        last[rows] = first[rows + 1] = node[good]
        for field, a, b in zip(fits, left, right, strict=True):
            field[rows], field[rows + 1] = a[good], b[good]
        moved[rows] = moved[rows + 1] = True
    moved[:-1] |= moved[1:]
    return _join(stretches, first, last, fits, moved)


def _line_ends(track: Track, first: Ints, last: Ints, at_first: Bools) -> Ints:
    """How many points outwards of its end each straight stretch runs on; negative where it ends before."""
    margin = (last - first) // 5
    share = np.linspace(0, 1, 16) * (last - first - 2 * margin)[:, None]
    index = (first + margin)[:, None] + np.round(share).astype(np.int64)
    lines = lines_through(track.points[index], track.weight[index])
    steps = np.arange(-_END, _END + 1)
    end, sign = np.where(at_first, first, last), np.where(at_first, -1, 1)
    place = np.clip(end[:, None] + sign[:, None] * steps, 0, len(track.points) - 1)
    away = np.abs(((track.points[place] - lines.point[:, None]) * lines.normal[:, None]).sum(2))
    on = away <= _ON_LINE * track.limit[end][:, None]
    runs = np.logical_and.accumulate(on, axis=1)
    return np.asarray(runs.sum(1) - 1 - _END)
