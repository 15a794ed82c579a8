"""The narrowest place of a layer, as its ledger row tells it."""

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.balls import tiled
from sketchloom.core.inspect.narrow import narrow_places, step_length
from sketchloom.core.inspect.outline import Outline, outline_of
from sketchloom.core.inspect.recall import Recall
from sketchloom.core.inspect.steps import steps_of

__all__ = ["narrowest_mm", "narrowest_of"]

_FIRST = 1.0
"""mm; the first width that is tried, then twice as much, and so on."""


def narrowest_mm(layer: Cut) -> float:
    """Width of the narrowest tail, neck or piece of a layer, mm; 0 for an empty one. Pointed tips are aside."""
    return narrowest_of(outline_of(layer))


def narrowest_of(outline: Outline) -> float:
    """The same of outlines that were worked out already."""
    if not len(outline.points):
        return 0.0
    recall = Recall()
    widest = _FIRST
    farthest = 2.0 * float(outline.across.max())
    while True:
        steps = steps_of(outline.points, outline.first, outline.sense, step_length(widest, outline.length), 2 * widest)
        places = narrow_places(tiled(steps, widest), outline.piece, widest, "inside", recall)
        if places:
            return round(min(place.width for place in places), 3)
        if widest > farthest:
            return round(float(outline.mean_width.min()), 3)
        widest *= 2
