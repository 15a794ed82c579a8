"""Layers of open strokes: the centre lines of an ink, for a pen, foil or an engraver."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Piece
from sketchloom.core.curves.centre import Stroke, centre_lines
from sketchloom.core.layers.finish import DECIMALS, Finished
from sketchloom.core.planar import EdgeSamples, PlanarMap
from sketchloom.core.regions import Ink, LabelMap

__all__ = ["Join", "StrokeLayer", "find_strokes", "join_ends", "length_of", "stroke_layer"]


_END_REACH = 12.0
"""px"""


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


class Join(msgspec.Struct, frozen=True):
    """Two open ends of centre lines that a curve joins; source coordinates."""

    ink: str
    """Hex colour."""
    first: tuple[float, float]
    last: tuple[float, float]


def join_ends(strokes: tuple[Stroke, ...], pairs: Sequence[tuple[Floats, Floats]]) -> tuple[tuple[Stroke, ...], int]:
    """Join open ends by a curve that runs on from both.

    Parameters
    ----------
    strokes : tuple of Stroke
        px.
    pairs : sequence of ((2,) float, (2,) float)
        Near the ends to join, px.

    Returns
    -------
    strokes : tuple of Stroke
    lost : int
        Pairs for which no two ends were found.
    """
    found, lost = list(strokes), 0
    for pair in pairs:
        ends = [_end_near(found, at) for at in pair]
        if ends[0] is None or ends[1] is None or ends[0] == ends[1]:
            lost += 1
            continue
        (one, one_stop), (other, other_stop) = ends[0], ends[1]
        first = found[one] if one_stop else _turned(found[one])
        last = _turned(found[other]) if other_stop else found[other]
        start, end = first.piece.control[-1], last.piece.control[0]
        reach = float(np.hypot(*(end[0] - start[3]))) / 3
        bridge = np.stack([start[3], start[3] + reach * _unit(start[3] - start[2]), end[0], end[0]])
        bridge[2] -= reach * _unit(end[1] - end[0])
        same = one == other
        parts = [first.piece, Piece(bridge[None], np.zeros(1, bool))] + ([] if same else [last.piece])
        piece = Piece(np.concatenate([p.control for p in parts]), np.concatenate([p.straight for p in parts]))
        widths = np.append(first.widths, first.widths[:1] if same else last.widths)
        joined = Stroke(piece, same, float(np.median(widths)), widths)
        found = [stroke for place, stroke in enumerate(found) if place not in (one, other)] + [joined]
    return tuple(found), lost


def _end_near(strokes: list[Stroke], at: Floats) -> tuple[int, bool] | None:
    """The open end nearest to a place: which stroke, and whether it is its last."""
    ends = [(n, stop) for n, stroke in enumerate(strokes) if not stroke.closed for stop in (False, True)]
    places = [strokes[n].piece.control[-1, 3] if stop else strokes[n].piece.control[0, 0] for n, stop in ends]
    away = [float(np.hypot(*(place - at))) for place in places]
    return ends[int(np.argmin(away))] if away and min(away) <= _END_REACH else None


def _turned(stroke: Stroke) -> Stroke:
    return stroke._replace(piece=stroke.piece.reversed(), widths=stroke.widths[::-1])


def _unit(way: Floats) -> Floats:
    return np.asarray(way / max(float(np.hypot(*way)), 1e-9))


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
