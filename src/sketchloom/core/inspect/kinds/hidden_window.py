"""Windows that are cut and that nobody sees."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.words import box_of, finding, spot_of
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import FillWindow

__all__ = ["find_hidden_windows"]

_WIDER = 0.5
"""mm by which a piece reaches beyond a window that it covers; one that fills it lies in it."""
_SEEN = 0.01
"""Share of a window that may show."""


def find_hidden_windows(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find windows that a wider piece of an upper layer covers."""
    if subject.stencil or (subject.origin is not None and subject.origin.build == "flush"):
        return  # flush pieces lie side by side: what fills a window lies in it
    outline = subject.outline(layer)
    above = subject.layers[subject.layers.index(layer) + 1 :]
    shapes = outline.pieces.shapes
    holed = shapes[shapely.get_num_interior_rings(shapes) > 0]
    for window in (shapely.Polygon(ring) for shape in holed for ring in shape.interiors):
        if window.area < subject.limit(layer, "hidden-window"):
            continue
        over = _over(subject, above, window)
        if over is None:
            continue
        area = float(window.area)
        at = spot_of(window)
        sentence = f"This window of {area:.1f} mm² lies wholly under an upper layer: it is cut, and nobody sees it."
        fix = Fix("fill", "Do not cut it", (FillWindow(layer=layer.key, at=at),))
        yield finding(subject, "hidden-window", layer, at, box_of(window), area, sentence, (fix,))


def _over(subject: Subject, above: tuple[Cut, ...], window: Any) -> Any:
    """What covers a window and reaches beyond it all round, or None."""
    parts: list[Any] = []
    for upper in above:
        outline = subject.outline(upper)
        parts += list(outline.pieces.shapes[np.sort(outline.tree.query(window, predicate="intersects"))])
    if not parts:
        return None
    over = shapely.union_all(parts)
    covered = window.difference(over).area <= _SEEN * window.area
    return over if covered and over.contains(window.buffer(_WIDER, quad_segs=2)) else None
