"""Detail that is finer than the picture tells."""

from collections.abc import Iterator

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding
from sketchloom.core.inspect.kinds.give import given_away
from sketchloom.core.inspect.kinds.neck import is_told_above, widened
from sketchloom.core.inspect.kinds.words import finding
from sketchloom.core.inspect.subject import Subject

__all__ = ["find_fine"]


def find_fine(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find material that is narrower than two true pixels of the picture."""
    if subject.origin is None or not subject.is_plain(layer):
        return
    scale, limit = subject.origin.px_per_mm, subject.limit(layer, "fine")
    outline = subject.outline(layer)
    for place in subject.narrow(layer, "inside"):
        pixels = place.width * scale
        if pixels >= limit or is_told_above(subject, layer, place, "fine"):
            continue
        sentence = (
            f"This is {pixels:.1f} pixels of the picture wide: its shape is a guess. Open a larger picture, or drop it."
        )
        if place.whole:
            shape = outline.pieces.shapes[int(outline.piece[place.contours[0]])]
            point = shape.representative_point()
            fixes = given_away(subject, layer, shape, (float(point.x), float(point.y)))
        else:
            fixes = widened(subject, layer, place, limit / scale)
        yield finding(subject, "fine", layer, place.at, place.box, pixels, sentence, fixes)
