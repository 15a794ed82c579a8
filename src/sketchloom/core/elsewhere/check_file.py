"""Files of other programs, read and made ready to be checked."""

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path as FilePath

import msgspec

from sketchloom.core.cut import Cut, CutStack, refitted
from sketchloom.core.elsewhere.drawing import Drawing, scaled
from sketchloom.core.elsewhere.dxf_file import read_dxf
from sketchloom.core.elsewhere.guarded import MOST_BYTES
from sketchloom.core.elsewhere.svg_file import read_svg
from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect import Memory, Subject, limits_for
from sketchloom.core.opening import read_plain
from sketchloom.core.stock import Stock

__all__ = ["READERS", "read_drawing", "stack_of", "subject_of"]

READERS = {".svg": read_svg, ".dxf": read_dxf}
"""By the ending of a file's name."""


def read_drawing(path: FilePath, width: float | None = None) -> Drawing:
    """Read a file of another program, brought to a width if one is given, mm.

    Raises
    ------
    ArgumentError
        One sentence on what cannot be read.
    NothingToCutError
        If there is nothing in it to cut.
    """
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        raise ArgumentError(f"{path.name}: files that end with {' or '.join(READERS)} can be checked.")
    drawing = reader(read_plain(path, ArgumentError, MOST_BYTES), path.name)
    return drawing if width is None else scaled(drawing, width)


def subject_of(drawing: Drawing, stock: Stock | None, limits: Sequence[tuple[str, float]], memory: Memory) -> Subject:
    """Make a drawing ready to be checked, cut from a stock in the colours that the drawing has."""
    if stock is not None:
        stock = msgspec.structs.replace(stock, colour="")
    cuts = tuple(replace(cut, stock=stock) for cut in drawing.stack.cuts)
    return Subject(
        cuts, dict.fromkeys((cut.key for cut in cuts), limits_for(stock, limits)), drawing.stack.size, memory
    )


def stack_of(subject: Subject) -> CutStack:
    """Give a checked drawing as it is written: on a page that holds it, filled as the file meant it."""
    return CutStack(tuple(_as_filled(cut) for cut in subject.layers), subject.size).fitted()


def _as_filled(cut: Cut) -> Cut:
    """What crosses, drawn anew: what is written is filled by the even-odd rule."""
    meant = cut.path.meant
    return cut if meant is None else cut.with_path(refitted(meant, [cut.flat]))
