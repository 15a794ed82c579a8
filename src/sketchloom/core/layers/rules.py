"""How layers are built and ordered: a way for the whole stack, and rules of single layers."""

from typing import Any, Literal

import msgspec

from sketchloom.core.cut import CornerStyle, CutKind
from sketchloom.core.palette import Colour
from sketchloom.core.picture import Point
from sketchloom.core.stock import Stock

__all__ = [
    "BASE",
    "CLEAR",
    "SHEET",
    "Build",
    "Edge",
    "Hole",
    "Join",
    "LayerPart",
    "LayerRule",
    "LayerSettings",
    "OrderWeights",
    "Pin",
    "Way",
    "Window",
    "origin_of",
    "part_key",
]

Build = Literal["flush", "carried", "backed", "single", "stencil"]
Way = Literal["flush", "carried"]
Edge = Literal["both", "outer", "inner", "centre"]
Pin = Literal["", "bottom", "top"]

BASE, SHEET, CLEAR = "base", "sheet", "clear"
"""Keys of the layers that are of no ink: the solid base, a single or stencil's sheet, and enclosed ground."""


class Join(msgspec.Struct, frozen=True):
    """Two open ends of centre lines that a curve joins; source coordinates."""

    ink: str
    """Key."""
    first: Point
    last: Point


class Hole(msgspec.Struct, frozen=True):
    """Enclosed ground at a place, which is filled or kept whatever holds for the rest."""

    at: Point
    """Source coordinates."""
    filled: bool


class Window(msgspec.Struct, frozen=True):
    """A detail that is cut away to show a layer below, instead of being laid on top."""

    ink: str
    """Key of the ink that the detail has in the picture."""
    at: Point
    """A place inside it; source coordinates."""
    show: str
    """Key of the layer that is seen there."""


class LayerPart(msgspec.Struct, frozen=True):
    """A part of a layer that is made a layer of its own, just above what is left."""

    layer: str
    """Key of the layer that it is taken from."""
    name: str
    """What it is known by within that layer; no two parts of one share it."""
    places: tuple[Point, ...] = ()
    """Inside the pieces that it takes; source coordinates."""
    line: tuple[Point, ...] = ()
    """Or: it takes what lies on the left hand of this line, whose ends run on; source coordinates."""


class LayerRule(msgspec.Struct, frozen=True):
    """What holds for one layer."""

    ink: str
    """Key of the layer: that of its ink, or of a layer that is of none."""
    build: Way | None = None
    """None goes the stack's way."""
    centre_line: bool = False
    """Whether the centre lines of its strokes are wanted too."""
    edge: Edge = "both"
    """Where a line round something is cut, which has two edges."""
    name: str = ""
    """Empty for that of its ink."""
    stock: Stock | None = None
    """None for that of the stack."""
    hidden: bool = False
    """A hidden layer is not sent; what lies below it stays as it is."""
    locked: bool = False
    """A locked layer is not changed by hand."""
    pin: Pin = ""
    """Where the best order leaves it."""
    above: tuple[str, ...] = ()
    """Keys of layers that it lies above in the best order."""
    islands: bool = False
    """Whether parts of it that hold nothing of its ink stay."""
    fill_ground: bool | None = None
    """Whether its enclosed ground is filled; None for what holds for the stack."""
    copies: int = 0
    """That are cut of it besides: of a base they stiffen it."""
    into: str = ""
    """Key of the layer that it is laid together with, as one."""
    kind: CutKind = "cut"
    """Cut out, or drawn, scored or engraved on what it lies on."""


class OrderWeights(msgspec.Struct, frozen=True):
    """What the order of layers costs."""

    loose: float = 1.0
    """Of a piece that is placed by hand."""
    cut: float = 1.0
    """Of a metre of cut."""
    area: float = 1.0
    """Of a square decimetre of material."""


