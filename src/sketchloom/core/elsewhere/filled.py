"""What contours fill by the rule of their file, however they run and cross."""

from collections.abc import Sequence
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints

__all__ = ["filled", "fills", "windings_beside"]

_PORTION = 500_000
"""Points times steps looked at together."""


def fills(winding: Ints, rule: str) -> Bools:
    """Whether places with a winding number are filled; the rules ``nonzero`` and ``evenodd``.

    References
    ----------
    .. [1] W3C, "Scalable Vector Graphics (SVG) 2", 13.4.2.
    """
    return np.asarray(winding % 2 == 1 if rule == "evenodd" else winding != 0)


def windings_beside(rings: Sequence[Floats]) -> tuple[Ints, Ints]:
    """Winding numbers just outside and just inside of rings that do not cross; (R,) each."""
    signed = np.array([_area(ring) for ring in rings])
    turn = np.where(signed > 0, 1, -1)
    polygons = shapely.polygons([shapely.linearrings(ring) for ring in rings])
    points = shapely.points([ring[0] for ring in rings])
    inner, around = shapely.STRtree(polygons).query(points, predicate="within")
    deeper = (inner != around) & (np.abs(signed[around]) > np.abs(signed[inner]))
    outside = np.bincount(inner[deeper], turn[around[deeper]], len(rings)).astype(np.int64)
    return outside, outside + turn


def filled(rings: Sequence[Floats], rule: str) -> Any:
    """The area that rings fill, whether they cross or not, as polygons."""
    lines = [shapely.linearrings(ring) for ring in rings]
    cells = shapely.get_parts(shapely.polygonize([shapely.union_all(lines)]))
    if not len(cells):
        return shapely.Polygon()
    places = shapely.get_coordinates(shapely.point_on_surface(cells))
    return shapely.union_all(cells[fills(_windings(places, rings), rule)])


def _windings(places: Floats, rings: Sequence[Floats]) -> Ints:
    """Winding number of each place; (P,).

    A step that passes upwards on the right of a place counts 1, one downwards -1.
    """
    start = np.concatenate([*rings])
    end = np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    out = np.zeros(len(places), np.int64)
    portion = max(1, _PORTION // len(start))
    for low in range(0, len(places), portion):
        x, y = places[low : low + portion, :1], places[low : low + portion, 1:]
        up, down = (start[:, 1] <= y) & (end[:, 1] > y), (start[:, 1] > y) & (end[:, 1] <= y)
        side = (end[:, 0] - start[:, 0]) * (y - start[:, 1]) - (x - start[:, 0]) * (end[:, 1] - start[:, 1])
        out[low : low + portion] = (up & (side > 0)).sum(1) - (down & (side < 0)).sum(1)
    return out


def _area(ring: Floats) -> float:
    x, y = ring.T
    return 0.5 * float((x * np.roll(y, -1) - y * np.roll(x, -1)).sum())
