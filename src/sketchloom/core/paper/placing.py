"""Pictures made of what pages hold: items placed anew, grounds, frames and words."""

from collections.abc import Sequence
from typing import Literal

import numpy as np

from sketchloom.core.colour import nearest_apart
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_contour
from sketchloom.core.cut import CutStack
from sketchloom.core.palette import Colour, colour_of, hex_of
from sketchloom.core.paper.lettering import words_path
from sketchloom.core.send import Item, page_of_layers
from sketchloom.core.units import MM_PER_INCH

__all__ = ["PAPERS", "Paper", "as_stock", "frame", "mixed", "paper_and_ink", "placed", "rectangle", "words_item"]

Paper = Literal["a4", "letter"]
PAPERS: dict[Paper, tuple[float, float]] = {"a4": (210.0, 297.0), "letter": (8.5 * MM_PER_INCH, 11 * MM_PER_INCH)}
"""Width and height, mm (ISO 216; ANSI/ASME Y14.1 size A)."""

_INK, _PAPER = "#25221c", "#f5f1ea"


def paper_and_ink(behind: Colour | None) -> tuple[str, str]:
    """Colour of the ground of a picture, that of what the work is laid on if it is known, and of words on it."""
    if behind is None:
        return _PAPER, _INK
    return hex_of(behind), max((_INK, _PAPER), key=lambda code: nearest_apart(colour_of(code), [behind]))


def as_stock(stack: CutStack) -> list[Item]:
    """What lies on a page, bottom first, in the colours of what it is cut from."""
    items = page_of_layers(stack).items
    return [
        item._replace(colour=cut.colour) if cut.kind == "cut" else item
        for cut, item in zip(stack.cuts, items, strict=True)
    ]


def placed(items: Sequence[Item], scale: float, at: tuple[float, float], mark: str = "") -> list[Item]:
    """Items at another scale and place; `mark` goes before their ids."""
    return [
        item._replace(
            id=mark + item.id,
            layer=mark + item.layer if item.layer else "",
            path=item.path.scaled(scale).moved(np.array(at)),
            widths=tuple(width * scale for width in item.widths),
        )
        for item in items
    ]


def rectangle(name: str, box: tuple[float, float, float, float], colour: str, opacity: float = 1.0) -> Item:
    """An area; left, top, width and height, mm."""
    left, top, width, height = box
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height], [0, 0]]) + np.array([left, top])
    path = Path((straight_contour(corners),), (np.ones(4, bool),))
    return Item(name, name.replace("-", " ").capitalize(), "cut", colour, path, opacity=opacity)


def frame(name: str, box: tuple[float, float, float, float], colour: str) -> Item:
    """The outline of an area."""
    return rectangle(name, box, colour)._replace(lined=True)


def words_item(name: str, words: str, left: float, baseline: float, size: float, colour: str) -> Item | None:
    """Words as outlines; None where the font has none of their letters."""
    path = words_path(words, left, baseline, size)
    return Item(name, words, "cut", colour, path) if path.contours else None


def mixed(colour: str, other: str, share: float) -> str:
    """A colour with a share of another in it."""
    both = (1 - share) * np.array(colour_of(colour), float) + share * np.array(colour_of(other), float)
    red, green, blue = np.rint(both).astype(int).tolist()
    return hex_of((red, green, blue))
