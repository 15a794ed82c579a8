"""Outlines as the cells of a grid that they touch, so that what shares no cell does not touch."""

from collections.abc import Iterable, Sequence
from typing import Any, NamedTuple

import cv2
import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats, Ints

__all__ = ["Runs", "bits_of", "rings_of", "runs_of", "touched"]

_SHIFT = 8
"""Binary places of a cell that outlines are filled to; what they run through is found exactly."""


class Runs(NamedTuple):
    """Cells as runs along rows."""

    row: Ints
    first: Ints
    length: Ints
    width: int  # cells
    height: int
    cells: int


def rings_of(shapes: Iterable[Any]) -> list[Floats]:
    """All rings of some polygons, outer ones and holes; a list of (N, 2) arrays."""
    rings = shapely.get_rings(shapely.get_parts(np.array(list(shapes), object)))
    points, of = shapely.get_coordinates(rings, return_index=True)
    return np.split(points, np.flatnonzero(np.diff(of)) + 1)


def touched(rings: Sequence[Floats], width: int, height: int) -> Bools:
    """Tell which cells polygons touch, whole or in part; (height, width) bool.

    Parameters
    ----------
    rings : sequence of (N, 2) float
        In cells: the cell in row i and column j is [j, j + 1] x [i, i + 1]. Even-odd.
    width, height : int
        What lies outside is left out.
    """
    mask = np.zeros((height, width), np.uint8)
    fixed = [np.round((ring - 0.5) * 2**_SHIFT).astype(np.int32) for ring in rings]
    cv2.fillPoly(mask, fixed, 1, shift=_SHIFT)
    out: Bools = mask.astype(bool)
    x, y = _run_through(rings)
    inside = (x >= 0) & (y >= 0) & (x < width) & (y < height)
    out[y[inside], x[inside]] = True
    return out


def _run_through(rings: Sequence[Floats]) -> tuple[Ints, Ints]:
    """Columns and rows of the cells that outlines run through."""
    closed = [np.vstack([ring, ring[:1]]) for ring in rings]
    start = np.vstack([ring[:-1] for ring in closed])
    step = np.vstack([ring[1:] for ring in closed]) - start
    many = np.arange(len(start))
    of, at = [many, many], [np.zeros(len(start)), np.ones(len(start))]
    for axis in (0, 1):
        ends = np.sort(np.column_stack([start[:, axis], start[:, axis] + step[:, axis]]), axis=1)
        low = np.ceil(ends[:, 0]).astype(np.int64)
        count = np.maximum(0, np.floor(ends[:, 1]).astype(np.int64) - low + 1)
        count[step[:, axis] == 0] = 0
        own = np.repeat(many, count)
        line = low[own] + np.arange(len(own)) - (np.cumsum(count) - count)[own]
        of.append(own)
        at.append(np.clip((line - start[own, axis]) / step[own, axis], 0.0, 1.0))
    own, share = np.concatenate(of), np.concatenate(at)
    order = np.lexsort((share, own))
    own, share = own[order], share[order]
    same = own[1:] == own[:-1]
    middle = ((share[1:] + share[:-1]) / 2)[same]
    cells = np.floor(start[own[:-1][same]] + middle[:, None] * step[own[:-1][same]]).astype(np.int64)
    return cells[:, 0], cells[:, 1]


def runs_of(mask: Bools) -> Runs:
    """Give the cells of a mask as runs along its rows."""
    height, width = mask.shape
    padded = np.zeros((height, width + 2), np.int8)
    padded[:, 1:-1] = mask
    change = np.diff(padded, axis=1)
    row, first = np.nonzero(change == 1)
    _, after = np.nonzero(change == -1)
    return Runs(row, first, after - first, width, height, int(mask.sum()))


def bits_of(mask: Bools) -> int:
    """Give a mask as one number, a bit a cell, row after row from the lowest bit."""
    return int.from_bytes(np.packbits(mask.ravel(), bitorder="little").tobytes(), "little")
