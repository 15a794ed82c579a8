"""Limits: from where on something is a finding."""

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect.finding import Severity
from sketchloom.core.layers import AnyMend
from sketchloom.core.layers.mends import check_mends
from sketchloom.core.picture import Point
from sketchloom.core.stock import Stock

__all__ = ["KINDS", "Aside", "CheckSettings", "KindOf", "check_checks", "limits_for"]


class KindOf(NamedTuple):
    """What there is to say of a kind of finding."""

    severity: Severity
    title: str
    limit: float
    unit: str
    what: str
    """What its limit is of; empty where there is none to set."""
    most: bool = False
    """Whether its limit is the most that may be, and not the least."""


KINDS: dict[str, KindOf] = {
    "neck": KindOf("spoils", "Too narrow", 0.8, "mm", "Narrowest material"),
    "island": KindOf("spoils", "Falls out", 0.0, "", ""),
    "cut-twice": KindOf("spoils", "Cut twice", 0.1, "mm", "Edges apart"),
    "open": KindOf("spoils", "Does not close", 0.01, "mm", "Ends apart", most=True),
    "crossing": KindOf("spoils", "Outlines cross", 0.0, "", ""),
    "stock-rule": KindOf("spoils", "Against the stock", 0.0, "", ""),
    "gap": KindOf("look", "Gap too narrow", 0.4, "mm", "Narrowest gap or window"),
    "small": KindOf("look", "Small piece", 1.5, "mm", "Smallest piece, across"),
    "sliver": KindOf("look", "Sliver", 0.4, "mm", "Slivers, wide on average"),
    "loose": KindOf("look", "Placed by hand", 0.0, "pieces", "", most=True),
    "hidden-window": KindOf("look", "Hidden window", 1.0, "mm2", "Hidden windows", most=True),
    "double-line": KindOf("look", "Double line", 1.5, "mm", "Widest double line"),
    "many-objects": KindOf("look", "Many objects", 1.0, "objects", "", most=True),
    "sharp": KindOf("look", "Sharp notch", 15.0, "deg", "Sharpest notch"),
    "nodes": KindOf("look", "Too many nodes", 2.0, "times", "Nodes, times what is needed", most=True),
    "fine": KindOf("look", "Finer than the picture", 2.0, "px", "Finest detail"),
    "deviation": KindOf("look", "Off the picture", 0.3, "mm", "Curves off the picture", most=True),
    "like-inks": KindOf("look", "Colours alike", 8.0, "dE", "Colours apart (CIEDE2000)"),
}
"""Kinds of finding, with our own defaults for plain adhesive vinyl; worst first."""

_LARGEST = 1000.0
_MOST_ASIDE = 5000
_LONGEST_WORD = 200
_SAME_PLACE = 0.5
"""mm"""
_SAME_MEASURE = 0.05


class Aside(msgspec.Struct, frozen=True):
    """A finding that is left so."""

    kind: str
    layer: str
    at: Point
    """Source coordinates."""
    measure: float
    word: str = ""
    """Why."""

    def holds(self, kind: str, layer: str, apart: float, measure: float) -> bool:
        """Whether it is about a finding whose place is `apart` mm away, and which has become no worse."""
        return (
            kind == self.kind and layer == self.layer and apart <= _SAME_PLACE
            and is_no_worse(kind, measure, self.measure)
        )  # fmt: skip


def is_no_worse(kind: str, measure: float, old: float) -> bool:
    """Whether a finding of a kind is no farther beyond its limit than an old one, but for rounding."""
    slack = _SAME_MEASURE * max(abs(old), 1e-3)
    return measure <= old + slack if KINDS[kind].most else measure >= old - slack


class CheckSettings(msgspec.Struct, frozen=True):
    """What is checked, what is left so, and what was mended."""

    limits: tuple[tuple[str, float], ...] = ()
    """Kinds whose limit is another for this job; of two for one kind the last counts."""
    aside: tuple[Aside, ...] = ()
    mends: tuple[AnyMend, ...] = ()


def limits_for(
    stock: Stock | None, changed: Sequence[tuple[str, float]] = (), kerf: float = 0.0
) -> Mapping[str, float]:
    """Limits for a layer: our own defaults, those of its stock, and those of the job; never less than the kerf eats."""
    out = {kind: about.limit for kind, about in KINDS.items()}
    if stock is not None:
        out |= {"neck": stock.least_piece, "gap": stock.least_gap}
    out |= dict(changed)
    return out | {kind: max(out[kind], kerf) for kind in ("neck", "gap")}


def check_checks(settings: CheckSettings) -> None:
    """Refuse limits, places and mends that cannot be; raises ArgumentError."""
    for kind, limit in settings.limits:
        check_limit(kind, limit)
    if len(settings.aside) > _MOST_ASIDE:
        raise ArgumentError(f"{len(settings.aside)} findings left so are too many; at most {_MOST_ASIDE} can be kept.")
    for aside in settings.aside:
        if aside.kind not in KINDS or not all(map(math.isfinite, (*aside.at, aside.measure))):
            raise ArgumentError("A finding that is left so has no place that can be used; take it back.")
        if len(aside.word) > _LONGEST_WORD:
            raise ArgumentError(f"A word on why a finding is left so has at most {_LONGEST_WORD} letters.")
    check_mends(settings.mends)


def check_limit(kind: str, limit: float) -> None:
    """Refuse a limit that cannot be; raises ArgumentError."""
    if kind not in KINDS:
        raise ArgumentError(f"“{kind[:30]}” is no kind of finding; there are {', '.join(KINDS)}.")
    if not (isinstance(limit, int | float) and math.isfinite(limit) and 0 <= limit <= _LARGEST):
        raise ArgumentError(f"A limit of {limit!r} for “{kind}” cannot be used; type 0 to {_LARGEST:g}.")
