"""Gaps and windows that are too narrow to cut."""

from collections.abc import Iterator

from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.cut_twice import is_cut_twice
from sketchloom.core.inspect.kinds.words import beyond, finding, mm
from sketchloom.core.inspect.subject import CutLayer, Subject
from sketchloom.core.layers import PareAlong, WidenAlong

__all__ = ["find_gaps"]


def find_gaps(subject: Subject, layer: CutLayer) -> Iterator[Finding]:
    """Find ground, or a window, narrower than the stock can hold."""
    limit = layer.limits["gap"]
    for place in subject.narrow(layer, "outside"):
        if place.width >= limit or is_cut_twice(layer, place):
            continue
        lines = tuple(tuple((float(x), float(y)) for x, y in line) for line in place.lines)
        pare = PareAlong(layer=layer.key, lines=lines, width=beyond(limit))
        fill = WidenAlong(layer=layer.key, lines=lines, width=place.widest + 0.02)
        what = "This window" if place.whole else "The gap here"
        sentence = f"{what} is only {mm(place.width)} wide: its edges may lift, or close again, when it is weeded."
        fixes = (Fix("open", f"Open to {mm(limit)}", (pare,)), Fix("close", "Close it", (fill,)))
        yield finding("gap", layer, place.at, place.box, place.width, sentence, fixes)
