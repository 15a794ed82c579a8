"""Build layers by set algebra on faces."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from sketchloom.core.arrays import Bools, Floats, Ints, ranges
from sketchloom.core.curves import ArcCurves, Path
from sketchloom.core.layers.rules import Build, LayerSettings
from sketchloom.core.layers.stack import Layer, LayerStack
from sketchloom.core.palette import Ink, Palette
from sketchloom.core.planar import PlanarMap

__all__ = ["FaceSet", "LayerPlan", "build_layers", "plan_layers", "stacking"]


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
    ways : tuple of str
        How each is built.
    sets : tuple of FaceSet
    shown : tuple of FaceSet
        The faces of each layer and of all above.
    build : str
    """

    names: tuple[str, ...]
    inks: tuple[Ink, ...]
    ways: tuple[Build, ...]
    sets: tuple[FaceSet, ...]
    shown: tuple[FaceSet, ...]
    build: Build


def plan_layers(planar: PlanarMap, keys: Sequence[str], palette: Palette, settings: LayerSettings) -> LayerPlan:
    """Choose the faces of each layer.

    *Flush*: each ink's own faces. *Carried*: its own and all above, so that
    every layer rests on the one below. *Single*: all faces, one layer. An
    ink of which no face is left has no layer.

    Parameters
    ----------
    planar : PlanarMap
    keys : sequence of str
        Label i is the ink ``keys[i - 1]``.
    palette : Palette
    settings : LayerSettings
    """
    label = planar.faces.label
    label_of = {keys[i - 1]: i for i in np.unique(label).tolist() if i}
    order = stacking([key for key in keys if key in label_of], settings.order)
    if settings.build == "single":
        every = (_face_set(planar, label > 0),)
        return LayerPlan(("All pieces",), (palette[order[-1]],), ("single",), every, every, "single")
    labels = np.array([label_of[key] for key in order], np.int64)
    shown = tuple(_face_set(planar, np.isin(label, labels[height:])) for height in range(len(order)))
    ways = tuple(settings.way(key) for key in order)
    sets = tuple(
        carried if way == "carried" else _face_set(planar, label == own)
        for carried, way, own in zip(shown, ways, labels.tolist(), strict=True)
    )
    inks = tuple(palette[key] for key in order)
    return LayerPlan(tuple(ink.name for ink in inks), inks, ways, sets, shown, settings.build)


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
    areas, lengths = face_areas(planar, curves), curves.lengths()
    layers = tuple(
        Layer(
            name,
            ink,
            faces.chosen,
            outline_path(curves, faces.half_edges, faces.offset),
            faces.pieces,
            faces.pieces if way == "flush" and height else faces.pieces - 1,
            float(areas[faces.chosen].sum()),
            float(lengths[faces.half_edges // 2].sum()),
        )
        for height, (name, ink, way, faces) in enumerate(zip(plan.names, plan.inks, plan.ways, plan.sets, strict=True))
    )
    shown = tuple(
        layer.path if faces is own else outline_path(curves, faces.half_edges, faces.offset)
        for faces, own, layer in zip(plan.shown, plan.sets, layers, strict=True)
    )
    return LayerStack(layers, size, plan.build, shown)


def stacking(keys: Sequence[str], order: Sequence[str]) -> list[str]:
    """Inks bottom first: those not named in `order` as they come, then the named; all by key."""
    rank = {key: place for place, key in enumerate(order)}
    return sorted(keys, key=lambda key: rank.get(key, -1))


def face_areas(planar: PlanarMap, curves: ArcCurves) -> Floats:
    """Signed area of each face between its curves, by Green's formula; (F,)."""
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
