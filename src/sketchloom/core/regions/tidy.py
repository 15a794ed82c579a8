"""The Tidy step: give faces that are too small to cut to a neighbour."""

from dataclasses import replace

import msgspec
import numpy as np
from scipy.sparse import coo_array

from sketchloom.core.arrays import Bools, Bytes, Ints
from sketchloom.core.regions.faces import Faces, Runs, find_faces
from sketchloom.core.regions.labelmap import LabelMap

__all__ = ["TidySettings", "tidy"]

_MOST_ROUNDS = 50


class TidySettings(msgspec.Struct, frozen=True):
    """What is too small to keep."""

    least_area: float = 0.25
    """mm2; smaller faces, and smaller holes, join a neighbour."""


def tidy(regions: LabelMap, least_area: float) -> tuple[LabelMap, tuple[Faces, Runs], int]:
    """Merge small faces into the neighbour with which they share the longest boundary.

    Parameters
    ----------
    regions : LabelMap
    least_area : float
        In px.

    Returns
    -------
    LabelMap, (Faces, Runs), int
        The tidied map, its faces, and how many went.
    """
    labels, gone = regions.labels, 0
    faces, runs = find_faces(labels)
    for _ in range(_MOST_ROUNDS):
        small = faces.area < least_area
        small[0] = False
        if not small.any() or len(faces.label) == 2:
            break
        target = _longest_neighbour(labels, faces, runs, small)
        size = faces.area * len(target) + np.arange(len(target))
        moves = small & (target > 0) & ~(small[target] & (size[target] < size))
        if not moves.any():
            break
        label = faces.label.copy()
        label[moves] = faces.label[target[moves]]
        gone += int(moves.sum())
        labels = np.repeat(label[runs.face].astype(np.uint8), runs.length).reshape(labels.shape)
        faces, runs = find_faces(labels)
    if not gone:
        return regions, (faces, runs), 0
    used = np.bincount(faces.label[1:], minlength=len(regions.palette) + 1)[1:] > 0
    if used.all():
        return replace(regions, labels=labels), (faces, runs), gone
    number = np.zeros(len(used) + 1, np.uint8)
    number[1:][used] = np.arange(1, used.sum() + 1)
    palette = tuple(ink for ink, keep in zip(regions.palette, used, strict=True) if keep)
    tidied = replace(regions, labels=number[labels], palette=palette)
    return tidied, (faces._replace(label=number[faces.label].astype(np.int64)), runs), gone


def _longest_neighbour(labels: Bytes, faces: Faces, runs: Runs, small: Bools) -> Ints:
    """For each small face the neighbour with the longest shared boundary, else 0."""
    width = labels.shape[1]
    below = np.flatnonzero((labels[1:] != labels[:-1]).ravel())
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
