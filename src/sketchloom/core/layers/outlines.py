"""Double edges: an outline that was meant as one line, cut as the outer edge, the inner edge or the centre."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Literal, NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import areas_below
from sketchloom.core.layers.stack import Layer
from sketchloom.core.layers.strokes import StrokeLayer, length_of

__all__ = ["DoubleEdge", "Edge", "double_edges", "one_edge"]

Edge = Literal["both", "outer", "inner", "centre"]

_THIN = 0.12
"""Times the longer side of the outline's bounding box; a wider ring is a shape, not a line."""
_HOLLOW = 0.5
"""Share of what the outer edges enclose that lies within the inner ones."""


class DoubleEdge(NamedTuple):
    """A layer that is one line round something."""

    place: int  # of the layer
    width: float  # of the line, mm


def double_edges(layers: Sequence[Layer]) -> tuple[DoubleEdge, ...]:
    """Layers that are cut twice a stroke width apart.

    A band of length l and width w has the area l w and edges 2 l long; so
    twice the area over the cut length is the width of a line, and of a shape
    it is about as large as the shape.
    """
    found = []
    for place, layer in enumerate(layers):
        areas = _areas(layer.path.contours)
        if -areas[areas < 0].sum() < _HOLLOW * areas[areas > 0].sum() or not layer.cut_length:
            continue
        width = 2 * layer.area / layer.cut_length
        left, top, right, bottom = layer.path.bounds
        if width < _THIN * max(right - left, bottom - top):
            found.append(DoubleEdge(place, width))
    return tuple(found)


def one_edge(layer: Layer, edge: Edge, centre: StrokeLayer | None) -> Layer:
    """The layer with one line in the place of two; pieces, area and cut length are those of what is cut then.

    Without a closed centre line the layer stays as it is.
    """
    areas = _areas(layer.path.contours)
    if edge == "centre":
        closed = [stroke.piece for stroke in centre.strokes if stroke.closed] if centre else []
        contours = [np.vstack([piece.control[:, :3].reshape(-1, 2), piece.control[-1:, 3]]) for piece in closed]
        straight = [piece.straight for piece in closed]
    else:
        kept = [place for place, area in enumerate(areas) if (area > 0) == (edge == "outer")]
        contours = [layer.path.contours[place] for place in kept]
        straight = [layer.path.straight[place] for place in kept]
    if not contours or edge == "both":
        return layer
    lengths = [length_of(contour[3 * np.arange(len(contour) // 3)[:, None] + np.arange(4)]) for contour in contours]
    return replace(
        layer,
        path=Path(tuple(contours), tuple(straight)),
        pieces=len(contours),
        area=float(np.abs(_areas(contours)).sum()),
        cut_length=float(sum(lengths)),
    )


def _areas(contours: Sequence[Floats]) -> Floats:
    """Signed areas of closed contours of cubics by Green's formula; outer edges are positive."""
    if not contours:
        return np.zeros(0)
    segments = np.array([len(contour) // 3 for contour in contours])
    begin = 3 * np.arange(segments.sum()) + np.repeat(np.arange(len(contours)), segments)
    p = np.concatenate(contours)[begin[:, None] + np.arange(4)]
    return -np.add.reduceat(areas_below(p), np.cumsum(segments) - segments)
