"""Arcs that cross, drawn back towards the sides of their pixels until none does.

Edges are measured each by itself, and within about a pixel of the crack
between two inks; curves follow them. Where material is thinner than that, two
may cross. The cracks themselves cannot. So what crosses is drawn back towards
them, there and nowhere else, step by step until nothing crosses any more; at
the last step it is the crack line.
"""

from collections.abc import Callable

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, near_pairs
from sketchloom.core.curves.apart.areas import face_areas
from sketchloom.core.curves.apart.crossings import Search
from sketchloom.core.curves.apart.drawn import LINES, PACE, Drawn, Stretch
from sketchloom.core.curves.arcs import ArcCurves, Piece, arc_piece
from sketchloom.core.curves.fit import fit_exact
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.curves.pieces import measured, with_arcs
from sketchloom.core.planar import PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["drawn_apart"]

_STEP, _LARGER = 0.125, 0.25
"""By how much more is drawn back what crosses, in a round; and after some rounds."""
_SMALL_STEPS, _ROUNDS = 6, 12
"""Rounds of small steps, and of any before whole arcs become their crack lines."""
_NEAR = 1.2
"""px from a crossing within which a curve is drawn back."""
_FULL, _FADE = 0.5, 2.0
"""px along a curve on each side of a crossing that are drawn back as far, and over which that fades."""
_AT_JUNCTION = 0.5
_LEAST = 0.002
"""Of the area of its pixels that a face keeps at least."""

Seen = Callable[[Floats], Floats]


def drawn_apart(planar: PlanarMap, curves: ArcCurves, seen: Seen = np.asarray, tick: Tick = no_tick) -> ArcCurves:
    """Draw curves that cross back towards their cracks until none crosses, and no face is turned over.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, px.
    seen : callable, optional
        Gives points as a file will have them, rounded, in px again.

    Returns
    -------
    ArcCurves
        The same object if nothing crosses.
    """
    search = Search(_as_seen(curves, seen))
    found = search.all()
    pairs, places = _arc_of(curves)[found.segments], found.place
    turned = _turned(planar, curves, seen)
    if not len(places) and not turned.any():
        return curves
    work = _Work(planar, curves)
    now = curves
    for turn in range(_ROUNDS + 2 * len(planar.tail)):
        tick(1 - 0.8**turn)
        newly = np.zeros(len(planar.tail), bool)
        newly[list(work.raised(pairs, places, turned, turn))] = True
        now = work.drawn(np.flatnonzero(newly))
        changed = np.zeros(len(planar.tail), bool)
        changed[list(work.pieces)] = True
        segments, of = _as_seen(now, seen), _arc_of(now)
        mine = changed[of]
        found = search.beside(~changed[_arc_of(curves)], segments[mine], newly[of[mine]])
        as_before = ~newly[pairs].any(1)
        pairs = np.concatenate([pairs[as_before], np.concatenate([_arc_of(curves), of[mine]])[found.segments]])
        places = np.concatenate([places[as_before], found.place])
        turned = _turned(planar, now, seen)
        if not len(places) and not turned.any():
            break
    return measured(now, sorted(work.pieces))


def _arc_of(curves: ArcCurves) -> Ints:
    return np.repeat(np.arange(len(curves.offset) - 1), np.diff(curves.offset))


def _as_seen(curves: ArcCurves, seen: Seen) -> Floats:
    segments: Floats = seen(curves.segments)
    return straight_thirds(segments.copy(), curves.straight)


def _turned(planar: PlanarMap, curves: ArcCurves, seen: Seen) -> Bools:
    """Faces of which hardly anything is left; (F,)."""
    area = face_areas(
        planar, ArcCurves(seen(curves.points), curves.straight, curves.round, curves.offset, curves.deviation)
    )
    bad: Bools = area < _LEAST * planar.faces.area
    bad[0] = False
    return bad


