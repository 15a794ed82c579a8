"""Material that is too narrow to hold: told once, for the uppermost layer that has it."""

from collections.abc import Iterator

import numpy as np

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.bands import bands
from sketchloom.core.inspect.kinds.cut_twice import is_cut_twice
from sketchloom.core.inspect.kinds.give import given_away
from sketchloom.core.inspect.kinds.sliver import sliver_pieces
from sketchloom.core.inspect.kinds.words import beyond, finding, mm
from sketchloom.core.inspect.narrow import Narrow
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import WidenAlong

__all__ = ["find_necks", "is_told_above", "is_told_otherwise", "widened"]

_CRUMB = 2.0
"""Times what is told as small, that a crumb reaches at most."""
_SAME_PLACE, _SAME_WIDTH = 0.2, 0.02
"""mm apart, and share of the width, up to which two layers have the same narrow place."""


def find_necks(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find material narrower than the stock can hold; pieces that are small or slivers as a whole are told as such."""
    limit = subject.limit(layer, "neck")
    for place in subject.narrow(layer, "inside"):
        if place.width >= limit or is_cut_twice(subject, layer, place) or is_told_otherwise(subject, layer, place):
            continue
        if is_told_above(subject, layer, place):
            continue
        what = f"This piece is only {mm(place.width)} wide"
        if not place.whole:
            what = f"The material is only {mm(place.width)} wide here{_below_too(subject, layer, place)}"
        sentence = f"{what}: it may tear when it is weeded."
        fixes = widened(subject, layer, place, limit)
        if place.whole:
            fixes += _of_crumb(subject, layer, place)
        yield finding(subject, "neck", layer, place.at, place.box, place.width, sentence, fixes)


def _of_crumb(subject: Subject, layer: Cut, place: Narrow) -> tuple[Fix, ...]:
    """Where a narrow piece is a crumb, ways to be rid of it; a line that was drawn is none."""
    outline = subject.outline(layer)
    piece = int(outline.piece[place.contours[0]])
    if piece < 0 or outline.reach_of(piece) > _CRUMB * subject.limit(layer, "small"):
        return ()
    return given_away(subject, layer, outline.pieces.shapes[piece], place.at)


def widened(subject: Subject, layer: Cut, place: Narrow, limit: float) -> tuple[Fix, ...]:
    """Ways to widen a narrow place to a limit."""
    return tuple(bands(subject, WidenAlong, layer, place, beyond(limit), "thicken", f"Widen to {mm(limit)}"))


def is_told_otherwise(subject: Subject, layer: Cut, place: Narrow) -> bool:
    """Whether a narrow place is a whole piece that is told as a small one, or as a sliver."""
    if not place.whole:
        return False
    outline = subject.outline(layer)
    piece = int(outline.piece[place.contours[0]])
    return piece in outline.smaller_than(subject.limit(layer, "small")) or piece in sliver_pieces(subject, layer)


def is_told_above(subject: Subject, layer: Cut, place: Narrow, kind: str = "neck") -> bool:
    """Whether a layer above, that this one carries, has the same narrow place: what widens it there widens it here."""
    locked = subject.origin.locked if subject.origin is not None else frozenset()
    return any(
        layer.key in subject.carries.bearers.get(upper.key, ())
        and upper.key not in locked
        and subject.limit(upper, kind) >= subject.limit(layer, kind)
        and _has(subject, upper, place)
        for upper in subject.layers
    )


def _below_too(subject: Subject, layer: Cut, place: Narrow) -> str:
    """Layers that carry a layer, and have the same narrow place, in words."""
    below = [subject.layer(key) for key in subject.carries.bearers.get(layer.key, ())]
    names = [lower.name for lower in below if lower is not None and _has(subject, lower, place)]
    if not names:
        return ""
    return f", in {' and '.join(names) if len(names) < 3 else f'{len(names)} layers'} under it too"


def _has(subject: Subject, layer: Cut, place: Narrow) -> bool:
    """Whether a layer has the same narrow place as another."""
    width, (left, top, right, bottom) = subject.narrow_parts(layer)
    x, y, x_end, y_end = place.box
    same = np.abs(width - place.width) <= _SAME_WIDTH * place.width
    same &= (left <= x_end + _SAME_PLACE) & (right >= x - _SAME_PLACE)
    same &= (top <= y_end + _SAME_PLACE) & (bottom >= y - _SAME_PLACE)
    return bool(same.any())
