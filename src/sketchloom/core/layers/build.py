"""Give planned layers their curves."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Floats, Ints, ranges
from sketchloom.core.curves import ArcCurves, Path, face_areas
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut import CRUMB, SAG, Figures, Flat, flatten, grown, left_of, overlapped, refitted, solid
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.layers.plan import LayerPlan, Planned
from sketchloom.core.layers.rules import LayerSettings, origin_of
from sketchloom.core.layers.slip import AUTO_SLIP, reach_of
from sketchloom.core.layers.stack import Layer, LayerStack
from sketchloom.core.picture import Point
from sketchloom.core.planar import PlanarMap
from sketchloom.core.progress import Tick, no_tick

__all__ = ["build_layers", "outline_path"]

OnPage = Callable[[Sequence[Point]], Floats]
"""Brings places of the source to mm on the page; (n, 2)."""


def build_layers(
    planar: PlanarMap,
    curves: ArcCurves,
    plan: LayerPlan,
    size: tuple[float, float],
    settings: LayerSettings | None = None,
    on_page: OnPage | None = None,
    tick: Tick = no_tick,
) -> LayerStack:
    """Give the planned layers their curves.

    Outlines that the map holds are taken from it as they are; rims, overlaps,
    gaps and cuts go through polygons and are fitted again. What then reaches
    beyond the page makes the page larger.

    Parameters
    ----------
    planar : PlanarMap
    curves : ArcCurves
        Of `planar`, mm.
    plan : LayerPlan
        Of `planar`.
    size : (float, float)
        Of the page, mm.
    settings : LayerSettings, optional
    on_page : callable, optional
        Brings the lines along which layers are split to mm.
    """
    settings = settings or LayerSettings()
    made = _Made(planar, curves, plan, settings, on_page or (lambda points: np.array(points, float)))
    areas, lengths = face_areas(planar, curves), curves.lengths()
    layers, shown = [], []
    for height, planned in enumerate(plan.layers):
        tick(height / len(plan.layers))
        path, parts = made.path(height)
        exact = parts is None
        faces = planned.faces
        pieces = faces.pieces if parts is None else parts
        area = float(areas[faces.chosen].sum()) if exact else float(path.areas.sum())
        length = float(lengths[faces.half_edges // 2].sum()) if exact else path.length
        layer = Layer(
            key=planned.key,
            name=planned.name,
            ink=planned.ink,
            path=path,
            kind=settings.kind_of(planned.key),
            stock=settings.stock_of(planned.key),
            known=Figures(pieces, area, length),
            inks=planned.inks,
            faces=faces.chosen,
            hidden=_is_hidden(settings, planned.key),
            exact=exact,
        )
        if not path.contours:
            continue
        layers.append(layer)
        alike = planned.shown is planned.faces or not exact
        shown.append(path if alike else outline_path(curves, planned.shown.half_edges, planned.shown.offset))
    if not layers:
        raise NothingToCutError("Nothing is left to cut: the gap beside the rim is wider than every piece; lower it.")
    if any(layer.hidden or not layer.exact for layer in layers):
        shown = [layer.path for layer in layers]
    margin = settings.margin if settings.build == "stencil" else 0.0
    stack = LayerStack(tuple(layers), size, settings.build, tuple(shown)).fitted(margin)
    return _with_sheet(stack) if settings.build == "stencil" else stack


def _is_hidden(settings: LayerSettings, key: str) -> bool:
    """A copy is hidden with what it is a copy of."""
    return settings.rule(key).hidden or ("+" in key and settings.rule(origin_of(key)).hidden)


class _Made:
    """Makes the outlines of layers; polygons of each are made once, and only where they are asked for."""

    def __init__(
        self, planar: PlanarMap, curves: ArcCurves, plan: LayerPlan, settings: LayerSettings, on_page: OnPage
    ) -> None:
        self._planar, self._curves, self._plan, self._settings, self._on_page = planar, curves, plan, settings, on_page
        self._flat: dict[int, Flat] = {}
        self._shapes: dict[int, Any] = {}

    def path(self, height: int) -> tuple[Path, int | None]:
        """Outline of a layer, and where it is none of the map's the number of its pieces."""
        planned = self._plan.layers[height]
        shape = self._changed(height)
        if shape is None:
            return self._outline(planned), None
        sources = [self._flattened(height)]
        path = refitted(shape, sources)
        return path, len([part for part in shapely.get_parts(shape) if part.area > CRUMB])

    def _changed(self, height: int) -> Any:
        """What a layer is, as polygons, where it is not what the map holds; else None."""
        planned, settings = self._plan.layers[height], self._settings
        out = None
        if planned.role in ("base", "single") and settings.rim:
            out = grown(self._shape(height), settings.rim, settings.corners)
        if planned.role != "ink" or settings.kind_of(planned.key) != "cut":
            return out
        overlap = self._overlap(height)
        if planned.way == "flush" and overlap:
            above = [self._shape(upper) for upper in self._upper(height)]
            if above:
                out = overlapped(self._shape(height), shapely.union_all(above), overlap)
        if settings.has_base and settings.rim_gap:
            out = grown(self._shape(height) if out is None else out, -settings.rim_gap)
        for part, inside in planned.cuts:
            here = self._shape(height) if out is None else out
            side = left_of(self._on_page(part.line), _reach(here, self._on_page(part.line)))
            out = solid(shapely.intersection(here, side) if inside else shapely.difference(here, side))
        return out

    def _upper(self, height: int) -> list[int]:
        """Layers above one that hide it; copies lie on what they are copies of."""
        above = enumerate(self._plan.layers[height + 1 :], height + 1)
        return [place for place, other in above if not other.copy and self._settings.kind_of(other.key) == "cut"]

    def _overlap(self, height: int) -> float:
        settings = self._settings
        if settings.overlap != "auto":
            return settings.overlap
        slip = settings.slip or AUTO_SLIP
        shrinks = [
            (place, stock.shrink) for place, other in enumerate(self._plan.layers)
            if (stock := settings.stock_of(other.key)) is not None and stock.shrink
        ]  # fmt: skip
        return max([slip, *(reach_of(self._shape(place), slip, shrink) for place, shrink in shrinks)]) + 0.02

    def _outline(self, planned: Planned) -> Path:
        return outline_path(self._curves, planned.faces.half_edges, planned.faces.offset)

    def _shape(self, height: int) -> Any:
        if height not in self._shapes:
            self._shapes[height] = self._flattened(height).shape
        return self._shapes[height]

    def _flattened(self, height: int) -> Flat:
        if height not in self._flat:
            self._flat[height] = flatten(self._outline(self._plan.layers[height]))
        return self._flat[height]


