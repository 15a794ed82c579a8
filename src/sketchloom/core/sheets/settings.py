"""Settings of Sheets, and what a hand or a search laid."""

import math
from typing import Literal

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point
from sketchloom.core.sheets.ready import Ready, check_ready
from sketchloom.core.sheets.seams import SeamKind, SeamLine
from sketchloom.core.stock import Cutter, check_cutter

__all__ = ["MOST_PLACEMENTS", "Placement", "SheetSettings", "Turn", "check_sheets"]

Turn = Literal["none", "quarter", "any"]
MOST_PLACEMENTS = 20_000
_MOST_COPIES = 1000
_MOST_SHEETS = 10_000
_MOST_SEAMS, _MOST_POINTS = 1000, 10_000
_LONGEST = 100_000.0
"""mm"""
_WIDEST = 200.0
"""mm, of a border or a distance."""


class Placement(msgspec.Struct, frozen=True):
    """A piece, or a layer in register, laid by a hand or by a search."""

    layer: str
    """Key."""
    copy: int
    """Of the whole design, from 1."""
    at: Point
    """A place in the piece, source coordinates."""
    area: float
    """Of what was laid, in source coordinates; tells a piece that has become another."""
    scale: float
    """mm of a length of 1 in source coordinates, when it was laid."""
    group: str
    """Key of the stock and colour that share sheets."""
    sheet: int
    """Of its group, from 0."""
    x: float
    """Where its low corner lies on the sheet, mm."""
    y: float
    turn: float
    """Degrees, clockwise as it is seen."""


class SheetSettings(msgspec.Struct, frozen=True):
    """How work is laid on sheets."""

    cutter: Cutter | None = None
    size: tuple[float, float] | None = None
    """Of every sheet, mm, before the size of its stock."""
    border: float = 6.0
    """mm of a sheet that stay free."""
    distance: float = 3.0
    """mm between pieces at least."""
    turn: Turn = "quarter"
    copies: int = 1
    """Of the whole design."""
    nested: bool = False
    """Whether pieces are laid one by one; else each layer keeps its pieces in register."""
    otherwise: tuple[str, ...] = ()
    """Keys of stocks that are laid the other way."""
    flip: Literal["auto", "on", "off"] = "auto"
    shared: bool = False
    """Whether the work of other open jobs goes on the same sheets, where stock and colour are the same."""
    seam: SeamKind = "hidden"
    """How a piece too large for its sheet is parted; ``none`` leaves it."""
    seam_overlap: float = 0.0
    """mm that parts run on under each other at a seam."""
    seams: tuple[SeamLine, ...] = ()
    """That a hand laid."""
    seam_numbers: bool = False
    """Whether parts get the numbers of their seams, for a pen."""
    ready: Ready = Ready()
    placements: tuple[Placement, ...] = ()

    def nests(self, group: str) -> bool:
        """Whether pieces of a stock and colour are laid one by one."""
        return self.nested != (group in self.otherwise)


def check_sheets(settings: SheetSettings) -> None:
    """Raise ArgumentError for a value that cannot be used."""
    if settings.cutter is not None:
        check_cutter(settings.cutter)
    check_ready(settings.ready)
    for side in settings.size or ():
        if not (math.isfinite(side) and 1 <= side <= _LONGEST):
            raise ArgumentError(f"A sheet {side:g} mm long or wide cannot be; type 1 mm to 100 m.")
    for what, value in (
        ("border", settings.border), ("distance", settings.distance), ("seam's overlap", settings.seam_overlap)
    ):  # fmt: skip
        if not (math.isfinite(value) and 0 <= value <= _WIDEST):
            raise ArgumentError(f"A {what} of {value:g} mm cannot be used; type 0 to {_WIDEST:g} mm.")
    if len(settings.seams) > _MOST_SEAMS:
        raise ArgumentError(f"{len(settings.seams)} seams by hand are too many; at most {_MOST_SEAMS} are kept.")
    for seam in settings.seams:
        values = [value for point in seam.line for value in point]
        fits = 2 <= len(seam.line) <= _MOST_POINTS and all(math.isfinite(n) and abs(n) <= _LONGEST for n in values)
        if not fits or len(set(seam.line)) < 2:
            raise ArgumentError("A seam was laid along a line that is none; take the seams of its layer back.")
    if not 1 <= settings.copies <= _MOST_COPIES:
        raise ArgumentError(f"{settings.copies} copies cannot be laid; type 1 to {_MOST_COPIES}.")
    if len(settings.placements) > MOST_PLACEMENTS:
        raise ArgumentError(f"{len(settings.placements)} placements are too many; at most {MOST_PLACEMENTS} are kept.")
    for one in settings.placements:
        numbers = (*one.at, one.area, one.scale, one.x, one.y, one.turn)
        if not all(math.isfinite(value) and abs(value) <= _LONGEST for value in numbers):
            raise ArgumentError("A piece was laid at a place that is no number; take its placement back.")
        if one.copy < 1 or not 0 <= one.sheet < _MOST_SHEETS or one.scale <= 0:
            raise ArgumentError("A piece was laid on a sheet that cannot be; take its placement back.")
