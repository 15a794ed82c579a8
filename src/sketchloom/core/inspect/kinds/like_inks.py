"""Layers whose colours can hardly be told apart."""

from collections.abc import Iterator

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Change, Finding, Fix
from sketchloom.core.inspect.kinds.words import finding
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.palette import colour_of
from sketchloom.core.regions import colour_difference

__all__ = ["find_like_inks"]


def find_like_inks(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find a layer that lies below another of nearly the same colour."""
    if not subject.is_plain(layer):
        return
    above = subject.layers[subject.layers.index(layer) + 1 :]
    for other in above:
        if not subject.is_plain(other):
            continue
        apart = float(colour_difference(colour_of(layer.colour), colour_of(other.colour)))
        if apart >= subject.limit(layer, "like-inks"):
            continue
        left, top, right, bottom = layer.path.bounds
        sentence = f"{layer.name} and {other.name} are {apart:.1f} apart: once cut, they look like one colour."
        fixes: tuple[Fix, ...] = ()
        if subject.origin is not None and layer.key.startswith("#") and other.key.startswith("#"):
            change = Change("rule", {"key": layer.key, "into": other.key})
            fixes = (Fix("join", f"Cut both as {other.name}", (), (change,)),)
        middle = (left + right) / 2, (top + bottom) / 2
        yield finding(subject, "like-inks", layer, middle, (left, top, right, bottom), apart, sentence, fixes)
