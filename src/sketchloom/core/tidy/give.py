"""Work on whole pieces: give them away, join them to a neighbour, fill their holes, keep them."""

from typing import ClassVar, Self

import msgspec
import numpy as np

from sketchloom.core.errors import ArgumentError
from sketchloom.core.palette import is_key
from sketchloom.core.picture import Point
from sketchloom.core.regions import GROUND
from sketchloom.core.tidy.places import check_places
from sketchloom.core.tidy.sheet import Anchor, Sheet
from sketchloom.core.tidy.specks import longest_neighbours
from sketchloom.core.tidy.work import Work, over_axis

__all__ = ["FillHoles", "Give", "JoinBeside", "Keep", "OnPieces", "Together", "check_ink"]


def check_ink(key: str) -> None:
    """Refuse what is neither an ink nor the ground; raises ArgumentError."""
    if key and not is_key(key):
        raise ArgumentError(f"“{key[:20]}” is no key of an ink; it is written #rrggbb, or nothing for the ground.")


class OnPieces(Work, frozen=True, kw_only=True):
    """Work on chosen pieces."""

    pieces: tuple[Anchor, ...]

    def check(self) -> None:
        """Refuse places that cannot be."""
        super().check()
        check_places([anchor.at for anchor in self.pieces])
        if not all(0 <= anchor.area <= 1e6 for anchor in self.pieces):
            raise ArgumentError("A chosen piece has no area that can be used; take the work back.")

    def marks(self) -> tuple[tuple[Point, ...], ...]:
        """A place in each piece."""
        return tuple((anchor.at,) for anchor in self.pieces)

    def mirrored(self, sheet: Sheet) -> Self | None:
        """The same on the pieces of the other half; those that lie across the axis are in it already."""
        own = set(sheet.found(self.pieces)[0])
        there = over_axis(sheet, self.axis, [anchor.at for anchor in self.pieces])
        moved = [Anchor(at, anchor.area) for at, anchor in zip(there, self.pieces, strict=True)]
        rest = tuple(anchor for anchor in moved if not set(sheet.found([anchor])[0]) & own)
        return msgspec.structs.replace(self, pieces=rest) if rest else None


class Give(OnPieces, frozen=True, tag="give", kw_only=True):
    """Give pieces to an ink, to a new one, or to the ground."""

    sentence: ClassVar[str] = "Give to another ink"
    ink: str
    """Its key; empty is the ground."""

    def check(self) -> None:
        """Refuse what is no ink."""
        super().check()
        check_ink(self.ink)

    def do(self, sheet: Sheet) -> int:
        """Give."""
        faces, lost = sheet.found(self.pieces)
        if faces:
            sheet.put(sheet.mask(faces), self.ink)
        return lost

    def inks(self) -> tuple[str, ...]:
        """Its ink."""
        return (self.ink,) if self.ink else ()


class JoinBeside(OnPieces, frozen=True, tag="join", kw_only=True):
    """Join pieces to the neighbour with which they share the longest edge."""

    sentence: ClassVar[str] = "Join to the neighbour"

    def do(self, sheet: Sheet) -> int:
        """Join each; those that have none stay, and are counted."""
        faces, lost = sheet.found(self.pieces)
        found, runs = sheet.faces
        chosen = np.zeros(len(found.label), bool)
        chosen[faces] = True
        target = longest_neighbours(sheet.regions.cells, found, runs, chosen, ~chosen)
        moves = [
            (
                sheet.mask([face for face in faces if target[face] == to]),
                sheet.keys[int(found.label[to]) - 1] if found.label[to] else "",
                int(found.cell[to]),
            )
            for to in np.unique(target[faces][target[faces] > 0]).tolist()
        ]  # all masks first: a piece that is put gives the others new numbers
        for where, key, cell in moves:
            sheet.put_like(where, key, cell)
        return lost + sum(int(target[face] == 0) for face in faces)


class FillHoles(OnPieces, frozen=True, tag="fill-holes", kw_only=True):
    """Give all that a piece goes round to its ink."""

    sentence: ClassVar[str] = "Fill the holes"

    def do(self, sheet: Sheet) -> int:
        """Fill."""
        faces, lost = sheet.found(self.pieces)
        found, _ = sheet.faces
        fills = [(sheet.mask([face]), int(found.label[face]), int(found.cell[face])) for face in faces]
        for own, label, cell in fills:
            if label == GROUND:
                lost += 1
                continue
            sheet.put_like(sheet.holes(own), sheet.keys[label - 1], cell)
        return lost


class Keep(OnPieces, frozen=True, tag="keep", kw_only=True):
    """Keep pieces that are smaller or thinner than others may be."""

    sentence: ClassVar[str] = "Keep a piece"

    def do(self, sheet: Sheet) -> int:
        """Nothing more: what is kept was left when the small ones went. Tells which are not there."""
        return sheet.found(self.pieces)[1]


class Together(OnPieces, frozen=True, tag="together", kw_only=True):
    """Hold pieces together as one compound piece: who chooses one of them chooses all."""

    sentence: ClassVar[str] = "Keep together"

    def do(self, sheet: Sheet) -> int:
        """Nothing on the map. Tells which are not there."""
        return sheet.found(self.pieces)[1]
