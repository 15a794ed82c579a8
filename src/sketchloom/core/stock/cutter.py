"""Cutters: how large they cut, how fast, with what, and what must not be cut on them."""

import math
from typing import Literal, get_args

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.stock.shelves import ShelfKind
from sketchloom.core.stock.stock import StockKind

__all__ = [
    "CUTTERS",
    "CUTTER_KINDS",
    "MACHINES",
    "PLAIN_KNIFE",
    "Cutter",
    "CutterKind",
    "check_cutter",
    "find_cutter",
    "refusal",
]

CutterKind = Literal["knife", "roll knife", "laser", "router", "pen"]
CUTTER_KINDS: tuple[CutterKind, ...] = get_args(CutterKind)

_LONGEST_NAME = 40
_LONGEST = 100_000.0
"""mm"""
_CHLORINE: tuple[StockKind, ...] = ("adhesive vinyl", "heat-transfer film", "glitter film")
_SOFT: tuple[StockKind, ...] = ("adhesive vinyl", "heat-transfer film", "glitter film", "paper", "fabric")
_HARD: tuple[StockKind, ...] = ("wood", "acrylic")
_INCH = 25.4


class Cutter(msgspec.Struct, frozen=True):
    """One machine. A recipe holds all of it, so that a job is the same on every machine."""

    name: str
    kind: CutterKind = "knife"
    width: float = 12 * _INCH
    """mm, of its mat or bed."""
    height: float | None = 12 * _INCH
    """mm; None where it takes a roll."""
    usable_width: float = 11.5 * _INCH
    """mm that can be cut, in the middle of the width."""
    usable_height: float | None = 11.5 * _INCH
    tool: float = 0.0
    """Diameter of the tool, or the kerf, mm; 0 for a blade that takes nothing away."""
    blade_offset: float = 0.0
    """How far the point of a blade that swivels trails its axis, mm."""
    overcut: float = 0.0
    """mm"""
    speed: float = 50.0
    """mm/s"""
    acceleration: float = 1000.0
    """mm/s2"""
    depth: float = 0.0
    """mm that one pass goes deep; 0 where one pass does."""
    never: tuple[StockKind, ...] = ()
    """Kinds of stock that must not be cut on it."""


PLAIN_KNIFE = Cutter("Plain knife", "knife", _LONGEST, None, _LONGEST, None)
"""Stands in where no cutter is chosen; it is as large as any stock."""

CUTTERS: tuple[Cutter, ...] = (
    Cutter("Knife cutter, 12 × 12 in mat", "knife", blade_offset=0.25, never=_HARD),
    Cutter(
        "Knife cutter, 12 × 24 in mat", "knife", height=24 * _INCH, usable_height=23.5 * _INCH, blade_offset=0.25,
        never=_HARD,
    ),
    Cutter("Knife cutter, A4 sheet", "knife", 210.0, 297.0, 200.0, 287.0, blade_offset=0.25, never=_HARD),
    Cutter("Knife cutter, A3 sheet", "knife", 297.0, 420.0, 287.0, 410.0, blade_offset=0.25, never=_HARD),
    Cutter(
        "Roll knife cutter, 610 mm", "roll knife", 610.0, None, 590.0, None, blade_offset=0.25, speed=300.0,
        acceleration=4000.0, never=("board", *_HARD),
    ),
    Cutter(
        "Laser, 600 × 400 mm", "laser", 600.0, 400.0, 600.0, 400.0, tool=0.15, speed=20.0, acceleration=2000.0,
        never=_CHLORINE,
    ),
    Cutter(
        "Router, 600 × 900 mm", "router", 600.0, 900.0, 600.0, 900.0, tool=3.0, speed=15.0, acceleration=200.0,
        depth=2.0, never=_SOFT,
    ),
    Cutter("Pen plotter, A3", "pen", 297.0, 420.0, 287.0, 410.0, speed=100.0),
)  # fmt: skip
"""Sensible entries to begin with, of no maker; the values are common practice."""

_REASONS: dict[CutterKind, str] = {
    "laser": "it may give off chlorine, which harms lungs and machine",
    "router": "it would tear or be caught by the tool",
    "knife": "it breaks the blade",
    "roll knife": "it breaks the blade, or does not bend",
    "pen": "a pen does not cut",
}


def check_cutter(cutter: Cutter) -> Cutter:
    """Return a cutter if every value can be used; raises ArgumentError."""
    if not cutter.name.strip() or len(cutter.name) > _LONGEST_NAME or not cutter.name.isprintable():
        raise ArgumentError(f"{cutter.name[:20]!a} is no name for a cutter; type 1 to {_LONGEST_NAME} letters.")
    for what, side, usable in (
        ("width", cutter.width, cutter.usable_width),
        ("height", cutter.height, cutter.usable_height),
    ):
        if side is not None and not (math.isfinite(side) and 1 <= side <= _LONGEST):
            raise ArgumentError(f"A {what} of {side:g} mm is none of a cutter; type 1 mm to 100 m.")
        if usable is not None and not (math.isfinite(usable) and 1 <= usable <= (side or _LONGEST)):
            raise ArgumentError(f"A usable {what} of {usable:g} mm cannot be; type 1 mm up to the cutter's {what}.")
    for what, value, least, most in (
        ("diameter of a tool", cutter.tool, 0.0, 50.0),
        ("blade offset", cutter.blade_offset, 0.0, 5.0),
        ("overcut", cutter.overcut, 0.0, 20.0),
        ("speed", cutter.speed, 0.1, 5000.0),
        ("acceleration", cutter.acceleration, 1.0, 100_000.0),
        ("depth of a pass", cutter.depth, 0.0, 100.0),
    ):
        if not (math.isfinite(value) and least <= value <= most):
            raise ArgumentError(f"A {what} of {value:g} cannot be used for a cutter; type {least:g} to {most:g}.")
    return cutter


MACHINES = ShelfKind("cutter", "cutters", Cutter, CUTTERS, check_cutter)


def refusal(cutter: Cutter, kind: StockKind) -> str:
    """Say why a kind of stock must not be cut on a cutter; empty where it may be."""
    if kind not in cutter.never:
        return ""
    return (
        f"{kind.capitalize()} must not be cut on “{cutter.name}”: {_REASONS[cutter.kind]}. "
        "Take another cutter or stock, and follow the machine's manual and local rules."
    )


def find_cutter(cutters: tuple[Cutter, ...], name: str) -> Cutter:
    """Find a cutter by its name, or the first of a kind, such as ``laser``; raises ArgumentError."""
    wanted = name.strip().casefold()
    for cutter in cutters:
        if wanted in (cutter.name.casefold(), cutter.name.replace("×", "x").casefold()):
            return cutter
    for cutter in cutters:
        if cutter.kind == wanted:
            return cutter
    raise ArgumentError(
        f"There is no cutter “{name[:40]}”; give the name of one of yours, or a kind: {', '.join(CUTTER_KINDS)}."
    )
