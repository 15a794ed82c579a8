"""Pieces that are too small to weed."""

from collections.abc import Iterator

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.give import given_away
from sketchloom.core.inspect.kinds.sliver import sliver_pieces
from sketchloom.core.inspect.kinds.words import beyond, box_of, finding, mm, spot_of
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import GrowPiece

__all__ = ["find_small"]


def find_small(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find pieces that reach less far from end to end than can be weeded."""
    limit = subject.limit(layer, "small")
    outline = subject.outline(layer)
    slivers = sliver_pieces(subject, layer)
    for number, across in outline.smaller_than(limit).items():
        if number in slivers:
            continue
        shape = outline.pieces.shapes[number]
        sentence = f"This piece is only {mm(across)} across: it may be lost when the rest is weeded."
        at = spot_of(shape)
        grow = GrowPiece(layer=layer.key, at=at, by=(beyond(limit) - across) / 2)
        fixes = (*given_away(subject, layer, shape, at), Fix("grow", f"Grow to {mm(limit)}", (grow,)))
        yield finding(subject, "small", layer, at, box_of(shape), across, sentence, fixes)
