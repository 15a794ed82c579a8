"""The pieces of a cut: its connected parts with their outlines, or all its drawn lines."""

from collections.abc import Sequence
from typing import Any, Literal, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut
from sketchloom.core.units import FINEST

__all__ = ["Part", "parts_of", "stroke_of"]

_THIN = 0.1
"""mm; as wide as any line that is drawn is taken to be."""


class Part(NamedTuple):
    """A connected part of a cut, or all its drawn lines."""

    cut: Cut
    contours: tuple[int, ...]
    shape: Any
    """Polygon, mm, where it lies in the design; several where one outline touches itself."""
    role: Literal["", "marks"] = ""


def stroke_of(cut: Cut) -> Part:
    """All drawn lines of a cut, as what they cover."""
    widths = [max(width, _THIN) for width in cut.widths] or [_THIN] * len(cut.path.contours)
    ends = (contour[-1:] for contour in cut.path.contours)  # of an open line, which its points leave out
    lines = [shapely.linestrings(np.vstack([ring, end])) for ring, end in zip(cut.flat.rings, ends, strict=True)]
    covered = [line.buffer(width / 2) for line, width in zip(lines, widths, strict=False)]
    whole = shapely.union_all(covered)
    return Part(cut, tuple(range(len(cut.path.contours))), whole)


def parts_of(cut: Cut) -> list[Part]:
    """The connected parts of a cut; one where its outlines cannot be told apart."""
    if not cut.polygons.sound.all() and cut.path.meant is None:
        cut = cut.with_path(_untied(cut.path))
    pieces = cut.polygons
    if not len(pieces.shapes):
        return []
    if not pieces.valid:
        return [Part(cut, tuple(range(len(cut.path.contours))), shapely.union_all(pieces.shapes))]
    contours: list[list[int]] = [[] for _ in pieces.shapes]
    for contour, piece in enumerate(pieces.of_contour.tolist()):
        if piece >= 0:
            contours[piece].append(contour)
    shapes = [[shape] for shape in pieces.shapes.tolist()]
    rings = cut.flat.rings
    for orphan in (place for place, own in enumerate(contours) if not own):  # split off where an outline touches itself
        inside = pieces.shapes[orphan].representative_point()
        for place, own in enumerate(contours):
            if own and not pieces.sound[place] and _enclosed([rings[one] for one in own]).covers(inside):
                shapes[place].append(pieces.shapes[orphan])
                break
    return [
        Part(cut, tuple(own), some[0] if len(some) == 1 else shapely.multipolygons(some))
        for own, some in zip(contours, shapes, strict=True)
        if own and not some[0].is_empty
    ]


def _untied(path: Path) -> Path:
    """Part closed outlines at nodes that they run through twice: there what they go round hangs together by a point."""
    contours: list[Floats] = []
    flags: list[Bools] = []
    is_open: list[bool] = []
    for contour, straight, closed in zip(path.contours, path.straight, path.closed, strict=True):
        loops = _loops(contour[:-1:3]) if closed else [list(range(len(straight)))]
        for loop in loops:
            segments = contour[3 * np.array(loop)[:, None] + np.arange(4)]
            contours.append(np.vstack([segments[:, :3].reshape(-1, 2), segments[-1:, 3]]))
            flags.append(straight[loop])
            is_open.append(not closed)
    return Path(tuple(contours), tuple(flags), tuple(is_open) if any(is_open) else ())


def _loops(nodes: Floats) -> list[list[int]]:
    """Part a closed line at nodes that it visits again; each loop by the numbers of its segments."""
    out: list[list[int]] = []
    way: list[int] = []
    seen: dict[tuple[float, float], int] = {}
    for number, node in enumerate(map(tuple, np.round(nodes, FINEST).tolist())):
        if node in seen:
            back = seen[node]
            out.append(way[back:])
            for one in way[back:]:
                seen.pop(tuple(np.round(nodes[one], FINEST).tolist()), None)
            way = way[:back]
        seen[node] = len(way)
        way.append(number)
    return [*out, way]


def _enclosed(rings: Sequence[Floats]) -> Any:
    """What an outline and the holes in it enclose, though it touches itself."""
    polygons = np.array([shapely.Polygon(ring) for ring in rings if len(ring) >= 3], object)
    whole = shapely.make_valid(polygons, method="structure", keep_collapsed=False)
    largest = max(range(len(whole)), key=lambda place: whole[place].area)
    return shapely.difference(whole[largest], shapely.union_all(np.delete(whole, largest)))
