"""The assembly picture: the layers lifted apart, numbered in the order in which they are laid."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.colour import nearest_apart
from sketchloom.core.curves import Path
from sketchloom.core.cut import flatten
from sketchloom.core.layers import LayerStack
from sketchloom.core.palette import Colour, colour_of, hex_of
from sketchloom.core.send.lettering import words_path
from sketchloom.core.send.png import png_bytes
from sketchloom.core.send.svg import path_data

__all__ = ["assembly_png", "assembly_svg"]

_SHRUNK, _FLAT, _LEAN = 0.8, 0.58, 0.12
"""Of what is lifted: its width, how flat it lies, and how far it leans."""
_RISE = 0.26
"""Between two layers, of the height of the page; less where there are many."""
_LINE = 1.5
"""Times the height of letters between two layers at least, so that no name lies over another."""
_SHADE = ((0.012, 0.07), (0.007, 0.07), (0.003, 0.07))
"""How far each shadow falls, of the page's longer side, and how dark it is."""
_INK, _PAPER, _SHADOW = "#25221c", "#f5f1ea", "#000000"
_WIDE_PX = 1600
_FINER, _SHIFT = 2, 4


class _Drawn(NamedTuple):
    path: Path
    colour: str
    opacity: float


def _paper_and_ink(behind: Colour | None) -> tuple[str, str]:
    """Colour of the ground, and that of words on it."""
    if behind is None:
        return _PAPER, _INK
    return hex_of(behind), max((_INK, _PAPER), key=lambda code: nearest_apart(colour_of(code), [behind]))


def _drawn(stack: LayerStack, ink: str) -> tuple[list[_Drawn], tuple[float, float]]:
    """All that is drawn, bottom first, mm; and the size of the picture."""
    layers = stack.sent
    width, height = stack.size
    long = max(width, height)
    letters = 0.035 * long
    rise = max(height * min(_RISE, 1.2 / max(len(layers), 1)), _LINE * letters)  # each name beside its own layer
    margin = 0.04 * long
    tall = _SHRUNK * _FLAT * height
    out = []
    names = 0.0
    for place, layer in enumerate(layers):
        top = margin + (len(layers) - 1 - place) * rise
        turn = np.array([[_SHRUNK, 0.0], [-_LEAN * _SHRUNK, _SHRUNK * _FLAT]])
        at = np.array([margin + _LEAN * _SHRUNK * height, top])
        path = Path(tuple(contour @ turn + at for contour in layer.path.contours), layer.path.straight)
        colour = layer.colour
        out += [_Drawn(path.moved(np.array([0.0, far * long])), _SHADOW, dark) for far, dark in _SHADE]
        out.append(_Drawn(path, colour, 1.0))
        left = 2 * margin + _SHRUNK * width + _LEAN * _SHRUNK * height
        what = f"{place + 1}  {layer.name}" + (f", {layer.stock.name.lower()}" if layer.stock else "")
        words = words_path(what, left, top + 0.55 * tall, letters)
        if words.contours:
            names = max(names, words.bounds[2])
            out.append(_Drawn(words, ink, 1.0))
    wide = max(names, _SHRUNK * width + 2 * margin + _LEAN * _SHRUNK * height) + margin
    return out, (wide, 2 * margin + tall + (len(layers) - 1) * rise + _SHADE[0][0] * long)


def assembly_svg(stack: LayerStack, behind: Colour | None = None) -> bytes:
    """Draw the assembly picture as SVG, on what it is laid on; words are outlines."""
    paper, ink = _paper_and_ink(behind)
    drawn, (width, height) = _drawn(stack, ink)
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" version="1.1" '
        f'width="{width:.3f}mm" height="{height:.3f}mm" viewBox="0 0 {width:.3f} {height:.3f}">\n'
        f'<rect width="100%" height="100%" fill="{paper}"/>\n'
    ]
    for path, colour, opacity in drawn:
        faint = f' fill-opacity="{opacity:g}"' if opacity < 1 else ""
        out.append(f'<path fill="{colour}"{faint} fill-rule="evenodd" d="{path_data(path)}"/>\n')
    return "".join([*out, "</svg>\n"]).encode()


def assembly_png(stack: LayerStack, behind: Colour | None = None) -> bytes:
    """Draw the assembly picture as PNG, 1600 px wide, on what it is laid on."""
    paper, ink = _paper_and_ink(behind)
    drawn, (width, height) = _drawn(stack, ink)
    scale = _FINER * _WIDE_PX / width
    rgb = np.empty((round(height * scale), _FINER * _WIDE_PX, 3), np.uint8)
    rgb[:] = colour_of(paper)
    for path, colour, opacity in drawn:
        mask = np.zeros(rgb.shape[:2], np.uint8)
        cv2.fillPoly(mask, _rings(path, scale), 1, cv2.LINE_8, _SHIFT)
        left, top, wide, tall = cv2.boundingRect(mask)
        part = rgb[top : top + tall, left : left + wide]
        inked = np.array(colour_of(colour), np.float64)
        table = np.rint(np.arange(256)[:, None] * (1 - opacity) + inked * opacity).astype(np.uint8)
        blended = np.dstack([cv2.LUT(part[..., channel], table[:, channel].copy()) for channel in range(3)])
        cv2.copyTo(blended, mask[top : top + tall, left : left + wide], part)
    small = cv2.resize(rgb, (_WIDE_PX, max(1, round(rgb.shape[0] / _FINER))), interpolation=cv2.INTER_AREA)
    return png_bytes(np.dstack([small, np.full(small.shape[:2], 255, np.uint8)]), 25.4 * _WIDE_PX / width)


def _rings(path: Path, scale: float) -> list[np.ndarray]:
    return [np.rint(ring * scale * 2**_SHIFT).astype(np.int32) for ring in flatten(path).rings]