class _Work:
    """The arcs that are drawn back, and how far the vertices are."""

    def __init__(self, planar: PlanarMap, curves: ArcCurves) -> None:
        self._planar, self._curves = planar, curves
        self._known: dict[int, Drawn] = {}
        self._vertex = np.zeros(len(planar.vertices))
        self.pieces: dict[int, Piece] = {}

    def raised(self, pairs: Ints, places: Floats, turned: Bools, turn: int) -> set[int]:
        """Draw back farther what crosses, and what bounds faces that are turned over; gives the arcs changed by it."""
        planar = self._planar
        bounding = np.flatnonzero(turned[planar.left] | turned[planar.right])
        some = np.union1d(pairs.ravel(), bounding).tolist()
        before = {arc: one.share.copy() for arc, one in self._known.items()}
        self._know(some)
        if turn >= _ROUNDS:  # whole arcs, as they are between the pixels
            for arc in some:
                self._known[arc].share[:] = 2 * LINES
        else:
            self._raise_near(pairs, places, _STEP if turn < _SMALL_STEPS else _LARGER)
            self._raise_round(np.flatnonzero(turned), _STEP if turn < _SMALL_STEPS else _LARGER)
        self._meet_at_junctions()
        return {
            arc for arc, one in self._known.items() if arc not in before or not np.array_equal(before[arc], one.share)
        }

    def drawn(self, arcs: Ints) -> ArcCurves:
        """Fit those arcs anew; the others are as they were."""
        stretches = {arc: self._known[arc].stretches() for arc in arcs.tolist() if self._known[arc].share.any()}
        every = [one for own in stretches.values() for one in own]
        fitted = iter(_fitted(every))
        for arc, own in stretches.items():
            self.pieces[arc] = self._known[arc].with_parts(own, [next(fitted) for _ in own])
        return with_arcs(self._curves, self.pieces)

    def _know(self, arcs: list[int]) -> None:
        for arc in arcs:
            if arc not in self._known:
                one = Drawn(self._planar, arc_piece(self._curves, arc), arc)
                self._known[arc] = one

    def _raise_near(self, pairs: Ints, places: Floats, step: float) -> None:
        """Raise the share of what passes beside crossings, on both arcs."""
        if not len(places):
            return
        names = np.unique(pairs).tolist()
        sizes = np.array([len(self._known[arc].share) for arc in names])
        first = np.cumsum(sizes) - sizes
        now = np.concatenate([self._known[arc].now() for arc in names])
        share = np.concatenate([self._known[arc].share for arc in names])
        target = np.zeros(len(share))
        own = np.searchsorted(names, pairs)
        of, beside = near_pairs(places, now, _NEAR)
        beside = beside[np.argsort(of, kind="stable")]
        parts = np.split(beside, np.cumsum(np.bincount(of, minlength=len(places)))[:-1])
        for place, (a, b), near in zip(places, own.tolist(), parts, strict=True):
            for arc in {a, b}:
                low, high = first[arc], first[arc] + sizes[arc]
                close = near[(near >= low) & (near < high)]
                if not len(close):  # where the fit lies off its points
                    close = np.array([low + int(np.argmin(np.hypot(*(now[low:high] - place).T)))])
                target[close] = np.maximum(target[close], share[close].max() + step)
        for row, arc in enumerate(names):
            one = self._known[arc]
            own_target = target[first[row] : first[row] + sizes[row]]
            np.maximum(one.share, _spread(own_target, one.loop), out=one.share)

    def _raise_round(self, faces: Ints, step: float) -> None:
        """Raise the share of what bounds some faces, near them."""
        planar = self._planar
        for face in faces.tolist():
            low, high = planar.faces.box[face, :2], planar.faces.box[face, 2:]
            for arc in np.flatnonzero((planar.left == face) | (planar.right == face)).tolist():
                one = self._known[arc]
                close = ((one.home >= low - 1) & (one.home <= high + 1)).all(1)
                target = np.where(close, one.share[close].max(initial=0.0) + step, 0.0)
                np.maximum(one.share, _spread(target, one.loop), out=one.share)

    def _meet_at_junctions(self) -> None:
        """All arcs that end at a junction are drawn back as far there as the one that is farthest."""
        planar = self._planar
        fresh = list(self._known)
        while fresh:
            before = self._vertex.copy()
            for arc in fresh:
                if not self._known[arc].loop:
                    ends = [planar.tail[arc], planar.head[arc]]
                    np.maximum.at(self._vertex, ends, np.minimum(self._known[arc].share[[0, -1]], 1.0))
            moved = self._vertex > before
            fresh = np.flatnonzero((moved[planar.tail] | moved[planar.head]) & ~planar.loops).tolist()
            self._know(fresh)
            for arc in fresh:  # a short one may draw its other end back as well
                one = self._known[arc]
                away = PACE * np.arange(len(one.share))
                for vertex, gap in ((planar.tail[arc], away), (planar.head[arc], away[::-1])):
                    fall = np.where(gap == 0, 1.0, _falls(gap - _AT_JUNCTION))
                    np.maximum(one.share, self._vertex[vertex] * fall, out=one.share)


def _spread(target: Floats, loop: bool) -> Floats:
    """Raise what lies beside raised points along an arc as well: some way as far, then less and less."""
    if not target.any():
        return target
    reach = round((_FULL + _FADE) / PACE)
    fall = _falls(PACE * np.abs(np.arange(-reach, reach + 1)) - _FULL)
    out = target.copy()
    count = len(target)
    rows = np.flatnonzero(target)
    for shift, share in zip(range(-reach, reach + 1), fall, strict=True):
        at = rows + shift
        value = target[rows] * share
        if loop:
            at %= count - 1
        else:
            inside = (at >= 0) & (at < count)
            at, value = at[inside], value[inside]
        np.maximum.at(out, at, value)
    if loop:
        out[0] = out[-1] = max(out[0], out[-1])
    return out


def _falls(gap: Floats) -> Floats:
    x = np.clip(1 - gap / _FADE, 0, 1)
    return np.asarray(x * x * (3 - 2 * x))


def _fitted(stretches: list[Stretch]) -> list[Piece]:
    """Curves through stretches, in one batch."""
    if not stretches:
        return []
    lines = [one.points[:-1] if one.whole else one.points for one in stretches]
    corners = [one.corners[:-1] if one.whole else one.corners for one in stretches]
    tolerance = np.array([one.tolerance for one in stretches])
    return fit_exact(lines, [one.whole for one in stretches], corners, tolerance)
