"""Faces: the 4-connected areas of equal ink and equal part, found from the runs of a label map."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bytes, Floats, Ints, connected_parts
from sketchloom.core.regions.labelmap import label_of_cells

__all__ = ["Faces", "Runs", "find_faces"]


class Runs(NamedTuple):
    """Stretches of one cell within a row."""

    start: Ints  # (R,) flat index of the first pixel, rising
    length: Ints  # (R,)
    face: Ints  # (R,) face of each run

    def face_at(self, pixel: Ints) -> Ints:
        """Face of pixels given by flat index."""
        return self.face[np.searchsorted(self.start, pixel, "right") - 1]


class Faces(NamedTuple):
    """The faces of a map; face 0 is all that lies outside the picture."""

    label: Ints  # (F,)
    cell: Ints  # (F,) ink and part as one number, as `LabelMap.cells` has it
    area: Ints  # (F,) px
    box: Ints  # (F, 4) left, top, right, bottom in px
    inside: Floats  # (F, 2) x, y of a pixel's middle that surely lies inside


def find_faces(cells: Bytes | Ints) -> tuple[Faces, Runs]:
    """Find the connected areas of equal ink and equal part.

    Runs of neighbouring rows that overlap and share a cell belong together;
    the overlaps follow from searching each run's start in the other row.

    Parameters
    ----------
    cells : (H, W) int
        As `LabelMap.cells` has them; plain labels will do.

    Returns
    -------
    Faces, Runs
        Faces in the order in which a reader meets them, row by row.
    """
    height, width = cells.shape
    flat = cells.ravel()
    turn = np.empty((height, width), bool)
    turn[:, 0] = True
    np.not_equal(cells[:, 1:], cells[:, :-1], out=turn[:, 1:])
    start = np.flatnonzero(turn)
    length = np.diff(start, append=flat.size)
    value = flat[start]
    above = np.searchsorted(start, start - width, "right") - 1
    below = np.searchsorted(start, start + width, "right") - 1
    run = np.arange(len(start))
    has_above, has_below = start >= width, start < flat.size - width
    one = np.concatenate([run[has_above], run[has_below]])
    other = np.concatenate([above[has_above], below[has_below]])
    alike = value[one] == value[other]
    one, other = one[alike], other[alike]
    count, found = connected_parts(len(start), one, other)
    first = np.full(count, len(start))
    np.minimum.at(first, found, run)
    face = np.empty(count, np.int64)
    face[np.argsort(first)] = np.arange(1, count + 1)
    face_of_run = face[found]
    return _describe(start, length, value, face_of_run, count, width), Runs(start, length, face_of_run)


def _describe(start: Ints, length: Ints, value: Bytes | Ints, face: Ints, count: int, width: int) -> Faces:
    y, x = np.divmod(start, width)
    cell, area = np.zeros(count + 1, value.dtype), np.bincount(face, length, count + 1).astype(np.int64)
    cell[face] = value
    box = np.zeros((count + 1, 4), np.int64)
    box[1:, :2] = width + len(start) + y.max(initial=0)
    np.minimum.at(box[:, 0], face, x)
    np.minimum.at(box[:, 1], face, y)
    np.maximum.at(box[:, 2], face, x + length)
    np.maximum.at(box[:, 3], face, y + 1)
    by_length = np.argsort(length, kind="stable")
    longest = np.zeros(count + 1, np.int64)
    longest[face[by_length]] = by_length
    inside = np.stack([x[longest] + length[longest] // 2 + 0.5, y[longest] + 0.5], 1)
    inside[0] = -1.0
    return Faces(label_of_cells(cell)[0].astype(np.int64), cell.astype(np.int64), area, box, inside)
