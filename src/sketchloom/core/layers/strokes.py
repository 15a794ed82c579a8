"""Layers of open strokes: the centre lines of an ink, for a pen, foil or an engraver."""

from dataclasses import dataclass, field

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Piece
from sketchloom.core.curves.centre import Stroke, centre_lines
from sketchloom.core.layers.finish import DECIMALS, Finished
from sketchloom.core.planar import EdgeSamples, PlanarMap
from sketchloom.core.regions import Ink, LabelMap

__all__ = ["StrokeLayer", "find_strokes", "length_of", "stroke_layer"]


@dataclass(frozen=True, eq=False)
class StrokeLayer:
    """The centre lines of one ink.

    Attributes
    ----------
    name : str
    ink : Ink
    strokes : tuple of Stroke
        mm.
    length : float
        mm.
    width : float
        Usual width of the strokes, mm.
    """

    name: str
    ink: Ink
    strokes: tuple[Stroke, ...] = field(repr=False)
    length: float
    width: float

    @property
    def nodes(self) -> int:
        """Number of nodes of all strokes."""
        return sum(len(stroke.piece.control) + (not stroke.closed) for stroke in self.strokes)


def find_strokes(
    regions: LabelMap, planar: PlanarMap, samples: EdgeSamples, label: int, tolerance: float
) -> tuple[Stroke, ...]:
    """Find the centre lines of one ink; px.

    Parameters
    ----------
    regions : LabelMap
    planar : PlanarMap
    samples : EdgeSamples
    label : int
    tolerance : float
        px.
    """
    of_face = planar.faces.label
    beside = (of_face[planar.left] == label) | (of_face[planar.right] == label)
    edges = samples.points[np.repeat(beside, np.diff(samples.offset))]
    return centre_lines(regions.labels == label, edges, tolerance)


def stroke_layer(ink: Ink, strokes: tuple[Stroke, ...], finished: Finished) -> StrokeLayer:
    """Bring centre lines to mm at the finished size, rounded once."""
    scale = finished.px_per_mm
    out = []
    for stroke in strokes:
        control = np.round((stroke.piece.control - finished.origin) / scale, DECIMALS) + 0.0
        straight = stroke.piece.straight
        third = (control[straight, 3] - control[straight, 0]) / 3
        control[straight, 1], control[straight, 2] = control[straight, 0] + third, control[straight, 3] - third
        out.append(Stroke(Piece(control, straight), stroke.closed, stroke.width / scale, stroke.widths / scale))
    lengths = np.array([length_of(stroke.piece.control) for stroke in out])
    widths = np.array([stroke.width for stroke in out])
    width = float(np.average(widths, weights=lengths)) if len(out) and lengths.sum() else 0.0
    return StrokeLayer(f"{ink.name} centre lines", ink, tuple(out), float(lengths.sum()), width)


def length_of(control: Floats) -> float:
    """Length of cubics, (n, 4, 2), by Gauss-Legendre quadrature with 12 points each."""
    times, weights = np.polynomial.legendre.leggauss(12)
    t = ((times + 1) / 2)[None, :, None]
    d = 3 * np.diff(control, axis=1)[:, :, None]
    speed = (1 - t) ** 2 * d[:, 0] + 2 * t * (1 - t) * d[:, 1] + t**2 * d[:, 2]
    return float((np.hypot(speed[..., 0], speed[..., 1]) * weights).sum() / 2)
