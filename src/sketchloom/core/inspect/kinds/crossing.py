"""Outlines that cross themselves or each other, and pieces of a layer that overlap."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.cut import Cut
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.words import finding
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import Unite

__all__ = ["find_crossings"]

_LEAST = 0.005
"""mm2 that outlines which cross go round twice, or the wrong way; less is where one doubles back on itself."""
_CHUNK, _MOST = 5000, 2000
"""Steps looked at together, and crossings after which no more are counted."""
_ROOM = 0.5
"""mm round a crossing."""


def find_crossings(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find what crosses or overlaps in a layer; what one mend unites is told once."""
    outline = subject.outline(layer)
    pieces = outline.pieces
    crossed = pieces.crossed > _LEAST
    if pieces.valid and not crossed.any():
        return
    of = pieces.of_contour
    some = (of >= 0) & crossed[np.maximum(of, 0)] if pieces.valid else np.ones(len(of), bool)
    rings = [
        ring for ring, one, closed in zip(outline.flat.rings, some, layer.path.closed, strict=True) if one and closed
    ]
    places = _places([ring for ring in rings if len(ring) > 2])
    if not len(places):
        return
    at = (float(places[0, 0]), float(places[0, 1]))
    low, high = (places.min(0) - _ROOM).tolist(), (places.max(0) + _ROOM).tolist()
    where = f"at {len(places)} places" if len(places) > 1 else "here"
    sentence = f"Outlines of {layer.name} cross or overlap {where}: the blade cuts through the piece."
    fix = Fix("unite", "Unite them", (Unite(layer=layer.key),))
    yield finding(subject, "crossing", layer, at, (*low, *high), float(len(places)), sentence, (fix,))


def _places(rings: list[Floats]) -> Floats:
    """Where outlines cross, or lie in each other as pieces that overlap; (n, 2)."""
    starts = np.concatenate(rings)
    ends = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    segments = shapely.linestrings(np.stack([starts, ends], 1))
    tree, found = shapely.STRtree(segments), []
    for low in range(0, len(segments), _CHUNK):
        one, other = tree.query(segments[low : low + _CHUNK], predicate="crosses")
        some = one + low < other
        points = shapely.intersection(segments[one[some] + low], segments[other[some]])
        found.append(points[shapely.get_type_id(points) == 0])
        if sum(map(len, found)) > _MOST:
            break
    points = np.concatenate(found)
    if len(points):
        return np.unique(np.round(shapely.get_coordinates(points), 3), axis=0)
    return _overlaps(rings)


def _overlaps(rings: list[Floats]) -> Floats:
    """Places within outlines that lie in others and run the same way round, or on each other; (n, 2)."""
    polygons: Any = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    turns = shapely.is_ccw(shapely.get_exterior_ring(polygons))
    areas = shapely.area(polygons)
    inner, around = shapely.STRtree(polygons).query(polygons, predicate="intersects")
    same = (inner != around) & (areas[inner] <= areas[around]) & (turns[inner] == turns[around])
    points = shapely.point_on_surface(polygons[np.unique(inner[same])])
    return shapely.get_coordinates(points).reshape(-1, 2)
