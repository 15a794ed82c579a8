"""Gaps and windows that are too narrow to cut."""

from collections.abc import Iterator

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding
from sketchloom.core.inspect.kinds.bands import bands
from sketchloom.core.inspect.kinds.cut_twice import is_cut_twice
from sketchloom.core.inspect.kinds.words import beyond, finding, mm
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import PareAlong, WidenAlong

__all__ = ["find_gaps"]

_OVER = 0.02
"""mm that a band is wider than the gap that it closes."""


def find_gaps(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find ground, or a window, narrower than the stock can hold."""
    limit = subject.limit(layer, "gap")
    for place in subject.narrow(layer, "outside"):
        if place.width >= limit or is_cut_twice(subject, layer, place):
            continue
        what = "This window" if place.whole else "The gap here"
        sentence = f"{what} is only {mm(place.width)} wide: its edges may lift, or close again, when it is weeded."
        fixes = (
            *bands(subject, PareAlong, layer, place, beyond(limit), "open", f"Open to {mm(limit)}"),
            *bands(subject, WidenAlong, layer, place, place.widest + _OVER, "close", "Close it"),
        )
        yield finding(subject, "gap", layer, place.at, place.box, place.width, sentence, fixes)
