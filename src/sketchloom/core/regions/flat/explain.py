"""Give every edge pixel to an ink: the nearer end of the best blend of two inks around it."""

from itertools import combinations
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints, dots
from sketchloom.core.progress import Tick, no_tick

__all__ = ["RIDGE", "Blends", "blend_at", "explain_edges", "settled"]

_AROUND = [(dy, dx) for dy in range(-2, 3) for dx in range(-2, 3) if dy or dx]
_FARTHER = [(dy, dx) for r in (3, 4, 6) for dy in (-r, 0, r) for dx in (-r, 0, r) if dy or dx]
_MARGIN = 6
_MOST_NEAR = 5
_CHUNK = 200_000
_UNEXPLAINED, _NOISE_PART = 12.0, 6.0
RIDGE = 0.2
"""Least share of a line in a clean picture."""
_OVERSHOOT = 0.2
"""How far beyond its inks sharpened or scaled edges may ring."""


class Blends(NamedTuple):
    """Two inks for each of some pixels, the second's share, and how far off their blend is."""

    first: Bytes
    second: Bytes
    part: Floats
    off: Floats
    """Square of the distance; infinite where no ink is near."""

    def at(self, rows: Ints | Bools) -> "Blends":
        """Take some."""
        return Blends(self.first[rows], self.second[rows], self.part[rows], self.off[rows])

    def put(self, rows: Ints | Bools, better: "Blends") -> None:
        """Replace some."""
        for field, value in zip(self, better, strict=True):
            field[rows] = value


def explain_edges(evidence: Bytes, cores: Bytes, colours: Floats, noise: float = 0.0, tick: Tick = no_tick) -> Bytes:
    """Label the pixels that are no core pixels.

    A pixel's colour is explained as a blend of two inks that have core
    pixels around it, and it goes to the nearer end. Where no such blend fits
    (a part too thin for a core), one end may be any ink of the picture; and a
    share below one half is kept where it is a ridge, so that thin lines hold
    together.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    cores : (H, W) uint8
        1 + ink at core pixels, 0 elsewhere.
    colours : (K, 3) float
        At most 63 inks.
    noise : float
        Spread of an even patch, 8-bit steps. Where there is any, blends are
        taken less at their word and no lone ridge is kept.

    Returns
    -------
    (H, W) uint8
        1 + ink everywhere.
    """
    edges = np.flatnonzero(cores.ravel() == 0)
    blends = blend_at(edges, evidence, cores, colours, _UNEXPLAINED + _NOISE_PART * noise, tick=tick)
    return settled(cores, edges, blends, None if noise else RIDGE)


