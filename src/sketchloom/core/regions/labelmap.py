"""The label map: one small integer a pixel, naming its ink."""

from dataclasses import dataclass, field, replace

import numpy as np

from sketchloom.core.arrays import Bytes, Floats, Ints

__all__ = ["GROUND", "MOST_INKS", "DrawnEdge", "LabelMap", "cells_of", "label_of_cells"]

GROUND = 0
MOST_INKS = 254
_PART = 256


@dataclass(frozen=True, eq=False)
class DrawnEdge:
    """An edge that a hand has drawn: exact, whatever the picture shows there.

    Attributes
    ----------
    points : (N, 2) float64
        Along the edge, px, close enough for straight lines between them.
    closed : bool
        Whether the last point joins the first.
    """

    points: Floats
    closed: bool = False

    def moved(self, by: Floats) -> "DrawnEdge":
        """Give the edge elsewhere."""
        return DrawnEdge(self.points + by, self.closed)


@dataclass(frozen=True, eq=False)
class LabelMap:
    """Labels of a picture's pixels, and what they were read from.

    Attributes
    ----------
    labels : (H, W) uint8
        0 is ground, where nothing is cut; label ``i`` is the ink ``keys[i - 1]``.
    keys : tuple of str
        Of the palette. A stage that leaves an ink without a pixel leaves its
        key where it is.
    evidence : (H, W, 4) uint8
        The picture the labels were read from, cleared of alpha, light and
        tone curve, so that an edge pixel is a linear blend; the fourth value
        says nothing.
    tones : (H, W) uint8
        Labels before tones were joined to inks and the ground was cleared.
    mix : (T, 3) float
        The pure colour of each tone in `evidence`.
    parts : (H, W) uint16, optional
        Where a hand has parted pieces of one ink; pieces are connected areas
        of equal ink and equal part. None where nothing was parted.
    drawn : tuple of DrawnEdge
        Edges that a hand has drawn.
    soft : float
        px that edges may be off from what was drawn: a worn picture says no more of them.
    blur : float
        Standard deviation of the softness of the edges of an ink drawing, px.
    simple : bool
        Whether edges were simplified: then they do not scatter by more than that.
    """

    labels: Bytes
    keys: tuple[str, ...]
    evidence: Bytes = field(repr=False)
    tones: Bytes = field(repr=False)
    mix: Floats = field(repr=False)
    parts: Ints | None = field(repr=False, default=None)
    drawn: tuple[DrawnEdge, ...] = field(repr=False, default=())
    soft: float = 0.0
    blur: float = 0.0
    simple: bool = False

    @property
    def cells(self) -> Bytes | Ints:
        """Ink and part of every pixel as one number: what the faces are connected areas of."""
        return cells_of(self.labels, self.parts)

    def with_cells(self, cells: Bytes | Ints) -> "LabelMap":
        """Give a map with other cells."""
        labels, parts = label_of_cells(cells)
        return replace(self, labels=labels, parts=parts if self.parts is not None else None)


def cells_of(labels: Bytes, parts: Ints | None) -> Bytes | Ints:
    """Ink and part of every pixel as one number; the labels themselves where nothing was parted."""
    if parts is None:
        return labels
    cells: Ints = parts.astype(np.uint32) * _PART + labels
    return cells


def label_of_cells(cells: Bytes | Ints) -> tuple[Bytes, Ints]:
    """Labels and parts of cells."""
    if cells.dtype == np.uint8:
        return cells.astype(np.uint8, copy=False), np.zeros(cells.shape, np.uint16)
    part, label = np.divmod(cells, _PART)
    return label.astype(np.uint8), part.astype(np.uint16)
