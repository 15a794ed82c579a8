"""Material that is too narrow to hold."""

from collections.abc import Iterator

from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.bands import bands
from sketchloom.core.inspect.kinds.cut_twice import is_cut_twice
from sketchloom.core.inspect.kinds.sliver import sliver_pieces
from sketchloom.core.inspect.kinds.words import beyond, finding, mm
from sketchloom.core.inspect.narrow import Narrow
from sketchloom.core.inspect.subject import CutLayer, Subject
from sketchloom.core.layers import WidenAlong

__all__ = ["find_necks", "is_told_otherwise", "widened"]


def find_necks(subject: Subject, layer: CutLayer) -> Iterator[Finding]:
    """Find material narrower than the stock can hold; pieces that are small or slivers as a whole are told as such."""
    limit = layer.limits["neck"]
    for place in subject.narrow(layer, "inside"):
        if place.width >= limit or is_cut_twice(layer, place) or is_told_otherwise(subject, layer, place):
            continue
        sentence = (
            f"This piece is only {mm(place.width)} wide: it may tear when it is weeded."
            if place.whole
            else f"The material is only {mm(place.width)} wide here: it may tear when it is weeded."
        )
        yield finding("neck", layer, place.at, place.box, place.width, sentence, widened(layer, place, limit))


def widened(layer: CutLayer, place: Narrow, limit: float) -> tuple[Fix, ...]:
    """Ways to widen a narrow place to a limit."""
    return tuple(bands(WidenAlong, layer, place, beyond(limit), "thicken", f"Widen to {mm(limit)}"))


def is_told_otherwise(subject: Subject, layer: CutLayer, place: Narrow) -> bool:
    """Whether a narrow place is a whole piece that is told as a small one, or as a sliver."""
    if not place.whole:
        return False
    outline = subject.outline(layer)
    piece = int(outline.piece[place.contours[0]])
    return piece in outline.smaller_than(layer.limits["small"]) or piece in sliver_pieces(subject, layer)
