"""Lines that were traced on both their sides."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Change, Finding, Fix
from sketchloom.core.inspect.kinds.words import box_of, finding, mm
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import FillWindow

__all__ = ["find_double_lines"]

_TOUCH = 0.02
"""mm by which what lies within a line may reach into it."""
_HOLLOW = 0.5
"""Share of what a line goes round that lies within it."""


def find_double_lines(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find bands round something that are cut on both sides a stroke's width apart."""
    limit = subject.limit(layer, "double-line")
    outline = subject.outline(layer)
    shapes = outline.pieces.shapes
    rings = np.flatnonzero((shapely.get_num_interior_rings(shapes) == 1) & (outline.mean_width < limit))
    for number in rings.tolist():
        shape = shapes[number]
        hole = shapely.Polygon(shape.interiors[0])
        if hole.area < _HOLLOW * shapely.Polygon(shape.exterior).area:
            continue
        if not hole.buffer(limit, quad_segs=4).covers(shape):
            continue
        width = float(outline.mean_width[number])
        point = shapely.line_interpolate_point(shape.exterior, 0.0)
        sentence = f"This line is {mm(width)} wide and cut along both its edges: two cuts where one is meant."
        yield finding(subject, "double-line", layer, (float(point.x), float(point.y)), box_of(shape), width, sentence,
                      _fixes(subject, layer, hole))  # fmt: skip


def _fixes(subject: Subject, layer: Cut, hole: Any) -> tuple[Fix, ...]:
    """The outer edge alone, where nothing lies within; of a layer that is one line by its rule."""
    out: list[Fix] = []
    if subject.origin is not None and layer.key in subject.origin.edges:
        for edge, words in (
            ("outer", "Cut the outer edge"),
            ("inner", "Cut the inner edge"),
            ("centre", "Cut the centre"),
        ):
            change = Change("rule", {"key": layer.key, "edge": edge})
            out.append(Fix(edge, words, (), (change,)))
    elif not any(subject.outline(other).union.intersects(hole.buffer(-_TOUCH)) for other in subject.layers):
        at = hole.representative_point()
        mend = FillWindow(layer=layer.key, at=(float(at.x), float(at.y)))
        out.append(Fix("outer", "Cut the outer edge", (mend,)))
    return tuple(out)
