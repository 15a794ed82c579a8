"""HP-GL for cutters that take plotter files: one pen a layer, curves as short straight lines.

Only IN, SP, PU, PD and PA are written; a plotter unit is 0.025 mm.
"""

from collections.abc import Iterator

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves.path import points_at
from sketchloom.core.machine import read_hpgl
from sketchloom.core.send.page import Item, Page

__all__ = ["HpglWriter"]

_UNIT = 0.025
"""mm"""
_WITHIN = _UNIT / 2
"""mm that a chord may lie beside its curve."""
_MOST_PENS = 8
"""That readers surely know; further layers begin anew with the first."""
_AT_ONCE = 200
"""Points of one instruction, so that no line grows too long for a cutter's buffer."""


class HpglWriter:
    """A page as HP-GL, y up, its lower left corner at the origin.

    Parameters
    ----------
    turned : bool
        Whether the page is turned a quarter, for a cutter whose x runs along the roll.
    """

    ending = ".hpgl"
    name = "HP-GL"
    read_by = "the stand-in for a cutter"

    def __init__(self, turned: bool = False) -> None:
        self._turned = turned

    def write(self, page: Page) -> bytes:
        """Write a page."""
        out = ["IN;\n"]
        pen = 0
        for own, item in self._penned(page):
            if own != pen:
                pen = own
                out.append(f"SP{pen};\n")
            for line in _lines(item, page.size, self._turned):
                pairs = [f"{x},{y}" for x, y in line.tolist()]
                out.append(f"PU{pairs[0]};\n")
                out += [f"PD{','.join(pairs[at : at + _AT_ONCE])};\n" for at in range(1, len(pairs), _AT_ONCE)]
        out.append("PU0,0;\nSP0;\n")
        return "".join(out).encode("ascii")

    def is_right(self, data: bytes, page: Page) -> bool:
        """Follow it with the stand-in for a cutter, and compare every line with the layers' own curves."""
        found = list(read_hpgl(data))
        meant = [(pen, line) for pen, item in self._penned(page) for line in _lines(item, page.size, self._turned)]
        return len(found) == len(meant) and all(
            one.pen == pen and np.array_equal(np.array(one.points), line)
            for one, (pen, line) in zip(found, meant, strict=True)
        )

    def _penned(self, page: Page) -> Iterator[tuple[int, Item]]:
        """Items with the numbers of their pens, from 1: one a layer, and one a tool of it."""
        known: dict[tuple[str, str], int] = {}
        for item in page.items:
            key = item.layer or item.id, item.group
            yield known.setdefault(key, len(known) % _MOST_PENS + 1), item


def _lines(item: Item, size: tuple[float, float], turned: bool) -> Iterator[Ints]:
    """Contours as points on the plotter's grid, (N, 2); what shrinks to one point is left out."""
    for contour, straight in zip(item.path.contours, item.path.straight, strict=True):
        points = _chords(contour, straight)
        points = np.column_stack([points[:, 0], size[1] - points[:, 1]])
        if turned:
            points = np.column_stack([size[1] - points[:, 1], points[:, 0]])
        units = np.round(points / _UNIT).astype(np.int64)
        stays = np.append(True, (np.diff(units, axis=0) != 0).any(1))
        if stays.sum() > 1:
            yield units[stays]


def _chords(contour: Floats, straight: Bools) -> Floats:
    """A contour as points whose chords lie within half a unit of it.

    The bound is that of Filip, Magedson and Markot 1986, "Surface algorithms
    using bounds on derivatives": n chords lie within ``max |B''| / (8 n^2)``.
    """
    control = contour[3 * np.arange(len(straight))[:, None] + np.arange(4)]
    bend = 6 * np.abs(np.diff(control, n=2, axis=1)).max(1)
    many = np.where(straight, 1, np.ceil(np.sqrt(np.hypot(*bend.T) / (8 * _WITHIN)))).astype(int).clip(1)
    out = [contour[:1]]
    for place, count in enumerate(many.tolist()):
        out.append(
            control[place, 3:] if count == 1 else points_at(control[[place]], np.arange(1, count + 1) / count)[0]
        )
    return np.vstack(out)
