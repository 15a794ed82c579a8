"""A stock: one material that layers are cut from."""

import math
from typing import Literal, get_args

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.palette import colour_of

__all__ = ["KINDS", "Stock", "StockKind", "check_stock"]

StockKind = Literal[
    "adhesive vinyl",
    "heat-transfer film",
    "glitter film",
    "paper",
    "card",
    "board",
    "wood",
    "acrylic",
    "fabric",
]
KINDS: tuple[StockKind, ...] = get_args(StockKind)

_LONGEST_NAME = 40
_LONGEST = 100_000.0
"""mm"""
_MOST_SHRINK = 20.0
_DEAREST = 1e6


class Stock(msgspec.Struct, frozen=True):
    """What a layer is cut from. A recipe holds all of it, so that a job is the same on every machine."""

    name: str
    kind: StockKind = "paper"
    colour: str = ""
    """``#rrggbb``; empty for a stock that is had in any colour."""
    thickness: float = 0.2
    """mm"""
    carrier: bool = False
    """Whether cut pieces stay in register on a carrier, or under transfer tape, until they are laid."""
    mirrored: bool = False
    """Whether it is cut on its back."""
    width: float = 210.0
    """mm, of a sheet or a roll."""
    height: float | None = 297.0
    """mm, of a sheet; None for a roll."""
    price: float = 0.0
    """Of a sheet, or of a metre of a roll, in whatever money."""
    least_piece: float = 0.8
    """mm; narrowest piece it can hold."""
    least_gap: float = 0.4
    """mm; narrowest gap or window it can hold."""
    shrink: float = 0.0
    """Per cent, under a press."""
    bears: bool = True
    """Whether anything may be laid on it; nothing is laid on glitter."""
    grain: bool = False
    """Whether it has a grain, so that pieces may be turned upside down and no other way."""
    density: float = 0.0
    """g/cm3; 0 where it is not known."""


def check_stock(stock: Stock) -> Stock:
    """Return a stock if every value can be used; raises ArgumentError."""
    if not stock.name.strip() or len(stock.name) > _LONGEST_NAME or not stock.name.isprintable():
        raise ArgumentError(f"{stock.name[:20]!a} is no name for a stock; type 1 to {_LONGEST_NAME} letters.")
    try:
        colour_of(stock.colour or "#ffffff")
    except ValueError:
        raise ArgumentError(f"“{stock.colour[:20]}” is no colour of a stock; type it as #rrggbb.") from None
    sides = [("width", stock.width), *([("height", stock.height)] if stock.height is not None else [])]
    for what, side in sides:
        if not (math.isfinite(side) and 1 <= side <= _LONGEST):
            raise ArgumentError(f"A {what} of {side:g} mm is none of a stock; type 1 mm to 100 m.")
    for what, value, most in (
        ("thickness", stock.thickness, 100.0),
        ("narrowest piece", stock.least_piece, 100.0),
        ("narrowest gap", stock.least_gap, 100.0),
        ("price", stock.price, _DEAREST),
        ("shrink", stock.shrink, _MOST_SHRINK),
        ("density", stock.density, 30.0),
    ):
        if not (math.isfinite(value) and 0 <= value <= most):
            raise ArgumentError(f"A {what} of {value:g} cannot be used for a stock; type 0 to {most:g}.")
    return stock
