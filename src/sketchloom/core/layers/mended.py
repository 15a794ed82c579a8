"""Layers after their mends: only the pieces that a mend touches are made anew."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Any, NamedTuple

import shapely

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, refitted_together, solid
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.layers.live import TOUCH, Live
from sketchloom.core.layers.mends import Mend, OnPage
from sketchloom.core.layers.rules import origin_of
from sketchloom.core.layers.stack import LayerStack

__all__ = ["Beside", "Mended", "OnPage", "mend_cuts", "mend_stack"]

_BESIDE = 1e-3
"""mm2 that a flush neighbour loses or gains, at least."""
_SHARED = 0.1
"""mm of outline that what is given to a neighbour shares with it, at least."""


@dataclass(frozen=True, eq=False)
class Mended:
    """Layers after their mends.

    Attributes
    ----------
    stack : LayerStack
    unplaced : tuple of int
        Mends that found nothing to change.
    """

    stack: LayerStack
    unplaced: tuple[int, ...] = ()


class Beside(NamedTuple):
    """What a mend of one layer carries to others.

    Attributes
    ----------
    bearers : mapping of str to tuple of str
        Layers that must bear what a layer gains: those below it that it is carried on.
    flush : frozenset of str
        Layers that lie beside each other and share their edges.
    """

    bearers: Mapping[str, tuple[str, ...]] = MappingProxyType({})
    flush: frozenset[str] = frozenset()


def mend_stack(stack: LayerStack, mends: Sequence[Mend], on_page: OnPage, beside: Beside) -> Mended:
    """Mend the layers of a stack; the page is fitted to what comes of it.

    Raises
    ------
    NothingToCutError
        If nothing is left.
    """
    changed, unplaced = mend_cuts(stack.layers, mends, on_page, beside)
    if not changed:
        return Mended(stack, unplaced)
    layers = tuple(
        replace(layer.with_path(changed[layer.key]), exact=False) if layer.key in changed else layer
        for layer in stack.layers
    )
    kept = tuple(layer for layer in layers if layer.path.contours)
    if not kept:
        raise NothingToCutError("Nothing is left to cut: every piece was taken away in Check; take a mend back.")
    return Mended(replace(stack, layers=kept, shown=tuple(layer.path for layer in kept)).fitted(), unplaced)


def mend_cuts(
    cuts: Sequence[Cut], mends: Sequence[Mend], on_page: OnPage, beside: Beside
) -> tuple[dict[str, Path], tuple[int, ...]]:
    """Mend cuts; gives the paths that changed, and which mends found nothing to change.

    Parameters
    ----------
    cuts : sequence of Cut
    mends : sequence of Mend
    on_page : callable
    beside : Beside
        What a mend of one carries to others.
    """
    mending = _Mending(cuts, on_page, beside)
    unplaced = tuple(number for number, mend in enumerate(mends) if not mending.do(mend))
    return mending.paths(), unplaced


class _Mending:
    """Cuts while they are mended."""

    def __init__(self, cuts: Sequence[Cut], on_page: OnPage, beside: Beside) -> None:
        self._cuts = {cut.key: cut for cut in cuts}
        self._on_page, self._beside = on_page, beside
        self._live: dict[str, Live] = {}

    def do(self, mend: Mend) -> bool:
        """Do one mend on its layer and that one's copies, and carry it; tells whether it found its place."""
        done = False
        for key in self.all_of(mend.layer):
            layer = self._layer(key)
            layer.change()  # what was carried to it before is not carried on
            if not mend.do(layer, self._on_page, self):
                continue
            done = True
            change = layer.change()
            for below in self._beside.bearers.get(key, ()):
                if below in self._cuts and not change.added.is_empty:
                    self._layer(below).add(change.added)
            if key == mend.layer and key in self._beside.flush:
                self._carry(key, solid(change.gained), change.lost if mend.shares_out else None)
        return done

    def paths(self) -> dict[str, Path]:
        """The paths that changed; what layers share is fitted once."""
        changed = [(key, live) for key, live in self._live.items() if live.changed]
        asked = [live.requests(number, key in self._beside.flush) for number, (key, live) in enumerate(changed)]
        made = iter(refitted_together([one for requests in asked for one in requests]))
        return {
            key: live.path([next(made) for _ in requests]) for (key, live), requests in zip(changed, asked, strict=True)
        }

    def with_copies(self, key: str) -> list[Live]:
        """A layer and its copies."""
        return [self._layer(one) for one in self.all_of(key)]

    def flush_with(self, key: str) -> list[Live]:
        """Layers that lie flush beside one."""
        flush = self._beside.flush
        return [self._layer(other) for other in sorted(flush - {key}) if other in self._cuts] if key in flush else []

    def _layer(self, key: str) -> Live:
        if key not in self._live:
            self._live[key] = Live(self._cuts[key])
        return self._live[key]

    def all_of(self, key: str) -> list[str]:
        """A layer and its copies."""
        return [one for one in self._cuts if one == key or ("+" in one and origin_of(one) == key)]

    def _carry(self, key: str, gained: Any, lost: Any) -> None:
        """Take from flush neighbours what a layer gained, and give them what it lost, so that they share an edge."""
        region = gained if lost is None else shapely.union_all([gained, lost])
        if region.is_empty:
            return
        region = region.buffer(TOUCH)
        others = [other for other in sorted(self._beside.flush) if other != key and other in self._cuts]
        near = {other: self._layer(other) for other in others if self._layer(other).touches(region)}
        for other in near:
            for one in self.all_of(other) if not gained.is_empty else ():
                self._layer(one).cut(gained, _BESIDE)
        for part in shapely.get_parts(solid(lost)) if lost is not None else ():
            shared = {other: layer.shared_with(part) for other, layer in near.items()} if part.area > _BESIDE else {}
            best = max(shared, key=lambda other: (shared[other], other), default="")
            if best and shared[best] > _SHARED:
                for one in self.all_of(best):
                    self._layer(one).receive(part, self._layer(key))
        for other in near:  # they get a corner where an edge that they share was cut
            for one in self.all_of(other):
                self._layer(one).fit_beside(region)