class LayerSettings(msgspec.Struct, frozen=True):
    """How layers are built from faces, and their order."""

    build: Build = "flush"
    order: tuple[str, ...] = ()
    """Keys of layers, bottom first; those that are not named lie below, largest first."""
    rules: tuple[LayerRule, ...] = ()
    """Layers that differ from the stack; one rule a layer."""
    joins: tuple[Join, ...] = ()
    """Open ends of centre lines to join."""
    best: bool = False
    """Whether the best order is taken, whatever `order` says."""
    weights: OrderWeights = OrderWeights()
    overlap: float | Literal["auto"] = 0.0
    """mm that a flush layer runs on under its upper neighbours; ``auto`` takes what hides the slip."""
    slip: float = 0.0
    """mm that hands may lay a layer off; 0 asks for no slip to be worked out."""
    rim: float = 0.0
    """mm by which the base is grown, or a single sheet."""
    corners: CornerStyle = "round"
    """Of a rim."""
    rim_gap: float = 0.0
    """mm by which each piece on a base is drawn in, so that an even line of the base shows round it."""
    margin: float = 15.0
    """mm of sheet round what a stencil cuts away."""
    fill_ground: bool = False
    """Whether enclosed ground is filled."""
    holes: tuple[Hole, ...] = ()
    """Enclosed ground that differs; of two at one place the last counts."""
    clear: bool = False
    """Whether enclosed ground is a layer of its own, of white or clear stock."""
    base_colour: Colour | None = None
    """Of the base; None takes white or black, whichever stands out."""
    windows: tuple[Window, ...] = ()
    parts: tuple[LayerPart, ...] = ()
    fill_windows: bool = False
    """Whether windows that an upper layer hides are not cut."""
    thin_bulk: bool = False
    """Whether what lies under three or more layers is cut away."""
    stock: Stock | None = None
    """Of all layers that have none of their own."""

    def rule(self, key: str) -> LayerRule:
        """Give the rule of a layer."""
        return next((rule for rule in self.rules if rule.ink == key), LayerRule(key))

    def with_rule(self, key: str, **changes: Any) -> tuple[LayerRule, ...]:
        """Give the rules with that of one layer changed; one that says nothing is left out."""
        new = msgspec.structs.replace(self.rule(key), **changes)
        kept = [new if rule.ink == key else rule for rule in self.rules]
        kept += [] if new in kept else [new]
        return tuple(rule for rule in kept if rule != LayerRule(rule.ink))

    def way(self, key: str) -> Way:
        """How the layer of an ink is built; a backed stack is flush on its base."""
        return self.rule(key).build or ("carried" if self.build == "carried" else "flush")

    def fills(self, key: str) -> bool:
        """Whether a layer's enclosed ground is filled."""
        own = self.rule(key).fill_ground
        return self.fill_ground if own is None else own

    def stock_of(self, key: str) -> Stock | None:
        """What a layer is cut from: a part or a copy from what the layer is that it was taken from."""
        while True:
            own = self.rule(key).stock
            if own is not None or origin_of(key) == key:
                return own or self.stock
            key = origin_of(key)

    def kind_of(self, key: str) -> CutKind:
        """What is done with a layer; a part or a copy goes the way of what it is of."""
        while self.rule(key).kind == "cut" and origin_of(key) != key:
            key = origin_of(key)
        return self.rule(key).kind if key not in (BASE, SHEET) else "cut"

    def root(self, key: str) -> str:
        """Key of the layer that an ink's pieces belong to, laid together or not."""
        seen = [key]
        while (into := self.rule(seen[-1]).into) and into not in seen:
            seen.append(into)
        return seen[-1]

    @property
    def has_base(self) -> bool:
        """Whether a solid base lies below: always of a backed stack, and wherever a rim is asked for."""
        return self.build == "backed" or (self.build in ("flush", "carried") and self.rim > 0)

    @property
    def centre_lines(self) -> tuple[str, ...]:
        """Keys of the inks whose centre lines are wanted, in the order in which they were chosen."""
        return tuple(rule.ink for rule in self.rules if rule.centre_line)

    @property
    def edges(self) -> dict[str, Edge]:
        """Where the lines of inks are cut, by key; those that are cut along both edges left out."""
        return {rule.ink: rule.edge for rule in self.rules if rule.edge != "both"}


def part_key(part: LayerPart) -> str:
    """Key of a part's layer."""
    return f"{part.layer}/{part.name}"


def origin_of(key: str) -> str:
    """Key of the layer that a copy is of, or a part was taken from; any other key itself."""
    whole, mark, _ = key.rpartition("+")
    if not mark:
        whole, mark, _ = key.rpartition("/")
    return whole if mark else key
