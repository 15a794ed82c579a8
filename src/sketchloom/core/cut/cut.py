"""What is cut, drawn, scored or engraved: one value, whether it came from a picture or from a file."""

import hashlib
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal, NamedTuple, Self

import numpy as np
import shapely

from sketchloom.core.curves import Path
from sketchloom.core.cut.polygons import Flat, Pieces, flatten, pieces_of
from sketchloom.core.palette import Ink
from sketchloom.core.stock import Stock

__all__ = ["Cut", "CutKind", "Figures"]

CutKind = Literal["cut", "draw", "score", "engrave"]


class Figures(NamedTuple):
    """What is counted and measured of a cut."""

    pieces: int
    area: float  # mm2
    length: float  # mm


@dataclass(frozen=True, eq=False, kw_only=True)
class Cut:
    """One compound path for one tool and one stock.

    Attributes
    ----------
    key : str
        What settings, files and the window know it by.
    name : str
    ink : Ink
        In whose colour it is shown and sent.
    path : Path
        mm.
    kind : {'cut', 'draw', 'score', 'engrave'}
    stock : Stock or None
    widths : tuple of float
        Of each stroke that is drawn, mm.
    objects : int
        Of the file that it was read from.
    known : Figures or None
        Where the map told them already; else they are worked out of the path.
    """

    key: str
    name: str
    ink: Ink
    path: Path = field(repr=False)
    kind: CutKind = "cut"
    stock: Stock | None = None
    widths: tuple[float, ...] = field(default=(), repr=False)
    objects: int = 1
    known: Figures | None = field(default=None, repr=False)

    @property
    def colour(self) -> str:
        """Of what it is cut from, ``#rrggbb``; that of its ink where the stock is had in any."""
        return (self.stock.colour if self.stock else "") or self.ink.hex

    @cached_property
    def flat(self) -> Flat:
        """Its contours as lines of points."""
        return flatten(self.path)

    @cached_property
    def polygons(self) -> Pieces:
        """Its pieces as polygons, mm."""
        return pieces_of(self.flat)

    @cached_property
    def figures(self) -> Figures:
        """What is counted and measured of it."""
        if self.known is not None:
            return self.known
        area = self.path.areas.sum() if self.path.meant is None else self.path.meant.area
        return Figures(len(self.polygons.shapes), float(area), self.path.length)

    @property
    def pieces(self) -> int:
        """Connected parts."""
        return self.figures.pieces

    @property
    def area(self) -> float:
        """Of its material, mm2."""
        return self.figures.area

    @property
    def cut_length(self) -> float:
        """Of its outlines, mm."""
        return self.figures.length

    @property
    def is_strokes(self) -> bool:
        """Whether it is lines, as centre lines are, and no outlines of areas."""
        return self.kind != "cut" and (any(self.path.open) or len(self.widths) == len(self.path.contours))

    @property
    def loose(self) -> int:
        """Pieces that are placed by hand: those beyond the first, where its stock has no carrier."""
        return 0 if self.kind != "cut" or (self.stock is not None and self.stock.carrier) else max(0, self.pieces - 1)

    @cached_property
    def digest(self) -> bytes:
        """Tells its outlines."""
        digest = hashlib.blake2b(digest_size=16)
        for contour in self.path.contours:
            digest.update(np.ascontiguousarray(contour).data)
            digest.update(b"|")
        digest.update(np.concatenate([np.zeros(0, bool), *self.path.straight]).tobytes())
        digest.update(repr(self.path.open).encode())
        if self.path.meant is not None:
            digest.update(shapely.to_wkb(self.path.meant))
        return digest.digest()

    def with_path(self, path: Path) -> Self:
        """Give the same with another path; figures are worked out anew."""
        return replace(self, path=path, known=None)
