"""Files of other programs, read and made ready to be checked."""

from collections.abc import Sequence
from pathlib import Path as FilePath

import numpy as np

from sketchloom.core.elsewhere.drawing import Drawing, scaled
from sketchloom.core.elsewhere.dxf_file import read_dxf
from sketchloom.core.elsewhere.guarded import MOST_BYTES
from sketchloom.core.elsewhere.svg_file import read_svg
from sketchloom.core.errors import ArgumentError
from sketchloom.core.inspect import CutLayer, Memory, Subject, limits_for, outline_of
from sketchloom.core.layers import Layer, LayerStack, flatten, refitted
from sketchloom.core.opening import read_plain
from sketchloom.core.palette import Ink, colour_of
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
    """Make a drawing ready to be checked."""
    layers = []
    for drawn in drawing.layers:
        loose = 0
        if stock is not None and not stock.carrier:
            loose = max(0, len(outline_of(drawn.path).pieces.shapes) - 1)
        limited = limits_for(stock, limits)
        layers.append(CutLayer(drawn.key, drawn.name, drawn.colour, drawn.path, limited, stock, drawn.objects, loose))
    return Subject(tuple(layers), drawing.size, memory)


def stack_of(subject: Subject) -> LayerStack:
    """Give the layers of a checked drawing as a stack that can be written."""
    layers = []
    for number, layer in enumerate(subject.layers):
        colour = colour_of(layer.colour)
        ink = Ink(f"{layer.colour}-{number + 1}", layer.name, colour, colour)
        pieces, path = len(subject.outline(layer).pieces.shapes), layer.path
        if path.meant is not None:  # what is written is filled by the even-odd rule
            path = refitted(path.meant, [flatten(path)])
        layers.append(
            Layer(ink.key, layer.name, ink, (ink.key,), np.zeros(0, bool), path, pieces, layer.loose,
                  float(path.areas.sum()), path.length, layer.stock, exact=False)
        )  # fmt: skip
    return LayerStack(tuple(layers), subject.size, "flush", tuple(layer.path for layer in layers))
