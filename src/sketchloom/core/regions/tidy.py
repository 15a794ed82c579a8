"""Specks: give faces that are too small to cut to a neighbour."""

from typing import NamedTuple

import cv2
import msgspec
import numpy as np
from scipy.sparse import coo_array

from sketchloom.core.arrays import Bools, Bytes, Ints
from sketchloom.core.regions.cores import is_clean
from sketchloom.core.regions.faces import Faces, Runs, find_faces
from sketchloom.core.regions.labelmap import LabelMap

__all__ = ["Tidied", "TidySettings", "least_told", "tidy"]

_MOST_ROUNDS = 50
_WORN_LEAST, _WORN_MOST = 6.0, 24.0
"""px2; smaller pieces of a worn picture are mostly crumbs."""
_STRAYS, _OF_STRAY = 7.0, 2.0
"""8-bit steps that a picture may stray, and px2 more for each step beyond."""
_RINGS, _ENOUGH = 9, 200_000
"""Side in px of the square round an edge in which compression rings; pixels of it that say enough."""


class TidySettings(msgspec.Struct, frozen=True):
    """What is too small to keep."""

    least_area: float = 0.25
    """mm2; smaller faces, and smaller holes, join a neighbour."""


class Tidied(NamedTuple):
    """A label map without specks.

    An ink of which nothing is left keeps its key and its label; it has no face.
    """

    regions: LabelMap
    faces: Faces
    runs: Runs
    gone: int  # faces that joined a neighbour
    least: float = 0.0  # area that a face had to have, px
    floor: float = 0.0  # the area that the picture itself tells a piece by, px


def least_told(regions: LabelMap) -> float:
    """The area of the smallest piece that a picture tells from what compression, grain or blur made; px.

    A clean picture shows every piece it was drawn with. In a worn one crumbs
    are the larger the more the pixels beside edges, which only ring, stray
    from their tone.
    """
    if regions.soft > 0:
        return _WORN_LEAST
    if is_clean(regions.evidence):
        return 0.0
    square = np.ones((3, 3), np.uint8)
    edge = (cv2.dilate(regions.tones, square) != cv2.erode(regions.tones, square)).view(np.uint8)
    beside = (cv2.dilate(edge, np.ones((_RINGS, _RINGS), np.uint8)) > edge).ravel()
    seen = np.flatnonzero(beside)
    if not len(seen):
        return _WORN_LEAST
    seen = seen[:: max(1, len(seen) // _ENOUGH)]
    own = regions.mix[regions.tones.ravel()[seen]]
    stray = np.abs(regions.evidence.reshape(-1, 4)[seen, :3] - own).max(1)
    more = _OF_STRAY * (float(np.percentile(stray, 90)) - _STRAYS)
    return float(np.clip(_WORN_LEAST + more, _WORN_LEAST, _WORN_MOST))


def tidy(regions: LabelMap, least_area: float, floor: float = 0.0) -> Tidied:
    """Merge small faces into the neighbour with which they share the longest boundary.

    Parameters
    ----------
    regions : LabelMap
    least_area : float
        In px.
    floor : float
        What the picture itself tells a piece by, px.
    """
    cells, gone = regions.cells, 0
    least = max(least_area, floor)
    faces, runs = find_faces(cells)
    for _ in range(_MOST_ROUNDS):
        small = faces.area < least
        small[0] = False
        if not small.any() or len(faces.label) == 2:
            break
        target = _longest_neighbour(cells, faces, runs, small)
        size = faces.area * len(target) + np.arange(len(target))
        moves = small & (target > 0) & ~(small[target] & (size[target] < size))
        if not moves.any():
            break
        cell = faces.cell.copy()
        cell[moves] = faces.cell[target[moves]]
        gone += int(moves.sum())
        cells = np.repeat(cell[runs.face].astype(cells.dtype), runs.length).reshape(cells.shape)
        faces, runs = find_faces(cells)
    return Tidied(regions.with_cells(cells) if gone else regions, faces, runs, gone, least, floor)


def _longest_neighbour(cells: Bytes | Ints, faces: Faces, runs: Runs, small: Bools) -> Ints:
    """For each small face the neighbour with the longest shared boundary, else 0."""
    width = cells.shape[1]
    below = np.flatnonzero((cells[1:] != cells[:-1]).ravel())
    beside = np.flatnonzero(runs.start % width)
    a = np.concatenate([runs.face_at(below), runs.face[beside - 1]])
    b = np.concatenate([runs.face_at(below + width), runs.face[beside]])
    a, b = np.concatenate([a, b]), np.concatenate([b, a])
    keep = small[a] & (a != b)
    count = len(faces.label)
    shared = coo_array((np.ones(int(keep.sum())), (a[keep], b[keep])), (count, count)).tocsr().tocoo()
    row, column = shared.coords
    order = np.lexsort((column, -shared.data, row))
    row, column = row[order], column[order]
    first = np.append(True, row[1:] != row[:-1]) if len(row) else np.zeros(0, bool)
    out = np.zeros(count, np.int64)
    out[row[first]] = column[first]
    return out
