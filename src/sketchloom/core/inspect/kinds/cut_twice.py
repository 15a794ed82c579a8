"""Edges of one layer that lie on each other: the blade goes over the same line twice."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely

from sketchloom.core.cut import Cut
from sketchloom.core.inspect.balls import Side
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.bands import bands
from sketchloom.core.inspect.kinds.words import box_of, finding, mm
from sketchloom.core.inspect.narrow import Narrow
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import PareAlong, Unite, WidenAlong

__all__ = ["find_cut_twice", "is_cut_twice"]

_LEAST = 1.0
"""mm that two edges run beside each other, at least."""


def is_cut_twice(subject: Subject, layer: Cut, place: Narrow) -> bool:
    """Whether a narrow place is so narrow, for so long, that its two edges are one cut."""
    return place.width < subject.limit(layer, "cut-twice") and place.length >= _LEAST


def find_cut_twice(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find edges of one layer that run on or all but on each other for a millimetre or more."""
    sides: tuple[Side, ...] = ("inside", "outside")
    for side in sides:
        for place in subject.narrow(layer, side):
            if not is_cut_twice(subject, layer, place):
                continue
            kind = PareAlong if side == "inside" else WidenAlong
            fixes = tuple(bands(subject, kind, layer, place, place.widest + 0.02, "one", "Cut it once"))
            yield finding(subject, "cut-twice", layer, place.at, place.box, place.width, _words(place.width), fixes)
    yield from _on_each_other(subject, layer)


def _words(apart: float) -> str:
    return f"Two edges run {mm(apart)} apart here: the blade cuts the same line twice, and tears it."


def _on_each_other(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Contours that lie on each other, which have no side between them."""
    outline = subject.outline(layer)
    if outline.pieces.valid and not layer.path.open and subject.origin is not None:
        return  # the map has each edge once
    limit = subject.limit(layer, "cut-twice")
    flat = outline.flat
    counts = np.diff(flat.first)
    closed = np.array(layer.path.closed, bool) & (counts > 2)
    lines = np.full(len(counts), None, object)
    of = np.repeat(np.arange(len(counts)), counts)
    for some, make in ((closed, shapely.linearrings), (~closed & (counts > 1), shapely.linestrings)):
        if some.any():
            take = some[of]
            lines[some] = make(flat.points[take], indices=np.unique(of[take], return_inverse=True)[1])
    lines = lines[lines != None]  # noqa: E711
    if len(lines) < 2:
        return
    same: dict[bytes, list[int]] = {}
    for number, line in enumerate(lines.tolist()):
        same.setdefault(shapely.to_wkb(shapely.normalize(line)), []).append(number)
    for numbers in same.values():  # the very same, however often
        if len(numbers) > 1 and lines[numbers[0]].length >= _LEAST:
            yield _told(subject, layer, lines[numbers[0]])
    lines = lines[[numbers[0] for numbers in same.values()]]
    one, other = shapely.STRtree(lines).query(lines, predicate="dwithin", distance=min(limit, 0.01))
    for i, j in zip(one.tolist(), other.tolist(), strict=True):
        if i < j:
            shared = lines[i].intersection(lines[j].buffer(0.01, quad_segs=2))
            if shared.length >= _LEAST:
                yield _told(subject, layer, shared)


def _told(subject: Subject, layer: Cut, shared: Any) -> Finding:
    """What two contours share."""
    is_line = shared.geom_type in ("LineString", "LinearRing")
    at = shared.interpolate(0.5, normalized=True) if is_line else shared.representative_point()
    fix = Fix("one", "Cut it once", (Unite(layer=layer.key),))
    spot = (float(at.x), float(at.y))
    return finding(subject, "cut-twice", layer, spot, box_of(shared), 0.0, _words(0.0), (fix,))
