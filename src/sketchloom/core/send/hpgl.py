"""HP-GL for cutters that take plotter files: one pen a layer, curves as short straight lines.

Only IN, SP, PU, PD and PA are written; a plotter unit is 0.025 mm.
"""

from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from sketchloom.core.arrays import Floats, Ints
from sketchloom.core.curves import Path
from sketchloom.core.machine import read_hpgl
from sketchloom.core.send.page import Item, Page

__all__ = ["HpglWriter"]

_UNIT = 0.025
"""mm"""
_WITHIN = _UNIT / 2
"""mm that a chord may lie beside its curve."""
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
    lost = "pens for colours and names, pen 1 is the bottom layer; lines have no width"
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
            yield known.setdefault(key, len(known) + 1), item


def _lines(item: Item, size: tuple[float, float], turned: bool) -> Iterator[Ints]:
    """Contours as points on the plotter's grid, (N, 2); what shrinks to one point is left out."""
    if not item.path.contours:
        return
    points, starts = _chords(item.path)
    points = np.column_stack([points[:, 0], size[1] - points[:, 1]])
    if turned:
        points = np.column_stack([size[1] - points[:, 1], points[:, 0]])
    units = np.round(points / _UNIT).astype(np.int64)
    stays = np.append(True, (np.diff(units, axis=0) != 0).any(1))
    stays[starts[:-1]] = True
    for low, high in pairwise(starts.tolist()):
        line = units[low:high][stays[low:high]]
        if len(line) > 1:
            yield line


def _chords(path: Path) -> tuple[Floats, Ints]:
    """A path as points whose chords lie within half a unit of it, and where each contour begins, and the last ends.

    The bound is that of Filip, Magedson and Markot 1986, "Surface algorithms
    using bounds on derivatives": n chords lie within ``max |B''| / (8 n^2)``.
    """
    control, straight = path.segments, np.concatenate(path.straight)
    bend = 6 * np.abs(np.diff(control, n=2, axis=1)).max(1)
    many = np.where(straight, 1, np.ceil(np.sqrt(np.hypot(*bend.T) / (8 * _WITHIN)))).astype(int).clip(1)
    first = np.cumsum([0, *map(len, path.straight)])[:-1]  # segment that each contour begins with
    many[first] += 1  # its first point too
    begin = np.zeros(len(control), bool)
    begin[first] = True
    segment = np.repeat(np.arange(len(control)), many)
    number = np.arange(len(segment)) - np.repeat(np.cumsum(many) - many, many)
    chords = (many - begin)[segment]
    t = ((number + ~begin[segment]) / chords)[:, None]
    s, c = 1 - t, control[segment]
    points = s**3 * c[:, 0] + 3 * s * s * t * c[:, 1] + 3 * s * t * t * c[:, 2] + t**3 * c[:, 3]
    return points, np.append(np.searchsorted(segment, first), len(segment))
