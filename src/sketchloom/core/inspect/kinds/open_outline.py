"""Outlines that do not close."""

from collections.abc import Iterator

import numpy as np
import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.words import finding, mm
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import CloseOutline

__all__ = ["find_open"]


def find_open(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find outlines whose ends lie apart."""
    limit = subject.limit(layer, "open")
    if not layer.path.open:
        return
    rings = subject.outline(layer).flat.rings
    for number, (contour, closed) in enumerate(zip(layer.path.contours, layer.path.closed, strict=True)):
        apart = float(np.hypot(*(contour[-1] - contour[0])))
        if closed or apart <= limit:
            continue
        at = (float(contour[0, 0]), float(contour[0, 1]))
        low, high = np.minimum(contour[0], contour[-1]).tolist(), np.maximum(contour[0], contour[-1]).tolist()
        sentence = f"This outline does not close, its ends lie {mm(apart)} apart: the piece stays with its sheet."
        line = np.vstack([rings[number], contour[-1:]])
        ring = shapely.linearrings(line) if len(line) >= 3 else None
        fixes: tuple[Fix, ...] = ()
        if ring is not None and ring.is_simple and shapely.Polygon(ring).area > 0:
            fixes = (Fix("close", "Close it", (CloseOutline(layer=layer.key, at=at),)),)
        else:
            sentence += " A straight line between them would cross it; close it in the drawing."
        yield finding(subject, "open", layer, at, (*low, *high), apart, sentence, fixes)
