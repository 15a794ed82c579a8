"""Balls between the edges of an outline: how thick the material is, and how wide the ground, at each step of it."""

import hashlib
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, near_pairs, ranges
from sketchloom.core.inspect.recall import Recall
from sketchloom.core.inspect.steps import Steps

__all__ = ["Balls", "Side", "Tiled", "balls_of", "tiled"]

Side = Literal["inside", "outside"]

_TILE = 12.0
"""mm, or as many reaches if those are longer."""
_MOST_TILES = 1000
"""Along a side."""
_REACHES = 6.0
_ROOM = 1.15
"""Times the widest ball; where none so large touches anything, no ball is smaller."""
_ASIDE = 0.26
"""Sine of the least angle between an edge and what a ball touches beside it; less is the edge's own waviness."""
_CHUNK = 40_000
_TURNS = np.array([8.0, 3.0, 1.0])
"""By what the widest ball is parted, turn after turn: what a small one tells needs no look farther."""


class Balls(NamedTuple):
    """The ball on one side of each step that touches the outline elsewhere.

    Attributes
    ----------
    width : (N,) float
        Its diameter, mm; infinite where that is more than what was asked for.
    touch : (N, 2) float
        Where it touches the outline again.
    partner : (N,) int
        The step that it touches there, -1 where there is none.
    facing : (N,) float
        Cosine of the angle between the normal and the way to that place: 1
        where two edges run side by side.
    """

    width: Floats
    touch: Floats
    partner: Ints
    facing: Floats


class _Found(NamedTuple):
    """Results of one tile; partners by their place among the steps in and round it."""

    width: Floats
    touch: Floats
    partner: Ints
    facing: Floats


class Tiled(NamedTuple):
    """Steps by tiles of the plane, each tile known by what lies in and round it."""

    steps: Steps
    tiles: "_Tiles"
    digests: tuple[bytes, ...]


def tiled(steps: Steps, widest: float) -> Tiled:
    """Sort steps into tiles, so that balls of up to a width, mm, hang on the steps in and round one tile only."""
    tiles = _tiles(steps.at, _ROOM * widest + steps.longest)
    content = np.ascontiguousarray(np.column_stack([steps.at, steps.along, steps.half])[tiles.around])
    turned = (steps.along[:, 0] * steps.normal[:, 1] - steps.along[:, 1] * steps.normal[:, 0]) > 0
    marks = np.ascontiguousarray(
        np.column_stack([steps.bend[tiles.around], tiles.inside.astype(np.int8), turned[tiles.around].astype(np.int8)])
    )
    digests = []
    for low, high in pairwise(tiles.first.tolist()):
        digest = hashlib.blake2b(content[low:high].data, digest_size=16)
        digest.update(marks[low:high].data)
        digests.append(digest.digest())
    return Tiled(steps, tiles, tuple(digests))


def balls_of(laid: Tiled, widest: float, side: Side, recall: Recall) -> Balls:
    """Find the ball of each step, by tiles; a tile in and round which nothing changed is not worked out again.

    The ball that touches an outline at p with normal n and at q has the radius
    |q - p|^2 / (2 n (q - p)); the smallest over all q is the medial ball of p
    [1]_. Here q runs over straight steps, and is exact on each.

    Parameters
    ----------
    laid : Tiled
    widest : float
        mm; wider balls are not looked for. No more than the tiles are made for.
    side : {'inside', 'outside'}
    recall : Recall

    References
    ----------
    .. [1] J. Ma, S. W. Bae, S. Choi, "3D medial axis point approximation using
       nearest neighbors and the normal field", The Visual Computer, 2012.
    """
    steps, tiles = laid.steps, laid.tiles
    count = len(steps.at)
    out = Balls(np.full(count, np.inf), np.zeros((count, 2)), np.full(count, -1), np.zeros(count))
    if not count:
        return out
    keys = [("balls", side, widest, digest) for digest in laid.digests]
    known = [recall.get(key) for key in keys]
    fresh = [number for number, value in enumerate(known) if value is None]
    if fresh:
        for number, value in zip(fresh, _work_out(steps, widest, side, tiles, np.array(fresh)), strict=True):
            known[number] = value
            recall.put(keys[number], value)
    own = tiles.around[tiles.inside]
    out.width[own] = np.concatenate([value.width for value in known])
    out.touch[own] = np.concatenate([value.touch for value in known])
    out.facing[own] = np.concatenate([value.facing for value in known])
    local = np.concatenate([value.partner for value in known])
    begin = np.repeat(tiles.first[:-1], [len(value.partner) for value in known])
    out.partner[own] = np.where(local >= 0, tiles.around[begin + np.maximum(local, 0)], -1)
    return out


class _Tiles(NamedTuple):
    """Steps by tiles of the plane: those in each and those within reach of it."""

    around: Ints
    inside: Bools
    first: Ints

    def own(self, tile: int) -> Bools:
        """Which of the steps round a tile lie in it."""
        own: Bools = self.inside[self.first[tile] : self.first[tile + 1]]
        return own


