"""The curves of all arcs of a planar map: the value that fitting and work by hand give."""

from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves.path import areas_below, lengths_of, straight_thirds

__all__ = ["ArcCurves", "Deviation", "Piece", "arc_piece"]


class Piece(NamedTuple):
    """Segments in a row."""

    control: Floats  # (n, 4, 2)
    straight: Bools  # (n,)

    def reversed(self) -> "Piece":
        """The same, the other way round."""
        return Piece(self.control[::-1, ::-1], self.straight[::-1])


class Deviation(NamedTuple):
    """How far the picture's edges lie from the curves.

    Attributes
    ----------
    place : (N, 2) float64
        Samples of the edges, arc after arc, px.
    away : (N,) float64
        Distance of each from its arc, px or mm.
    offset : (A + 1,) int
        Where each arc begins.
    """

    place: Floats
    away: Floats
    offset: Ints

    @property
    def largest(self) -> Floats:
        """Of each arc; (A,)."""
        return np.maximum.reduceat(self.away, self.offset[:-1]) if len(self.away) else np.zeros(0)

    @property
    def mean(self) -> Floats:
        """Of each arc; (A,)."""
        total = np.add.reduceat(self.away, self.offset[:-1]) if len(self.away) else np.zeros(0)
        return np.asarray(total / np.maximum(np.diff(self.offset), 1))

    def in_mm(self, px_per_mm: float) -> "Deviation":
        """Bring the distances to mm; the places stay."""
        return self._replace(away=self.away / px_per_mm)


@dataclass(frozen=True, eq=False)
class ArcCurves:
    """Cubic segments of every arc.

    Attributes
    ----------
    points : (P, 2) float64
        Node, two controls, node ... of one arc after the other; an arc of n
        segments has 3 n + 1 points.
    straight, round : (S,) bool
        Which segments are straight lines, and which circular arcs.
    offset : (A + 1,) int
        Segment at which each arc begins; its points begin at ``3 offset[a] + a``.
    deviation : Deviation
    unit : str
        ``px`` or ``mm``.
    """

    points: Floats
    straight: Bools
    round: Bools
    offset: Ints
    deviation: Deviation
    unit: str = field(default="px")

    @property
    def segments(self) -> Floats:
        """Control points of every segment; (S, 4, 2)."""
        arc = np.repeat(np.arange(len(self.offset) - 1), np.diff(self.offset))
        place = np.arange(len(arc)) - self.offset[arc]
        return self.points[(3 * self.offset[arc] + arc + 3 * place)[:, None] + np.arange(4)]

    def in_mm(self, origin: Floats, px_per_mm: float, decimals: int) -> "ArcCurves":
        """Move to `origin` and bring to mm, rounded once to what files are written with.

        The controls of straight segments are not written; they stay on the chord.
        """
        points = np.round((self.points - origin) / px_per_mm, decimals) + 0.0
        arc = np.repeat(np.arange(len(self.offset) - 1), np.diff(self.offset))
        begin = (3 * np.arange(len(arc)) + arc)[self.straight]
        index = begin[:, None] + np.arange(4)
        points[index] = straight_thirds(points[index], np.ones(len(begin), bool))
        return replace(self, points=points, deviation=self.deviation.in_mm(px_per_mm), unit="mm")

    def areas(self) -> Floats:
        """What each arc adds to the area on its right hand by Green's formula; (A,) in square units."""
        return np.add.reduceat(areas_below(self.segments), self.offset[:-1])

    def lengths(self) -> Floats:
        """Length of each arc; (A,), by Gauss-Legendre quadrature with 12 points a segment."""
        return np.add.reduceat(lengths_of(self.segments), self.offset[:-1])


def arc_piece(curves: ArcCurves, arc: int) -> Piece:
    """All segments of an arc."""
    low, high = int(curves.offset[arc]), int(curves.offset[arc + 1])
    begin = 3 * low + arc
    points = curves.points[begin : begin + 3 * (high - low) + 1]
    index = 3 * np.arange(high - low)[:, None] + np.arange(4)
    return Piece(points[index], curves.straight[low:high])
