"""SVG 1.1: a page in mm, one compound path a layer."""

import io
import re
from collections.abc import Iterator
from xml.etree import ElementTree
from xml.sax.saxutils import quoteattr

import numpy as np
from fontTools.pens.boundsPen import BoundsPen
from fontTools.svgLib.path import parse_path

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.centre import Stroke
from sketchloom.core.curves.path import bounds_of
from sketchloom.core.errors import WriteError
from sketchloom.core.layers import Layer, LayerStack, StrokeLayer

__all__ = ["check_svg", "layer_files", "path_data", "svg_text"]

_NAMESPACE = "{http://www.w3.org/2000/svg}"


def _number(mm: float) -> str:
    """To 0.001 mm, without needless digits."""
    return f"{round(mm * 1000) / 1000:.10g}"


def _pairs(points: Floats) -> list[str]:
    """Points as x and y, to 0.001 mm; (N, 2)."""
    rounded = np.rint(points * 1000) / 1000 + 0.0  # no minus before nought
    return ("%.10g %.10g\n" * len(points) % tuple(rounded.ravel().tolist())).splitlines()


def path_data(path: Path) -> str:
    """Path data with absolute coordinates, 0.001 mm."""
    parts: list[str] = []
    for contour, straight in zip(path.contours, path.straight, strict=True):
        pairs = _pairs(contour)
        parts.append("M" + pairs[0])
        last = len(straight) - 1
        for i, is_straight in enumerate(straight.tolist()):
            if not is_straight:
                parts.append(f"C{pairs[3 * i + 1]} {pairs[3 * i + 2]} {pairs[3 * i + 3]}")
            elif i < last:  # the last straight segment is what Z draws
                parts.append("L" + pairs[3 * i + 3])
        parts.append("Z")
    return "".join(parts)


def _identifier(name: str, place: int) -> str:
    return f"layer-{place + 1}-" + (re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "ink")


def svg_text(stack: LayerStack, layers: tuple[Layer | StrokeLayer, ...] | None = None) -> str:
    """Write layers as SVG.

    Parameters
    ----------
    stack : LayerStack
        Gives the page.
    layers : tuple of Layer, optional
        Some of its layers; all by default. Bottom first, so the top is drawn last.
    """
    width, height = (_number(side) for side in stack.size)
    out = [
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width}mm" height="{height}mm" '
        f'viewBox="0 0 {width} {height}">\n'
    ]
    for place, layer in enumerate(stack.layers):
        if layers is None or layer in layers:
            out.append(
                f"<g id={quoteattr(_identifier(layer.name, place))}><title>{_escaped(layer.name)}</title>"
                f'<path fill="{layer.ink.hex}" fill-rule="evenodd" d="{path_data(layer.path)}"/></g>\n'
            )
    for place, strokes in enumerate(stack.strokes):
        if layers is None or strokes in layers:
            out.append(_strokes_text(strokes, len(stack.layers) + place))
    out.append("</svg>\n")
    return "".join(out)


def _strokes_text(layer: StrokeLayer, place: int) -> str:
    """Centre lines, each drawn as wide as the stroke it is of."""
    paths = "".join(
        f'<path d="{line_data(stroke)}" stroke-width="{_number(stroke.width)}"/>' for stroke in layer.strokes
    )
    return (
        f'<g id={quoteattr(_identifier(layer.name, place))} fill="none" stroke="{layer.ink.hex}" '
        f'stroke-linecap="round" stroke-linejoin="round"><title>{_escaped(layer.name)}</title>{paths}</g>\n'
    )


def line_data(stroke: Stroke) -> str:
    """Path data of one line; a closed one ends with Z."""
    pairs = _pairs(stroke.piece.control.reshape(-1, 2))
    parts = ["M" + pairs[0]]
    for i, is_straight in enumerate(stroke.piece.straight.tolist()):
        _, first, second, end = pairs[4 * i : 4 * i + 4]
        parts.append("L" + end if is_straight else f"C{first} {second} {end}")
    return "".join(parts) + ("Z" if stroke.closed else "")


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def layer_files(stack: LayerStack) -> Iterator[tuple[str, str]]:
    """A name ending and the SVG text for each layer by itself, all on the same page."""
    every: tuple[Layer | StrokeLayer, ...] = (*stack.layers, *stack.strokes)
    for place, layer in enumerate(every):
        yield _identifier(layer.name, place), svg_text(stack, (layer,))


def _bounds(layer: Layer | StrokeLayer) -> list[tuple[float, float, float, float]]:
    """Of every path that is written for a layer."""
    if isinstance(layer, StrokeLayer):
        return [bounds_of(stroke.piece.control) for stroke in layer.strokes]
    return [layer.path.bounds]


def check_svg(text: str, stack: LayerStack, layers: tuple[Layer | StrokeLayer, ...] | None = None) -> None:
    """Read an SVG back with readers that are not ours, and compare it with its layers.

    Raises
    ------
    WriteError
        If the page, the number of paths or the bounds of any path are not
        what was meant.
    """
    meant = [bounds for layer in layers or (*stack.layers, *stack.strokes) for bounds in _bounds(layer)]
    root = ElementTree.parse(io.StringIO(text)).getroot()
    paths = list(root.iter(f"{_NAMESPACE}path"))
    right = len(paths) == len(meant) and root.get("width") == f"{_number(stack.size[0])}mm"
    for element, bounds in zip(paths, meant, strict=False):
        pen = BoundsPen(None)
        parse_path(element.get("d", ""), pen)
        right = right and bool(pen.bounds) and bool(np.allclose(pen.bounds, bounds, atol=0.002))
    if not right:
        raise WriteError(
            "The SVG did not read back as it was meant, so it was not written; please report this picture."
        )
