"""Layers of open strokes: the centre lines of an ink, for a pen, foil or an engraver."""

from collections.abc import Sequence

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path, Piece
from sketchloom.core.curves.centre import CentreLine, centre_lines
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut import Cut, Figures
from sketchloom.core.layers.finish import Finished
from sketchloom.core.palette import Ink
from sketchloom.core.planar import EdgeSamples, PlanarMap
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions import LabelMap
from sketchloom.core.units import DECIMALS

__all__ = ["find_strokes", "join_ends", "stroke_layer", "usual_width"]


_END_REACH = 12.0
"""px"""


def find_strokes(
    regions: LabelMap,
    planar: PlanarMap,
    samples: EdgeSamples,
    key: str,
    tolerance: float,
    tick: Tick = no_tick,
) -> tuple[CentreLine, ...]:
    """Find the centre lines of one ink; px.

    Parameters
    ----------
    regions : LabelMap
    planar : PlanarMap
    samples : EdgeSamples
    key : str
        Of the ink.
    tolerance : float
        px.
    """
    label = regions.keys.index(key) + 1
    of_face = planar.faces.label
    beside = (of_face[planar.left] == label) | (of_face[planar.right] == label)
    edges = samples.points[np.repeat(beside, np.diff(samples.offset))]
    return centre_lines(regions.labels == label, edges, tolerance, tick)


def join_ends(
    strokes: tuple[CentreLine, ...], pairs: Sequence[tuple[Floats, Floats]]
) -> tuple[tuple[CentreLine, ...], int]:
    """Join open ends by a curve that runs on from both.

    Parameters
    ----------
    strokes : tuple of CentreLine
        px.
    pairs : sequence of ((2,) float, (2,) float)
        Near the ends to join, px.

    Returns
    -------
    strokes : tuple of CentreLine
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
        joined = CentreLine(piece, same, float(np.median(widths)), widths)
        found = [stroke for place, stroke in enumerate(found) if place not in (one, other)] + [joined]
    return tuple(found), lost


def _end_near(strokes: list[CentreLine], at: Floats) -> tuple[int, bool] | None:
    """The open end nearest to a place: which stroke, and whether it is its last."""
    ends = [(n, stop) for n, stroke in enumerate(strokes) if not stroke.closed for stop in (False, True)]
    places = [strokes[n].piece.control[-1, 3] if stop else strokes[n].piece.control[0, 0] for n, stop in ends]
    away = [float(np.hypot(*(place - at))) for place in places]
    return ends[int(np.argmin(away))] if away and min(away) <= _END_REACH else None


def _turned(stroke: CentreLine) -> CentreLine:
    return stroke._replace(piece=stroke.piece.reversed(), widths=stroke.widths[::-1])


def _unit(way: Floats) -> Floats:
    return np.asarray(way / max(float(np.hypot(*way)), 1e-9))


def stroke_layer(ink: Ink, strokes: tuple[CentreLine, ...], finished: Finished) -> Cut:
    """Bring centre lines to mm at the finished size, rounded once."""
    scale = finished.px_per_mm
    contours = []
    for stroke in strokes:
        control = np.round((stroke.piece.control - finished.origin) / scale, DECIMALS) + 0.0
        straight_thirds(control, stroke.piece.straight)
        contours.append(np.vstack([control[:, :3].reshape(-1, 2), control[-1:, 3]]))
    path = Path(
        tuple(contours),
        tuple(stroke.piece.straight for stroke in strokes),
        tuple(not stroke.closed for stroke in strokes),
    )
    widths = tuple(stroke.width / scale for stroke in strokes)
    figures = Figures(len(strokes), 0.0, path.length)
    name = f"{ink.name} centre lines"
    return Cut(key=f"{ink.key} centre", name=name, ink=ink, path=path, kind="draw", widths=widths, known=figures)


def usual_width(strokes: Cut) -> float:
    """Width of strokes, mm, each as it counts by its length."""
    lengths = np.array([strokes.path.part([place]).length for place in range(len(strokes.widths))])
    return float(np.average(strokes.widths, weights=lengths)) if len(lengths) and lengths.sum() else 0.0
