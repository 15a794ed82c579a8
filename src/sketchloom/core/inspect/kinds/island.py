"""Parts of a stencil that fall out when its openings are cut."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.words import beyond, box_of, finding, spot_of
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import WidenAlong

__all__ = ["find_islands"]

_BRIDGE = 2.0
"""Times the narrowest material that a bridge is wide."""


def find_islands(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find pieces of a sheet with openings that hang on nothing."""
    outline = subject.outline(layer)
    shapes = outline.pieces.shapes
    if not subject.stencil or len(shapes) < 2:
        return
    order = np.argsort(-shapely.area(shapes), kind="stable")
    sheet = shapes[order[0]]
    for number in order[1:].tolist():
        shape = shapes[number]
        sentence = "This part of the stencil hangs on nothing: it falls out, and its opening becomes one hole."
        bridges = _bridges(shape, sheet, _BRIDGE * subject.limit(layer, "neck"), layer.key)
        fixes = tuple(Fix("bridge", "Bridge it", some) for some in (bridges, bridges[:1]))
        yield finding(subject, "island", layer, spot_of(shape), box_of(shape), 1.0, sentence, fixes)


def _bridges(shape: Any, sheet: Any, width: float, key: str) -> tuple[WidenAlong, ...]:
    """A bridge over the shortest way to the sheet, and one on the other side."""
    short = shapely.get_coordinates(shapely.shortest_line(shape, sheet))
    lines = [short]
    away = short[1] - short[0]
    length = float(np.hypot(*away))
    if length > 0:
        middle = np.array([shape.centroid.x, shape.centroid.y])
        far = float(np.hypot(*(np.array(sheet.bounds[2:]) - sheet.bounds[:2])))
        ray = shapely.linestrings([middle, middle - away / length * far])
        out, there = shape.exterior.intersection(ray), sheet.intersection(ray)
        if not out.is_empty and not there.is_empty:
            lines.append(shapely.get_coordinates(shapely.shortest_line(out, there)))
    mends = []
    for start, end in lines:
        step = end - start
        reach = (0.5 * width / max(float(np.hypot(*step)), 1e-6)) * step
        points = (
            (float(start[0] - reach[0]), float(start[1] - reach[1])),
            (float(end[0] + reach[0]), float(end[1] + reach[1])),
        )
        mends.append(WidenAlong(layer=key, lines=(points,), width=beyond(width)))
    return tuple(mends)
