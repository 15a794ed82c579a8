"""Double edges: an outline that was meant as one line, cut as the outer edge, the inner edge or the centre."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, Figures, on_page
from sketchloom.core.layers.rules import Edge, LayerSettings
from sketchloom.core.layers.stack import Layer, LayerStack

__all__ = ["WIDEST", "DoubleEdge", "double_edges", "one_edge", "with_lines"]

_THIN = 0.12
"""Times the longer side of the outline's bounding box; a wider ring is a shape, not a line."""
WIDEST = 3.0
"""mm of a line that is told; what is wider is a ring that is meant, unless a rule says otherwise."""
_HOLLOW = 0.5
"""Share of what the outer edges enclose that lies within the inner ones."""


class DoubleEdge(NamedTuple):
    """A layer that is one line round something."""

    ink: str  # key of the layer
    width: float  # of the line, mm


def double_edges(layers: Sequence[Layer]) -> tuple[DoubleEdge, ...]:
    """Layers that are cut twice a stroke width apart.

    A band of length l and width w has the area l w and edges 2 l long; so
    twice the area over the cut length is the width of a line, and of a shape
    it is about as large as the shape.
    """
    found = []
    for layer in layers:
        areas = layer.path.areas
        if -areas[areas < 0].sum() < _HOLLOW * areas[areas > 0].sum() or not layer.cut_length:
            continue
        width = 2 * layer.area / layer.cut_length
        left, top, right, bottom = layer.path.bounds
        if width < _THIN * max(right - left, bottom - top):
            found.append(DoubleEdge(layer.key, width))
    return tuple(found)


def one_edge(layer: Layer, edge: Edge, centre: Cut | None) -> Layer:
    """The layer with one line in the place of two; pieces, area and cut length are those of what is cut then.

    Without a closed centre line the layer stays as it is.
    """
    if edge == "centre":
        lines = centre.path if centre else Path((), ())
        path = lines.part([place for place, closed in enumerate(lines.closed) if closed])
        path = Path(path.contours, path.straight)
    else:
        areas = layer.path.areas
        path = layer.path.part([place for place, area in enumerate(areas) if (area > 0) == (edge == "outer")])
    if not path.contours or edge == "both":
        return layer
    count = len(path.contours)
    area = float(np.abs(path.areas).sum())
    return replace(layer, path=path, known=Figures(count, area, path.length))


def with_lines(
    stack: LayerStack, settings: LayerSettings, lines: Mapping[str, Cut], double: Sequence[DoubleEdge]
) -> LayerStack:
    """Put centre lines beside the layers, and one edge in the place of two.

    Parameters
    ----------
    stack : LayerStack
    settings : LayerSettings
    lines : mapping of str to Cut
        Centre lines by the key of their ink.
    double : sequence of DoubleEdge
        Layers that have two edges; a rule that asks for one edge of another is left aside.
    """
    two = {edge.ink for edge in double}
    by = np.array(stack.moved)
    lines = {key: replace(line, path=on_page(line.path, by)) for key, line in lines.items()}
    layers = tuple(
        one_edge(layer, settings.rule(layer.key).edge, lines.get(layer.key)) if layer.key in two else layer
        for layer in stack.layers
    )
    wanted = [lines[key] for key in settings.centre_lines if key in lines]
    return replace(stack, layers=layers, strokes=tuple(line for line in wanted if line.path.contours))
