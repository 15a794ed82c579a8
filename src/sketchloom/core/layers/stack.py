"""Build layers by set algebra on faces."""

from dataclasses import dataclass, field
from typing import Literal, NamedTuple

import msgspec
import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from sketchloom.core.arrays import Bools, Floats, Ints, ranges
from sketchloom.core.curves import ArcCurves, Path
from sketchloom.core.layers.strokes import Join, StrokeLayer
from sketchloom.core.planar import PlanarMap
from sketchloom.core.regions import Ink

__all__ = ["Build", "Layer", "LayerPlan", "LayerSettings", "LayerStack", "build_layers", "plan_layers"]

Build = Literal["flush", "carried", "single"]


class LayerSettings(msgspec.Struct, frozen=True):
    """How layers are built from faces, and their order."""

    build: Build = "flush"
    order: tuple[str, ...] = ()
    """Hex colours of inks, bottom first; inks that are not named lie below, largest first."""
    strokes: tuple[str, ...] = ()
    """Hex colours of inks whose centre lines are wanted too."""
    joins: tuple[Join, ...] = ()
    """Open ends of centre lines to join."""
    edges: tuple[tuple[str, Literal["outer", "inner", "centre"]], ...] = ()
    """Inks that are one line round something, and where that is cut."""


@dataclass(frozen=True, eq=False)
class Layer:
    """A set of faces that is cut from one sheet, as one compound path.

    Attributes
    ----------
    name : str
    ink : Ink
    faces : (F,) bool
    path : Path
        mm.
    pieces : int
        Connected parts.
    area : float
        mm2.
    cut_length : float
        mm.
    """

    name: str
    ink: Ink
    faces: Bools = field(repr=False)
    path: Path = field(repr=False)
    pieces: int
    area: float
    cut_length: float

    @property
    def loose(self) -> int:
        """Pieces beyond the first, which have to be placed by hand without a carrier."""
        return self.pieces - 1


@dataclass(frozen=True, eq=False)
class LayerStack:
    """Layers, bottom first, and the page they lie on.

    Attributes
    ----------
    layers : tuple of Layer
    size : (float, float)
        Width and height of the page, mm.
    build : str
    shown : tuple of Path
        What to draw on a screen for each layer, bottom first: its faces and
        all above, so that no paper shines through where two layers meet.
    strokes : tuple of StrokeLayer
        Centre lines, beside the layers of faces.
    """

    layers: tuple[Layer, ...]
    size: tuple[float, float]
    build: Build
    shown: tuple[Path, ...] = field(repr=False)
    strokes: tuple[StrokeLayer, ...] = ()


class FaceSet(NamedTuple):
    """Faces of a planar map, and the walk round them.

    Attributes
    ----------
    chosen : (F,) bool
    half_edges, offset : (B,) and (C + 1,) int
        As `PlanarMap.outline` gives them.
    pieces : int
        Connected parts.
    """

    chosen: Bools
    half_edges: Ints
    offset: Ints
    pieces: int


class LayerPlan(NamedTuple):
    """Layers as sets of faces, bottom first, before any curve is known.

    Attributes
    ----------
    names : tuple of str
    inks : tuple of Ink
    sets : tuple of FaceSet
    shown : tuple of FaceSet
        The faces of each layer and of all above.
    build : str
    """

    names: tuple[str, ...]
    inks: tuple[Ink, ...]
    sets: tuple[FaceSet, ...]
    shown: tuple[FaceSet, ...]
    build: Build


def plan_layers(planar: PlanarMap, palette: tuple[Ink, ...], settings: LayerSettings) -> LayerPlan:
    """Choose the faces of each layer.

    *Flush*: each ink's own faces. *Carried*: its own and all above, so that
    every layer rests on the one below. *Single*: all faces, one layer.

    Parameters
    ----------
    planar : PlanarMap
    palette : tuple of Ink
        Label i is ``palette[i - 1]``.
    settings : LayerSettings
    """
    label = planar.faces.label
    order = stacking(palette, settings.order)
    if settings.build == "single":
        every = (_face_set(planar, label > 0),)
        return LayerPlan(("All pieces",), (palette[order[-1]],), every, every, "single")
    inks = tuple(palette[ink] for ink in order)
    shown = tuple(_face_set(planar, np.isin(label, np.array(order[height:]) + 1)) for height in range(len(order)))
    sets = shown if settings.build == "carried" else tuple(_face_set(planar, label == ink + 1) for ink in order)
    return LayerPlan(tuple(ink.name for ink in inks), inks, sets, shown, settings.build)


