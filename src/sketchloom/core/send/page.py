"""What a writer gets: a page in mm, and what lies on it, whether it is of layers or of a sheet."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, CutKind, CutStack
from sketchloom.core.send.names import names_of
from sketchloom.core.sheets import Sheet, parts_of

__all__ = ["HAIRLINE", "Item", "Page", "page_of_layers", "page_of_sheet"]

HAIRLINE = 0.1
"""mm, of a line that has no width of its own."""
_DONE = {"cut": "", "draw": ", drawn", "score": ", scored", "engrave": ", engraved"}


class Item(NamedTuple):
    """One path of one tool."""

    id: str
    """Of letters that every system takes; no two items of a page share it."""
    title: str
    """What a person calls it."""
    kind: CutKind
    colour: str
    """``#rrggbb``"""
    path: Path
    """mm, y down."""
    widths: tuple[float, ...] = ()
    """Of each contour, where it is lines that have widths of their own, mm."""
    group: str = ""
    """On a sheet: ``cuts``, ``pens``, ``scores``, ``engraves``, ``marks`` or ``weeding``; else empty."""
    layer: str = ""
    """Id of its layer, of which it may be one piece; it may come again on a sheet."""
    lined: bool = False
    """Whether its outline is drawn, though it is an area."""
    opacity: float = 1.0
    """Below 1 only of shadows in pictures."""

    @property
    def filled(self) -> bool:
        """Whether it is an area: what is cut out or engraved; on a sheet what closes."""
        if self.lined:
            return False
        if not self.group:
            return self.kind in ("cut", "engrave")
        return self.group in ("cuts", "engraves") and not any(self.path.open)

    @property
    def is_strokes(self) -> bool:
        """Whether each of its contours is a line with a width of its own."""
        return self.kind == "draw" and not self.group and len(self.widths) == len(self.path.contours)

    @property
    def strokes(self) -> list[tuple[Path, float]]:
        """All of it as one path with the width of its lines; or each line by itself where each has its own width."""
        if self.is_strokes:
            return [(self.path.part([place]), width) for place, width in enumerate(self.widths)]
        return [(self.path, self.width)] if self.path.contours else []

    @property
    def rgb(self) -> tuple[int, int, int]:
        """Its colour, each of 0 to 255."""
        red, green, blue = (int(self.colour[place : place + 2], 16) for place in (1, 3, 5))
        return red, green, blue

    @property
    def width(self) -> float:
        """Of its lines, mm."""
        return max(self.widths, default=HAIRLINE)


@dataclass(frozen=True)
class Page:
    """A page and what lies on it.

    Attributes
    ----------
    title : str
    size : (float, float)
        Width and height, mm.
    items : tuple of Item
        Of layers bottom first; of a sheet as it is cut.
    """

    title: str
    size: tuple[float, float]
    items: tuple[Item, ...]

    def as_outlines(self) -> "Page":
        """The same with outlines of hairline width in place of areas."""
        return replace(self, items=tuple(item._replace(lined=True) for item in self.items))

    @property
    def is_sheet(self) -> bool:
        """Whether it is a sheet, whose items stand in groups."""
        return any(item.group for item in self.items)


def page_of_layers(
    stack: CutStack, layers: Sequence[Cut] | None = None, title: str = "", by_piece: bool = False
) -> Page:
    """Put layers on their page, all by default, bottom first; one path a layer, or one a piece."""
    names = names_of(stack.cuts)
    chosen = [cut for cut in stack.cuts if layers is None or any(cut is one for one in layers)]
    items = tuple(
        Item(
            names[cut.key], cut.name + ("" if cut.is_strokes else _DONE[cut.kind]), cut.kind, cut.ink.hex, cut.path,
            cut.widths if cut.is_strokes else (), "", names[cut.key],
        )
        for cut in chosen
    )  # fmt: skip
    if by_piece:
        items = tuple(piece for cut, item in zip(chosen, items, strict=True) for piece in _pieces(cut, item))
    return Page(title, stack.size, items)


def _pieces(cut: Cut, item: Item) -> list[Item]:
    """The pieces of a layer, each as an item; lines stay together."""
    parts = [] if cut.is_strokes else parts_of(cut)
    if len(parts) < 2:
        return [item]
    return [
        item._replace(id=f"{item.id}--piece-{number}", path=part.cut.path.part(part.contours))
        for number, part in enumerate(parts, 1)
    ]


def page_of_sheet(sheet: Sheet, names: Mapping[str, str], title: str = "") -> Page:
    """Put a sheet on a page of its size, in cutting order.

    Parameters
    ----------
    sheet : Sheet
    names : mapping
        Ids of layers, by their keys.
    title : str
    """
    items: list[Item] = []
    times = dict[str, int]()
    for cut, group, path in sheet.strokes:
        times[cut.key] = times.get(cut.key, 0) + 1
        again = f"--again-{times[cut.key]}" if times[cut.key] > 1 else ""
        colour = cut.colour if group == "cuts" else cut.ink.hex
        name = _name(cut, names)
        items.append(Item(name + again, cut.name, cut.kind, colour, path, cut.widths, group, name))
    return Page(title or sheet.group.name, sheet.size, tuple(items))


def _name(cut: Cut, names: Mapping[str, str]) -> str:
    """The id of a layer; that of its marks or numbers has a word more."""
    of = cut.key.removesuffix(" marks").removesuffix(" numbers")
    return cut.key if cut.key == "weeding" else names[of] + cut.key.removeprefix(of).replace(" ", "-")