def blend_at(
    places: Ints,
    evidence: Bytes,
    cores: Bytes,
    colours: Floats,
    unexplained: float,
    space: Floats | None = None,
    any_ink: bool = True,
    tick: Tick = no_tick,
) -> Blends:
    """Explain pixels as blends of two inks with core pixels around them.

    Parameters
    ----------
    places : (n,) int
        Flat indices.
    evidence, cores, colours
        As for `explain_edges`.
    unexplained : float
        How far off a blend of near inks may be before inks farther away are tried.
    space : (3, 3) float, optional
        Linear map of colours to the space in which distances count.
    any_ink : bool
        Whether one end may be an ink that has no core near.
    """
    height, width = cores.shape
    padded = np.zeros((height + 2 * _MARGIN, width + 2 * _MARGIN), np.uint8)
    padded[_MARGIN:-_MARGIN, _MARGIN:-_MARGIN] = cores
    near_steps, far_steps = (
        np.array([dy * padded.shape[1] + dx for dy, dx in around]) for around in (_AROUND, _AROUND + _FARTHER)
    )
    turn = np.eye(3, dtype=np.float32) if space is None else space.T.astype(np.float32)
    colour_of = evidence.reshape(-1, 4)
    mix = np.vstack([np.zeros(3), colours]).astype(np.float32) @ turn
    count = len(places)
    all_of = Blends(np.zeros(count, np.uint8), np.zeros(count, np.uint8), *np.zeros((2, count), np.float32))
    for begin in range(0, count, _CHUNK):
        tick(begin / count)
        here = places[begin : begin + _CHUNK]
        at = here + (here // width) * 2 * _MARGIN + _MARGIN * (padded.shape[1] + 1)
        colour = colour_of[here, :3].astype(np.float32) @ turn
        near = _labels_near(padded.ravel(), at, near_steps, len(colours))
        blend = _best_blend(colour, near, mix)
        hard = np.flatnonzero(blend.off > unexplained**2)
        if len(hard):  # a sharpened or scaled edge rings: its inks lie farther off
            near = _labels_near(padded.ravel(), at[hard], far_steps, len(colours))
            again = _best_blend(colour[hard], near, mix)
            blend.put(hard, _any_ink(colour[hard], near, mix, again, unexplained) if any_ink else again)
        all_of.put(np.arange(begin, begin + len(here)), blend)
    return all_of


def settled(cores: Bytes, places: Ints, blends: Blends, least_ridge: float | None) -> Bytes:
    """Give each pixel to the nearer end of its blend, and keep thin lines in one piece; (H, W) uint8."""
    labels, minor, share = cores.copy(), np.zeros(cores.shape, np.uint8), np.zeros(cores.shape, np.uint8)
    major, least, part, _ = _ordered(blends)
    labels.ravel()[places] = major
    minor.ravel()[places] = least
    share.ravel()[places] = np.rint(part * 255)
    if least_ridge is not None:
        _keep_ridges(labels, minor, share, places, least_ridge)
    for _ in range(2):
        _join_diagonals(labels, minor, share)
    return labels


def _labels_near(padded: Bytes, place: Ints, steps: Ints, count: int) -> Bytes:
    """Up to `_MOST_NEAR` inks with a core pixel around each place; (n, m) uint8, 0 where there are fewer."""
    bit = np.append(np.uint64(0), np.uint64(1) << np.arange(count, dtype=np.uint64))
    seen = np.zeros(len(place), np.uint64)
    for step in steps:
        seen |= bit[padded[place + step]]
    near = np.zeros((len(place), _MOST_NEAR), np.uint8)
    filled = np.zeros(len(place), np.intp)
    for ink in range(count):
        rows = np.flatnonzero((seen & bit[ink + 1] != 0) & (filled < _MOST_NEAR))
        near[rows, filled[rows]] = ink + 1
        filled[rows] += 1
    return near[:, : max(1, int(filled.max(initial=0)))]


def _best_blend(colour: Floats, near: Bytes, mix: Floats) -> Blends:
    """The best blend of two inks of those near."""
    first = near[:, 0].copy()
    rest = colour - mix[first]
    off = np.where(first > 0, dots(rest, rest), np.inf).astype(np.float32)
    blend = Blends(first, first.copy(), np.zeros(len(colour), np.float32), off)
    for i, j in combinations(range(near.shape[1]), 2):
        rows = np.flatnonzero(near[:, j])
        if len(rows):
            _improve(rows, near[rows, i], near[rows, j], colour, mix, blend, 0.9)
    return blend


def _any_ink(colour: Floats, near: Bytes, mix: Floats, blend: Blends, unexplained: float) -> Blends:
    """Let one end be any ink of the picture, where that explains far more."""
    open_rows = np.flatnonzero(blend.off > unexplained**2)
    if not len(open_rows):
        return blend
    trial = blend.at(np.arange(len(colour)))
    for ink in range(1, len(mix)):
        for i in range(near.shape[1]):
            rows = open_rows[(near[open_rows, i] > 0) | (i == 0)]
            partner = np.where(near[rows, i] > 0, near[rows, i], ink).astype(np.uint8)
            _improve(rows, partner, np.full(len(rows), ink, np.uint8), colour, mix, trial, 1.0)
    doubtful = np.flatnonzero((trial.off > 0.25 * blend.off) & np.isfinite(blend.off))
    trial.put(doubtful, blend.at(doubtful))
    return trial


def _ordered(blend: Blends) -> Blends:
    """Put the ink with the larger share first."""
    swap = blend.part > 0.5
    return Blends(
        np.where(swap, blend.second, blend.first),
        np.where(swap, blend.first, blend.second),
        np.where(swap, 1 - blend.part, blend.part),
        blend.off,
    )


def _improve(rows: Ints, a: Bytes, b: Bytes, colour: Floats, mix: Floats, blend: Blends, ratio: float) -> None:
    """Take the blend of `a` and `b` for the rows where it leaves less than `ratio` of what is unexplained."""
    start, along = mix[a], mix[b] - mix[a]
    rest = colour[rows] - start
    share = dots(rest, along) / np.maximum(dots(along, along), 1e-6)
    share = np.clip(share, -_OVERSHOOT, 1 + _OVERSHOOT)
    rest -= share[:, None] * along
    left = dots(rest, rest)
    better = left < ratio * blend.off[rows]
    at = rows[better]
    blend.first[at], blend.second[at], blend.off[at] = a[better], b[better], left[better]
    blend.part[at] = np.clip(share[better], 0, 1)


def _share_at(label: Bytes, at: Ints, labels: Bytes, minor: Bytes, share: Bytes) -> Ints:
    """Share (0 to 255) that each label has of the pixel at its place."""
    part = share[at].astype(np.int16)
    return np.where(labels[at] == label, 255 - part, np.where(minor[at] == label, part, 0))


def _keep_ridges(labels: Bytes, minor: Bytes, share: Bytes, edges: Ints, least: float) -> None:
    """Give a pixel to its lesser ink where that ink's share peaks across a row or a column.

    Along a thin line its own share goes up and down, so that what lies beside
    it peaks there too; the pixel stays with the line, which peaks higher.
    """
    height, width = labels.shape
    flat, less, part = labels.ravel(), minor.ravel(), share.ravel()
    some = edges[(part[edges] >= least * 255) & (flat[edges] != less[edges])]
    y, x = np.divmod(some, width)
    inside = (y > 0) & (y < height - 1) & (x > 0) & (x < width - 1)
    some = some[inside]
    ink, own = less[some], part[some].astype(np.int16)
    ridge = np.zeros(len(some), bool)
    for step, other in ((1, width), (width, 1)):
        before, after = (_share_at(ink, some + d, flat, less, part) for d in (-step, step))
        beside = np.maximum(*(_share_at(flat[some], some + d, flat, less, part) for d in (-other, other)))
        peaks = (own >= before) & (own > after)
        ridge |= peaks & (own - np.minimum(before, after) >= 255 - own - beside)
    chosen = some[ridge]
    was = flat[chosen].copy()
    flat[chosen] = less[chosen]
    less[chosen] = was
    part[chosen] = 255 - part[chosen]


def _join_diagonals(labels: Bytes, minor: Bytes, share: Bytes) -> None:
    """Where two inks meet like a chessboard, let the larger share run through, or a line on what is wide."""
    a, b = labels[:-1, :-1], labels[:-1, 1:]
    places = np.flatnonzero((a == labels[1:, 1:]) & (b == labels[1:, :-1]) & (a != b))
    if not len(places):
        return
    width = labels.shape[1]
    y, x = np.divmod(places, width - 1)
    corner = y * width + x
    flat, less, part = labels.ravel(), minor.ravel(), share.ravel()
    at = np.stack([corner, corner + 1, corner + width, corner + width + 1])
    ink = flat[at[0]], flat[at[1]]
    parts = np.stack([_share_at(ink[0], spot, flat, less, part) for spot in at]).astype(int)
    wide = _wide(labels, at)
    lines = ~wide[[0, 3]].any(0), ~wide[[1, 2]].any(0)
    grounds = wide[[0, 3]].all(0), wide[[1, 2]].all(0)
    through = (parts.sum(0) > 510) | (lines[0] & grounds[1])
    through &= ~(lines[1] & grounds[0])
    soft = less[at] == np.where(through, ink[0], ink[1])
    gain = np.where(through, parts, 255 - parts)
    gain[[0, 3]] = np.where(through, -1, gain[[0, 3]])
    gain[[1, 2]] = np.where(through, gain[[1, 2]], -1)
    gain[~soft] = -1
    choice = gain.argmax(0)
    rows = np.flatnonzero(gain.max(0) > 0)
    spot = at[choice[rows], rows]
    winner = np.where(through, ink[0], ink[1])[rows]
    less[spot] = flat[spot]
    flat[spot] = winner
    part[spot] = 255 - part[spot]


def _wide(labels: Bytes, places: Ints) -> Bools:
    """Which places lie in a square of 2 px of one ink; like `places`."""
    height, width = labels.shape
    flat = labels.ravel()
    y, x = np.divmod(places, width)
    wide = np.zeros(places.shape, bool)
    for top in (np.maximum(y - 1, 0), np.minimum(y, height - 2)):
        for left in (np.maximum(x - 1, 0), np.minimum(x, width - 2)):
            first = top * width + left
            square = [flat[first + step] == flat[places] for step in (0, 1, width, width + 1)]
            wide |= np.all(square, axis=0)
    return wide
