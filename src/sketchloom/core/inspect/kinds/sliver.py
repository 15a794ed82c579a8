"""Slivers: long thin pieces between two inks, as tracing leaves them."""

from collections.abc import Iterator

import numpy as np

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding
from sketchloom.core.inspect.kinds.give import given_away
from sketchloom.core.inspect.kinds.words import box_of, finding, mm, spot_of
from sketchloom.core.inspect.subject import Subject

__all__ = ["find_slivers", "sliver_pieces"]

_LONG = 5.0
"""Times its width that a sliver is long."""
_BESIDE, _EACH = 0.7, 0.2
"""Share of its outline that lies beside other layers, all of them and each of two."""


def sliver_pieces(subject: Subject, layer: Cut) -> dict[int, dict[str, float]]:
    """Pieces of a layer that are slivers, by their number, and what they lie beside."""
    others = tuple((other.digest, subject.is_plain(other)) for other in subject.layers if other.key != layer.key)
    key = ("slivers", layer.digest, subject.is_plain(layer), subject.limit(layer, "sliver"), others)
    known: dict[int, dict[str, float]] | None = subject.memory.findings.get(key)
    if known is None:
        known = dict(_found(subject, layer)) if subject.is_plain(layer) else {}
        subject.memory.findings.put(key, known)
    return known


def _found(subject: Subject, layer: Cut) -> Iterator[tuple[int, dict[str, float]]]:
    outline = subject.outline(layer)
    width = outline.mean_width
    shapes = outline.pieces.shapes
    for number in np.flatnonzero(width < subject.limit(layer, "sliver")).tolist():
        whole = float(shapes[number].length)
        if whole / 2 < _LONG * width[number]:
            continue
        beside = subject.beside(layer, shapes[number])
        two = sum(length >= _EACH * whole for length in beside.values())
        if two >= 2 and sum(beside.values()) >= _BESIDE * whole:
            yield number, beside


def find_slivers(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find long thin pieces between two other layers."""
    outline = subject.outline(layer)
    for number in sliver_pieces(subject, layer):
        shape, width = outline.pieces.shapes[number], float(outline.mean_width[number])
        at = spot_of(shape)
        sentence = f"This sliver between two inks is {mm(width)} wide: it tears, or stays with its neighbour."
        yield finding(
            subject, "sliver", layer, at, box_of(shape), width, sentence, given_away(subject, layer, shape, at)
        )
