"""What is laid: the work of a job, and that of other jobs which lies on its sheets."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut
from sketchloom.core.picture import Point
from sketchloom.core.sheets.hosts import Lying, lying_on

__all__ = ["OF", "Design", "Guest", "Work"]

OF = "//"
"""Between the name of a guest and the key of its layer."""


class Design(NamedTuple):
    """How a design lies in its picture: from the source to mm of its page and back, and mm of a length of 1 there."""

    to_page: Callable[[Sequence[Point]], Floats]
    to_source: Callable[[Sequence[Point]], Sequence[Point]]
    scale: float


class Guest(NamedTuple):
    """The work of another job, which lies on sheets of this one where stock and colour are the same."""

    name: str
    cuts: tuple[Cut, ...]
    design: Design
    copies: int
    marks: Path | None = None
    """What each of its layers gets, to be laid by; mm."""


@dataclass(frozen=True, eq=False)
class Work:
    """What is laid.

    Layers of guests are known by ``JOB//LAYER``; of two guests of one name the
    second gets a number.

    Attributes
    ----------
    cuts : tuple of Cut
        mm; all that is sent.
    design : Design
        Brings places of hand and search to mm.
    guests : tuple of Guest
    marks : Path or None
        What each layer gets, to be laid by; mm.
    """

    cuts: tuple[Cut, ...]
    design: Design
    guests: tuple[Guest, ...] = ()
    marks: Path | None = None

    @cached_property
    def _named(self) -> dict[str, tuple[Cut, Guest]]:
        out: dict[str, tuple[Cut, Guest]] = {}
        names: list[str] = []
        for guest in self.guests:
            many = names.count(guest.name)
            names.append(guest.name)
            mark = f"{guest.name} {many + 1}" if many else guest.name
            for cut in guest.cuts:
                key, ink = mark + OF + cut.key, msgspec.structs.replace(cut.ink, key=mark + OF + cut.ink.key)
                out[key] = replace(cut, key=key, ink=ink, name=f"{cut.name} of {mark}"), guest
        return out

    @cached_property
    def every(self) -> tuple[Cut, ...]:
        """All cuts, those of guests last."""
        return (*self.cuts, *(cut for cut, _ in self._named.values()))

    @cached_property
    def lying(self) -> tuple[Lying, ...]:
        """What is drawn, scored or engraved, and the pieces of its own design that it lies on."""
        out = lying_on(self.cuts)
        for guest in self.guests:
            out += lying_on([cut for cut, of in self._named.values() if of is guest])
        return tuple(out)

    def is_own(self, layer: str) -> bool:
        """Whether a layer is of the job itself."""
        return layer not in self._named

    def waits(self, layer: str) -> bool:
        """Whether a layer is of another job that is not here now."""
        mark, of, _ = layer.rpartition(OF)
        return bool(of) and not any(cut.key.startswith(mark + OF) for cut in self.every)

    def design_of(self, layer: str) -> Design:
        """How the design that a layer is of lies in its picture."""
        return self._named[layer][1].design if layer in self._named else self.design

    def above(self, layer: str) -> tuple[Cut, ...]:
        """What lies above a layer in its own design."""
        if layer in self._named:
            own = [(cut, guest) for cut, guest in self._named.values() if guest is self._named[layer][1]]
            cuts = [cut for cut, _ in own]
        else:
            cuts = list(self.cuts)
        place = next((number for number, cut in enumerate(cuts) if cut.key == layer), len(cuts))
        return tuple(cut for cut in cuts[place + 1 :] if cut.kind == "cut")

    def marks_of(self, layer: str) -> Path | None:
        """What a layer gets, to be laid by."""
        return self._named[layer][1].marks if layer in self._named else self.marks

    def copies_of(self, layer: str, own: int) -> int:
        """How often a layer is laid; `own` is how often those of the job itself are."""
        return self._named[layer][1].copies if layer in self._named else own

    def on_page(self, layers: Sequence[str], places: Sequence[Point]) -> Floats:
        """Bring places in the pictures that layers are of to mm of their pages, (N, 2)."""
        return self._by_design(layers, places, lambda design, some: design.to_page(some))

    def in_source(self, layers: Sequence[str], points: Sequence[Point]) -> Floats:
        """Bring points of pages to places in the pictures that layers are of, (N, 2)."""
        return self._by_design(layers, points, lambda design, some: np.array(design.to_source(some)))

    def _by_design(
        self, layers: Sequence[str], points: Sequence[Point], bring: Callable[[Design, Sequence[Point]], Floats]
    ) -> Floats:
        out = np.zeros((len(points), 2))
        designs = [self.design_of(layer) for layer in layers]
        for design in dict.fromkeys(designs):
            own = [place for place, one in enumerate(designs) if one is design]
            out[own] = bring(design, [points[place] for place in own])
        return out
