"""Bands along the middle of narrow places, which widen, open or close them."""

from collections.abc import Iterator

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Fix
from sketchloom.core.inspect.narrow import Narrow
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import PareAlong, WidenAlong
from sketchloom.core.picture import Point

__all__ = ["bands"]

_MORE = 1.12
"""Times the width that the band has which is tried next."""
_ON = 0.4
"""Times its width that it runs on then at both ends."""


def bands(
    subject: Subject,
    kind: type[WidenAlong] | type[PareAlong],
    layer: Cut,
    place: Narrow,
    width: float,
    name: str,
    words: str,
) -> Iterator[Fix]:
    """Ways to lay a band along a narrow place: as wide as asked for; a little wider, and running on at its ends."""
    if subject.bare:
        return
    yield Fix(name, words, (kind(layer=layer.key, lines=_points(place.lines), width=width),))
    longer = tuple(_run_on(line, _ON * width) for line in place.lines)
    yield Fix(name, words, (kind(layer=layer.key, lines=_points(longer), width=_MORE * width),))


def _points(lines: tuple[Floats, ...]) -> tuple[tuple[Point, ...], ...]:
    return tuple(tuple((float(x), float(y)) for x, y in line) for line in lines)


def _run_on(line: Floats, by: float) -> Floats:
    if len(line) < 2:
        return line
    ways = np.stack([line[0] - line[1], line[-1] - line[-2]])
    steps = by * ways / np.maximum(np.hypot(*ways.T), 1e-9)[:, None]
    return np.vstack([line[0] + steps[0], line, line[-1] + steps[1]])
