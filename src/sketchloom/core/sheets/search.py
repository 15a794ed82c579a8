"""A tighter layout: other orders and turns tried for as long as is given, and the best kept.

Orders are changed a little at a time and a change that does no harm is kept,
as in Burke, Hellier, Kendall & Whitwell 2006, "A new bottom-left-fill
heuristic algorithm for the two-dimensional irregular packing problem",
Operations Research 54; for rolls a strip packer is asked too.
"""

import time
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.sheets.bodies import items_of
from sketchloom.core.sheets.by_hand import Where, placed
from sketchloom.core.sheets.filling import Filled, Filling
from sketchloom.core.sheets.groups import groups_of
from sketchloom.core.sheets.lay import best_filling
from sketchloom.core.sheets.layout import Group
from sketchloom.core.sheets.parts import Item
from sketchloom.core.sheets.settings import Placement, SheetSettings
from sketchloom.core.sheets.strip import packed_strip
from sketchloom.core.sheets.work import Work

__all__ = ["Gain", "Tighter", "tighter"]

_SEED = 26
_STRIP = 0.6
"""Share of the time that a strip packer has, where it can help."""
_ANEW, _SPREAD = 0.5, 0.2
"""How often an order is drawn anew, and how far from largest first: the spread of the logarithm of sizes."""
_WORTH = 0.05
"""mm; less is no gain."""


class Gain(NamedTuple):
    """What a search saves of one stock."""

    group: Group
    sheets: int
    length: float  # mm of the last sheet, where the number of sheets stays


class Tighter(NamedTuple):
    """What a search came to."""

    placements: tuple[Placement, ...]  # those of a hand as they were, and all that was laid better
    gains: tuple[Gain, ...]
    tried: int


def tighter(work: Work, settings: SheetSettings, seconds: float, tick: Tick = no_tick) -> Tighter:
    """Search on from the quick way for so many seconds, shared among the stocks of which there are several pieces.

    It goes by the clock, so another run may find another layout; what it gives
    goes into the recipe, and the job is the same from then on. Stocks on which
    a hand or a search laid something already are left as they are.
    """
    laid = {one.group for one in settings.placements}
    groups = [group for group in groups_of(work, settings) if group.key not in laid]
    tried_on = [(group, items) for group in groups if len(items := items_of(group, settings, work)) > 1]
    out, gains, tried = list(settings.placements), list[Gain](), 0
    for place, (group, items) in enumerate(tried_on):

        def own_tick(done: float, place: int = place) -> None:
            tick((place + done) / len(tried_on))

        filling = Filling(group, settings, items)
        first = best_filling(filling, items, ())
        best, many = _search(filling, items, first, seconds / len(tried_on), own_tick)
        tried += many
        if best is not first:
            fewer = first.used[0] - best.used[0]
            gains.append(Gain(group, fewer, 0.0 if fewer else first.used[1] - best.used[1]))
            where = [
                Where(one.item, sheet, one.spot.x + group.room[0], one.spot.y + group.room[1], one.turn)
                for sheet, board in enumerate(best.boards)
                for one in board
            ]
            out += placed(group, where, work)
    return Tighter(tuple(out), tuple(gains), tried)


def _search(filling: Filling, items: Sequence[Item], first: Filled, seconds: float, tick: Tick) -> tuple[Filled, int]:
    begun = time.monotonic()
    best, tried = first, 0
    if filling.group.roll:
        strip = packed_strip(filling, items, seconds * _STRIP)
        tried += 1
        if strip is not None and _better(strip, best):
            best = strip
    rng = np.random.default_rng(_SEED)
    sizes = _sizes(items)
    order, kept = list[int](), first
    while (gone := time.monotonic() - begun) < seconds:
        tick(gone / seconds)
        anew = not order or rng.random() < _ANEW
        tries = _anew(sizes[tried % len(sizes)], rng) if anew else _changed(order, rng)
        found = filling.fill([items[place] for place in tries], tick=lambda done: tick(min(1.0, gone / seconds)))
        tried += 1
        if not order or _better(found, kept) or (not anew and not _better(kept, found)):
            order, kept = tries, found
        if _better(found, best):
            best = found
    return best, tried


def _sizes(items: Sequence[Item]) -> tuple[Floats, ...]:
    """What makes an item large: its area, the square of its longest side, and both."""
    area = np.array([item.body.area for item in items])
    boxes = np.array([item.body.bounds(0.0, False) for item in items])
    side = (boxes[:, 2:] - boxes[:, :2]).max(1) ** 2
    return area, side, area + side


def _anew(size: Floats, rng: np.random.Generator) -> list[int]:
    """Largest first, more or less."""
    order: list[int] = np.argsort(-size * np.exp(_SPREAD * rng.normal(size=len(size))), kind="stable").tolist()
    return order


def _better(one: Filled, other: Filled) -> bool:
    return (one.used[0], one.used[1] + _WORTH) < other.used


def _changed(order: Sequence[int], rng: np.random.Generator) -> list[int]:
    """Swap two pieces, or bring one forward; one to three times."""
    out = list(order)
    for _ in range(int(rng.integers(1, 4))):
        one, other = (int(place) for place in rng.integers(0, len(out), 2))
        if rng.random() < 0.5:
            out[one], out[other] = out[other], out[one]
        else:
            out.insert(min(one, other), out.pop(max(one, other)))
    return out