def build_layers(planar: PlanarMap, curves: ArcCurves, plan: LayerPlan, size: tuple[float, float]) -> LayerStack:
    """Give the planned layers their curves.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, mm.
    plan : LayerPlan
        Of `planar`.
    size : (float, float)
        Of the page, mm.
    """
    areas, lengths = _face_areas(planar, curves), curves.lengths()
    layers = tuple(
        Layer(
            name,
            ink,
            faces.chosen,
            outline_path(curves, faces.half_edges, faces.offset),
            faces.pieces,
            float(areas[faces.chosen].sum()),
            float(lengths[faces.half_edges // 2].sum()),
        )
        for name, ink, faces in zip(plan.names, plan.inks, plan.sets, strict=True)
    )
    shown = tuple(
        layer.path if faces is own else outline_path(curves, faces.half_edges, faces.offset)
        for faces, own, layer in zip(plan.shown, plan.sets, layers, strict=True)
    )
    return LayerStack(layers, size, plan.build, shown)


def stacking(palette: tuple[Ink, ...], order: tuple[str, ...]) -> list[int]:
    """Inks bottom first: those not named in `order` in the palette's order, then the named."""
    rank = {code: place for place, code in enumerate(order)}
    return sorted(range(len(palette)), key=lambda i: (rank.get(palette[i].hex, -1), i))


def _face_areas(planar: PlanarMap, curves: ArcCurves) -> Floats:
    count = len(planar.faces.label)
    area = curves.areas()
    gain: Floats = np.bincount(planar.right, area, count).astype(np.float64)
    return gain - np.bincount(planar.left, area, count)


def _face_set(planar: PlanarMap, chosen: Bools) -> FaceSet:
    return FaceSet(chosen, *planar.outline(chosen), _count_pieces(planar, chosen))


def _count_pieces(planar: PlanarMap, chosen: Bools) -> int:
    """Connected parts of a set of faces; faces hang together along arcs."""
    both = chosen[planar.left] & chosen[planar.right]
    count = len(chosen)
    graph = coo_array((np.ones(int(both.sum())), (planar.left[both], planar.right[both])), (count, count))
    _, part = connected_components(graph, directed=False)
    return len(np.unique(part[chosen]))


def outline_path(curves: ArcCurves, half_edges: Ints, offset: Ints) -> Path:
    """Join arcs to contours; backwards arcs give the same numbers in reverse."""
    arc, back = half_edges // 2, half_edges % 2 == 1
    segments = np.diff(curves.offset)[arc]
    begin = 3 * curves.offset[arc] + arc
    index, first = ranges(np.where(back, begin + 1, begin), 3 * segments)
    of = np.repeat(np.arange(len(arc)), 3 * segments)
    step = np.arange(len(index)) - first[of]
    index = np.where(back[of], begin[of] + 3 * segments[of] - step, index)
    points = curves.points[index]
    flag_index, flag_first = ranges(curves.offset[arc], segments)
    flag_of = np.repeat(np.arange(len(arc)), segments)
    flag_step = np.arange(len(flag_index)) - flag_first[flag_of]
    mirrored = curves.offset[arc][flag_of] + segments[flag_of] - 1 - flag_step
    straight = curves.straight[np.where(back[flag_of], mirrored, flag_index)]
    ends = np.cumsum(segments)
    cuts = np.append(0, ends)[offset]
    contours, flags = [], []
    for low, high in zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True):
        ring = points[3 * low : 3 * high]
        contours.append(np.concatenate([ring, ring[:1]]))
        flags.append(straight[low:high])
    return Path(tuple(contours), tuple(flags))
