"""Specks: give faces that are too small to cut to a neighbour."""

from typing import Literal, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.regions import Faces, LabelMap, Runs, find_faces, is_clean
from sketchloom.core.tidy.blends import only_blends

__all__ = ["Cleared", "Taken", "clear_specks", "least_told", "longest_neighbours", "taken_of"]

_MOST_ROUNDS = 50
_WORN_LEAST, _WORN_MOST = 6.0, 24.0
"""px2; smaller pieces of a worn picture are mostly crumbs."""
_STRAYS, _OF_STRAY = 7.0, 2.0
"""8-bit steps that a picture may stray, and px2 more for each step beyond."""
_RINGS, _ENOUGH = 9, 200_000
"""Side in px of the square round an edge in which compression rings; pixels of it that say enough."""


class Taken(NamedTuple):
    """What was too small or too thin to keep."""

    kind: Literal["speck", "hair", "hole"]
    key: str  # of its ink, empty for ground
    area: float  # px
    inside: tuple[float, float]  # a place in it, px
    box: tuple[int, int, int, int]  # left, top, right, bottom, px


class Cleared(NamedTuple):
    """A label map without specks.

    An ink of which nothing is left keeps its key and its label; it has no face.
    """

    regions: LabelMap
    faces: Faces
    runs: Runs
    taken: tuple[Taken, ...]  # that joined a neighbour
    least: float = 0.0  # area that a face had to have, px
    floor: float = 0.0  # the area that the picture itself tells a piece by, px

    @property
    def gone(self) -> int:
        """How many were taken."""
        return len(self.taken)


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


def clear_specks(
    regions: LabelMap, least_area: float | Floats, floor: float = 0.0, kept: Bools | None = None
) -> Cleared:
    """Merge small faces, and those that are only blends, into the neighbour with the longest shared boundary.

    Parameters
    ----------
    regions : LabelMap
    least_area : float or (1 + K,) float
        In px; of all, or by label, ground's first.
    floor : float
        What the picture itself tells a piece by, px.
    kept : (H, W) bool, optional
        Faces with a pixel here stay, however small they are.
    """
    cells = regions.cells
    taken: list[Taken] = []
    least = np.maximum(np.broadcast_to(least_area, 1 + len(regions.keys)), floor)
    faces, runs = find_faces(cells)
    for _ in range(_MOST_ROUNDS):
        small = (faces.area < least[faces.label]) | only_blends(regions.with_cells(cells), faces, runs)
        small[0] = False
        if kept is not None:
            small[runs.face_at(np.flatnonzero(kept))] = False
        if not small.any() or len(faces.label) == 2:
            break
        target = longest_neighbours(cells, faces, runs, small)
        size = faces.area * len(target) + np.arange(len(target))
        moves = small & (target > 0) & ~(small[target] & (size[target] < size))
        if not moves.any():
            break
        cell = faces.cell.copy()
        cell[moves] = faces.cell[target[moves]]
        taken += taken_of("speck", faces, regions.keys, np.flatnonzero(moves))
        cells = np.repeat(cell[runs.face].astype(cells.dtype), runs.length).reshape(cells.shape)
        faces, runs = find_faces(cells)
    return Cleared(regions.with_cells(cells) if taken else regions, faces, runs, tuple(taken), float(least[0]), floor)


def taken_of(kind: Literal["speck", "hair", "hole"], faces: Faces, keys: tuple[str, ...], some: Ints) -> list[Taken]:
    """Tell of faces that are taken."""
    return [
        Taken(
            kind,
            keys[label - 1] if label else "",
            float(area),
            (float(inside[0]), float(inside[1])),
            (int(box[0]), int(box[1]), int(box[2]), int(box[3])),
        )
        for label, area, inside, box in zip(
            faces.label[some].tolist(), faces.area[some].tolist(), faces.inside[some], faces.box[some], strict=True
        )
    ]


def longest_neighbours(cells: Bytes | Ints, faces: Faces, runs: Runs, small: Bools, to: Bools | None = None) -> Ints:
    """For each small face the neighbour with the longest shared boundary, of those it may go `to`, else 0; (F,)."""
    width = cells.shape[1]
    below = np.flatnonzero((cells[1:] != cells[:-1]).ravel())
    beside = np.flatnonzero(runs.start % width)
    a = np.concatenate([runs.face_at(below), runs.face[beside - 1]])
    b = np.concatenate([runs.face_at(below + width), runs.face[beside]])
    a, b = np.concatenate([a, b]), np.concatenate([b, a])
    keep = small[a] & (a != b)
    if to is not None:
        keep &= to[b]
    count = len(faces.label)
    pair, shared = np.unique(a[keep].astype(np.int64) * count + b[keep], return_counts=True)
    row, column = np.divmod(pair, count)
    order = np.lexsort((column, -shared, row))
    row, column = row[order], column[order]
    first = np.append(True, row[1:] != row[:-1]) if len(row) else np.zeros(0, bool)
    out = np.zeros(count, np.int64)
    out[row[first]] = column[first]
    return out
