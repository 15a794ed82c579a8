"""Files that hold a colour in many objects."""

from collections.abc import Iterator

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.words import finding
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import Unite

__all__ = ["find_many_objects"]


def find_many_objects(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find layers of a file from elsewhere that are no compound path."""
    if layer.objects <= subject.limit(layer, "many-objects"):
        return
    left, top, right, bottom = layer.path.bounds
    sentence = f"{layer.name} is {layer.objects} objects: moved one by one, they no longer fit together."
    fix = Fix("compound", "Make it one compound path", (Unite(layer=layer.key),))
    yield finding(subject, "many-objects", layer, ((left + right) / 2, (top + bottom) / 2), (left, top, right, bottom),
                  float(layer.objects), sentence, (fix,))  # fmt: skip