def _reach(shape: Any, line: Floats) -> float:
    """A length that reaches beyond a shape from anywhere on a line, mm."""
    points = np.vstack([shapely.get_coordinates(shape), line])
    return 4.0 * float(np.hypot(*np.ptp(points, axis=0))) + 1.0


def _with_sheet(stack: LayerStack) -> LayerStack:
    """Turn what a stencil cuts away into the sheet that it is cut from.

    An opening that reaches the sheet's edge is open there: the sheet has no
    line where nothing is left of it.
    """
    if not stack.layers:
        return stack
    cut = stack.layers[0]
    frame = _frame(stack.size)
    holes = cut.path.reversed()
    path = Path(frame.contours + holes.contours, frame.straight + holes.straight)
    if _reaches(cut.path, stack.size):
        shape = solid(shapely.difference(flatten(frame).shape, flatten(cut.path).shape))
        path = refitted(shape, [flatten(path)])
        if not path.contours:
            raise NothingToCutError("Nothing is left of the stencil's sheet: all of it is cut away; give it a margin.")
        figures = Figures(len(shapely.get_parts(shape)), float(path.areas.sum()), path.length)
        sheet = replace(cut, path=path, known=figures, exact=False)
    else:
        width, height = stack.size
        sheet = replace(
            cut, path=path, known=Figures(cut.pieces, width * height - cut.area, cut.cut_length + 2 * (width + height))
        )
    return replace(stack, layers=(sheet,), shown=(path,))


def _frame(size: tuple[float, float]) -> Path:
    """The edge of a page as an outer outline, mm."""
    width, height = size
    corners = np.array([[0.0, 0.0], [0.0, height], [width, height], [width, 0.0]])
    thirds = straight_thirds(np.stack([corners, corners, corners, np.roll(corners, -1, axis=0)], 1), np.ones(4, bool))
    frame = Path((np.vstack([thirds[:, :3].reshape(-1, 2), corners[:1]]),), (np.ones(4, bool),))
    return frame if frame.areas[0] > 0 else frame.reversed()


def _reaches(path: Path, size: tuple[float, float]) -> bool:
    low, high = np.split(np.array(path.bounds), 2)
    return bool((low < SAG).any() or (high > np.array(size) - SAG).any())


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
