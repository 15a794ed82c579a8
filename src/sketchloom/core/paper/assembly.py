"""The assembly picture: the layers lifted apart, numbered in the order in which they are laid."""

import numpy as np

from sketchloom.core.curves import Path
from sketchloom.core.layers import LayerStack
from sketchloom.core.palette import Colour
from sketchloom.core.paper.placing import paper_and_ink, rectangle, words_item
from sketchloom.core.send import SVG, Item, Page, PngWriter, written
from sketchloom.core.units import MM_PER_INCH

__all__ = ["assembly_file", "assembly_of"]

_SHRUNK, _FLAT, _LEAN = 0.8, 0.58, 0.12
"""Of what is lifted: its width, how flat it lies, and how far it leans."""
_RISE = 0.26
"""Between two layers, of the height of the page; less where there are many."""
_LINE = 1.5
"""Times the height of letters between two layers at least, so that no name lies over another."""
_SHADE = ((0.012, 0.07), (0.007, 0.07), (0.003, 0.07))
"""How far each shadow falls, of the page's longer side, and how dark it is."""
_SHADOW = "#000000"
_WIDE_PX = 1600


def assembly_of(stack: LayerStack, behind: Colour | None = None) -> Page:
    """Draw the layers that are sent lifted apart on what they are laid on, mm; words are outlines."""
    paper, ink = paper_and_ink(behind)
    layers = stack.sent
    width, height = stack.size
    long = max(width, height)
    letters = 0.035 * long
    rise = max(height * min(_RISE, 1.2 / max(len(layers), 1)), _LINE * letters)  # each name beside its own layer
    margin = 0.04 * long
    tall = _SHRUNK * _FLAT * height
    items: list[Item] = []
    names = 0.0
    for place, layer in enumerate(layers):
        top = margin + (len(layers) - 1 - place) * rise
        turn = np.array([[_SHRUNK, 0.0], [-_LEAN * _SHRUNK, _SHRUNK * _FLAT]])
        at = np.array([margin + _LEAN * _SHRUNK * height, top])
        path = Path(tuple(contour @ turn + at for contour in layer.path.contours), layer.path.straight)
        mark = f"layer-{place + 1}"
        items += [
            Item(f"{mark}-shadow-{n}", "Shadow", "cut", _SHADOW, path.moved(np.array([0.0, far * long])), opacity=dark)
            for n, (far, dark) in enumerate(_SHADE, 1)
        ]
        items.append(Item(mark, layer.name, "cut", layer.colour, path))
        left = 2 * margin + _SHRUNK * width + _LEAN * _SHRUNK * height
        what = f"{place + 1}  {layer.name}" + (f", {layer.stock.name.lower()}" if layer.stock else "")
        words = words_item(f"{mark}-name", what, left, top + 0.55 * tall, letters, ink)
        if words is not None:
            names = max(names, words.path.bounds[2])
            items.append(words)
    wide = max(names, _SHRUNK * width + 2 * margin + _LEAN * _SHRUNK * height) + margin
    size = round(wide, 3), round(2 * margin + tall + (len(layers) - 1) * rise + _SHADE[0][0] * long, 3)
    return Page("Assembly", size, (rectangle("ground", (0.0, 0.0, *size), paper), *items))


def assembly_file(stack: LayerStack, behind: Colour | None, ending: str) -> bytes:
    """Write the assembly picture, as ``.svg`` or else as PNG 1600 px wide; raises WriteError."""
    page = assembly_of(stack, behind)
    return written(SVG if ending == ".svg" else PngWriter(MM_PER_INCH * _WIDE_PX / page.size[0]), page)