def _tiles(at: Floats, reach: float) -> _Tiles:
    """Every step belongs to one tile, and to those that it lies within reach of; tiles that hold none are left out."""
    size = max(_TILE, _REACHES * reach, float(np.ptp(at, axis=0).max()) / _MOST_TILES if len(at) else 0.0)
    cell = np.floor(at / size).astype(np.int64)
    low, high = np.floor((at - reach) / size).astype(np.int64), np.floor((at + reach) / size).astype(np.int64)
    begin = low.min(0, initial=0)
    across = int(high[:, 1].max(initial=0)) - int(begin[1]) + 1
    count = max(len(at), 1)
    entries = []
    for shift in np.array([(0, 0), (0, 1), (1, 0), (1, 1)]):
        there = low + shift
        some = np.flatnonzero((there <= high).all(1))
        entries.append(((there[some, 0] - begin[0]) * across + there[some, 1] - begin[1]) * count + some)
    entry = np.sort(np.concatenate(entries))
    code, around = np.divmod(entry, count)
    own = code == ((cell[:, 0] - begin[0]) * across + cell[:, 1] - begin[1])[around]
    first = np.flatnonzero(np.append(True, code[1:] != code[:-1]))[: len(code)]
    counts = np.add.reduceat(own.astype(np.int64), first) if len(first) else first
    size_of = np.diff(np.append(first, len(code)))
    index_kept, _ = ranges(first[counts > 0], size_of[counts > 0])
    return _Tiles(around[index_kept], own[index_kept], np.append(0, np.cumsum(size_of[counts > 0])))


def _work_out(steps: Steps, widest: float, side: Side, tiles: _Tiles, fresh: Ints) -> list[_Found]:
    """Work out the balls of some tiles, all at once."""
    count = np.diff(tiles.first)[fresh]
    entries, _ = ranges(tiles.first[fresh], count)
    around, inside = np.zeros(len(steps.at), bool), np.zeros(len(steps.at), bool)
    around[tiles.around[entries]] = True
    inside[tiles.around[entries][tiles.inside[entries]]] = True
    balls = _balls(steps, widest, side, np.flatnonzero(around), np.flatnonzero(inside))
    out = []
    for number in fresh.tolist():
        around = tiles.around[tiles.first[number] : tiles.first[number + 1]]
        mine = around[tiles.own(number)]
        partner = balls.partner[mine]
        local = np.searchsorted(around, partner)
        out.append(_Found(balls.width[mine], balls.touch[mine], np.where(partner >= 0, local, -1), balls.facing[mine]))
    return out


def _balls(steps: Steps, widest: float, side: Side, near: Ints, own: Ints) -> Balls:
    """Balls of some steps, among those near them."""
    count = len(steps.at)
    out = Balls(np.full(count, np.inf), np.zeros((count, 2)), np.full(count, -1), np.zeros(count))
    sign = 1.0 if side == "inside" else -1.0
    able = own[(steps.bend[own] == 0) | (steps.bend[own] == sign)]
    for up_to in widest / _TURNS:
        if up_to < min(steps.longest, widest):  # steps so long are all near each other
            continue
        able = able[np.isinf(out.width[able])]
        room = _ROOM * up_to / 2
        centres = steps.at[able] + sign * room * steps.normal[able]
        thin = able[np.unique(near_pairs(centres, steps.at[near], room * (1 - 1e-7))[0])]
        centres = steps.at[thin] + sign * up_to / 2 * steps.normal[thin]  # what a smaller ball touches lies in this one
        reach = (up_to + steps.longest) / 2 * (1 + 1e-9)
        for low in range(0, len(thin), _CHUNK):
            some = thin[low : low + _CHUNK]
            here, there = near_pairs(centres[low : low + _CHUNK], steps.at[near], reach)
            _smallest(steps, sign, some[here], near[there], up_to, out)
    return out


def _smallest(steps: Steps, sign: float, p: Ints, q: Ints, widest: float, out: Balls) -> None:
    """Take the smallest ball of each step `p` over the steps `q` beside it."""
    at_x, at_y = np.ascontiguousarray(steps.at.T)
    normal_x, normal_y = np.ascontiguousarray(steps.normal.T)
    along_x, along_y = np.ascontiguousarray(steps.along.T)
    nx, ny, to_x, to_y = sign * normal_x[p], sign * normal_y[p], at_x[q] - at_x[p], at_y[q] - at_y[p]
    half = steps.half[q]
    some = np.flatnonzero(nx * to_x + ny * to_y > -half)
    p, q = p[some], q[some]
    nx, ny, to_x, to_y, half = (part[some] for part in (nx, ny, to_x, to_y, half))
    mx, my = normal_x[q], normal_y[q]
    beside = -(to_x * mx + to_y * my)
    turn = np.where(beside < 0, -1.0, 1.0)
    mx, my = turn * mx, turn * my
    ux, uy = along_x[q], along_y[q]
    with np.errstate(divide="ignore", invalid="ignore"):
        radius = np.abs(beside) / (1 - (nx * mx + ny * my))
        foot_x, foot_y = radius * (nx - mx) - to_x, radius * (ny - my) - to_y
        along = np.nan_to_num(foot_x * ux + foot_y * uy, nan=0.0, posinf=0.0, neginf=0.0)
    along = np.clip(along, -half, half)
    way_x, way_y = to_x + along * ux, to_y + along * uy
    far2 = way_x * way_x + way_y * way_y
    ahead = nx * way_x + ny * way_y
    far = np.sqrt(far2)
    good = (far > 1e-7) & (ahead > _ASIDE * far)
    from_here = (far <= 1e-7) & (half > 0)  # an edge that leaves from the very place leaves no room before it
    from_here &= nx * to_x + ny * to_y > _ASIDE * np.hypot(to_x, to_y)
    with np.errstate(divide="ignore", invalid="ignore"):
        width = np.where(good, far2 / ahead, np.where(from_here, 0.0, np.inf))
    keep = np.flatnonzero(width < widest)
    order = keep[np.lexsort((q[keep], width[keep], p[keep]))]
    own = p[order]
    best = order[np.append(True, own[1:] != own[:-1])[: len(own)]]
    where = p[best]
    out.width[where], out.partner[where] = width[best], q[best]
    out.touch[where, 0], out.touch[where, 1] = at_x[where] + way_x[best], at_y[where] + way_y[best]
    out.facing[where] = np.where(good[best], ahead[best] / np.where(good[best], far[best], 1.0), 0.0)
