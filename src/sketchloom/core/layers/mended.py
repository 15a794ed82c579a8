"""Layers after their mends: only the pieces that a mend touches are made anew."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.cut import CRUMB, flatten, grown, pieces_of, refitted, solid
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.layers.mends import (
    PLACES,
    AtPlace,
    CloseOutline,
    EaseOutline,
    FillWindow,
    GrowPiece,
    Mend,
    PareAlong,
    RoundNotch,
    TakePiece,
    Unite,
    WidenAlong,
)
from sketchloom.core.layers.rules import origin_of
from sketchloom.core.layers.stack import LayerStack
from sketchloom.core.picture import Point

__all__ = ["NOTCH", "Mended", "OnPage", "band", "mend_paths", "mend_stack"]

OnPage = Callable[[Sequence[Point]], Floats]
"""Brings places of the source to mm on the page; (n, 2)."""

_WELD = 2e-4
"""mm by which a piece that is given away is grown, so that it grows together with what it lies beside."""
_NEAR = 0.05
"""mm beside an outline that a place on it may lie."""
NOTCH = 30.0
"""Times the radius that the tip of a notch reaches to where it is wide enough."""


@dataclass(frozen=True, eq=False)
class Mended:
    """Layers after their mends.

    Attributes
    ----------
    stack : LayerStack
    unplaced : tuple of int
        Mends that found nothing to change.
    """

    stack: LayerStack
    unplaced: tuple[int, ...] = ()


def band(lines: Sequence[Floats], width: float) -> Any:
    """The band of a width along lines, round at their ends."""
    shapes = [shapely.Point(line[0]) if len(line) == 1 else shapely.linestrings(line) for line in lines]
    return shapely.union_all([grown(shape, width / 2) for shape in shapes])


def mend_stack(
    stack: LayerStack, mends: Sequence[Mend], on_page: OnPage, bearers: Mapping[str, tuple[str, ...]]
) -> Mended:
    """Mend the layers of a stack.

    Parameters
    ----------
    stack : LayerStack
    mends : sequence of Mend
    on_page : callable
    bearers : mapping of str to tuple of str
        Layers that must bear what a layer gains: those below it that it is carried on.

    Raises
    ------
    NothingToCutError
        If nothing is left.
    """
    paths = {layer.key: layer.path for layer in stack.layers}
    changed, unplaced = mend_paths(paths, mends, on_page, bearers)
    if not changed:
        return Mended(stack, unplaced)
    layers = tuple(
        replace(layer.with_path(changed[layer.key]), exact=False) if layer.key in changed else layer
        for layer in stack.layers
    )
    kept = tuple(layer for layer in layers if layer.path.contours)
    if not kept:
        raise NothingToCutError("Nothing is left to cut: every piece was taken away in Check; take a mend back.")
    return Mended(replace(stack, layers=kept, shown=tuple(layer.path for layer in kept)).fitted(), unplaced)


def mend_paths(
    paths: Mapping[str, Path], mends: Sequence[Mend], on_page: OnPage, bearers: Mapping[str, tuple[str, ...]]
) -> tuple[dict[str, Path], tuple[int, ...]]:
    """Mend outlines, mm; gives those that changed, and which mends found nothing to change."""
    live: dict[str, _Live] = {}

    def layer_of(key: str) -> "_Live":
        if key not in live:
            live[key] = _Live(paths[key])
        return live[key]

    unplaced = []
    for number, mend in enumerate(mends):
        keys = [key for key in paths if key == mend.layer or ("+" in key and origin_of(key) == mend.layer)]
        done = False
        for key in keys:
            done = _do(mend, key, layer_of, on_page, [below for below in bearers.get(key, ()) if below in paths],
                       paths) or done  # fmt: skip
        if not done:
            unplaced.append(number)
    return {key: state.path for key, state in live.items() if state.changed}, tuple(unplaced)


def _do(
    mend: Mend,
    key: str,
    layer_of: Callable[[str], "_Live"],
    on_page: OnPage,
    below: Sequence[str],
    paths: Mapping[str, Path],
) -> bool:
    """Do one mend on one layer; tells whether it found its place."""
    layer = layer_of(key)
    if isinstance(mend, Unite):
        return layer.unite()
    if isinstance(mend, PareAlong):
        return layer.cut(_band_of(mend, on_page))
    gained = _gained(mend, layer, on_page)
    if gained is not None:
        for key_below in below:
            layer_of(key_below).add(gained)
        return True
    if not isinstance(mend, AtPlace):
        return False
    at = np.round(on_page([mend.at])[0], PLACES)
    if isinstance(mend, TakePiece):
        taken = layer.take(at)
        if taken is not None and mend.to in paths:
            layer_of(mend.to).add(grown(taken, _WELD), alone=True)
        return taken is not None
    if isinstance(mend, CloseOutline):
        return layer.close(at)
    return layer.ease(at, mend.within) if isinstance(mend, EaseOutline) else False


def _band_of(mend: WidenAlong | PareAlong, on_page: OnPage) -> Any:
    return band([np.round(on_page(line), PLACES) for line in mend.lines], mend.width)


def _gained(mend: Mend, layer: "_Live", on_page: OnPage) -> Any:
    """Do a mend that a layer gains material by; gives what was added, None where it found nothing, or is another."""
    if isinstance(mend, WidenAlong):
        added = _band_of(mend, on_page)
        return added if layer.add(added) else None
    if not isinstance(mend, GrowPiece | FillWindow | RoundNotch):
        return None
    at = np.round(on_page([mend.at])[0], PLACES)
    if isinstance(mend, GrowPiece):
        return layer.grow(at, mend.by)
    return layer.fill(at) if isinstance(mend, FillWindow) else layer.round_off(at, mend.radius)


class _Live:
    """A layer while it is mended: its pieces, and the contours of those that no mend has touched."""

    def __init__(self, path: Path) -> None:
        self._source = path
        self._flat = flatten(path)
        pieces = pieces_of(self._flat)
        self._open = np.flatnonzero(~np.array(path.closed, bool)).tolist()
        self._shapes: list[Any] = list(pieces.shapes)
        self._boxes = shapely.bounds(pieces.shapes).reshape(-1, 4)
        self._own = [np.flatnonzero(pieces.of_contour == number) for number in range(len(self._shapes))]
        self._fresh = np.full(len(self._shapes), not pieces.valid)  # where pieces overlap all are made anew
        self._unsound = np.flatnonzero(~pieces.sound)
        self._eased: dict[int, Path] = {}
        self.changed = False

    def add(self, shape: Any, alone: bool = False) -> bool:
        """Unite a shape with the pieces that it touches; where it touches none, only if it may stand alone."""
        touched = [] if shape.is_empty else self._touched(shape)
        if shape.is_empty or not (touched or alone):
            return False
        merged = solid(shapely.union_all([shape, *(self._shapes[i] for i in touched)]))
        self._replace(touched, merged)
        return True

    def cut(self, shape: Any) -> bool:
        """Cut a shape out of the pieces that it touches."""
        touched = self._touched(shape)
        if not touched:
            return False
        left = [solid(shapely.difference(self._shapes[i], shape)) for i in touched]
        self._replace(touched, shapely.union_all(left))
        return True

    def take(self, at: Floats) -> Any:
        """Take the piece at a place away; gives it, or None."""
        own = self._piece_at(at)
        if own is None:
            return None
        shape = self._shapes[own]
        self._replace([own], shapely.Polygon())
        return shape

    def grow(self, at: Floats, by: float) -> Any:
        """Grow the piece at a place; gives what it has become, or None."""
        own = self._piece_at(at)
        if own is None:
            return None
        whole = grown(self._shapes[own], by)
        self.add(whole)
        return whole

    def fill(self, at: Floats) -> Any:
        """Fill the window at a place, what lies in it becomes one with it; gives what was added, or None."""
        point = shapely.Point(at)
        for i in self._touched(point.buffer(_NEAR), by_box=True):
            for ring in self._shapes[i].interiors:
                window = shapely.Polygon(ring)
                if window.intersects(point):
                    filled = grown(window, _WELD)
                    return filled if self.add(filled) else None
        return None

    def round_off(self, at: Floats, radius: float) -> Any:
        """Fill the tip of the gap at a place, as a disc of a radius would not reach into it; gives it, or None."""
        reach = NOTCH * radius
        room = shapely.box(*(at - reach), *(at + reach))
        point = shapely.Point(at)
        near = self._touched(point.buffer(_NEAR))
        here = shapely.intersection(shapely.union_all([self._shapes[i] for i in near]), room)
        closed = grown(grown(here, radius), -radius)
        tips = [part for part in shapely.get_parts(solid(shapely.difference(closed, here))) if
                part.distance(point) <= _NEAR and part.area > CRUMB]  # fmt: skip
        if not tips:
            return None
        filled = grown(shapely.union_all(tips), _WELD)
        return filled if self.add(filled) else None

    def ease(self, at: Floats, within: float) -> bool:
        """Fit the contour that runs at a place anew."""
        point = shapely.Point(at)
        for i in self._touched(point.buffer(_NEAR)):
            rings = [self._shapes[i].exterior, *self._shapes[i].interiors]
            if min(ring.distance(point) for ring in rings) <= _NEAR:
                eased = refitted(self._shapes[i], within=within)
                self._fresh[self._unsound if i in self._unsound else i] = True
                self._eased[i] = eased
                self.changed = True
                return True
        return False

    def close(self, at: Floats) -> bool:
        """Close the open contour that ends at a place; within a piece it goes round a window."""
        lines = [self._source.contours[i] for i in self._open]
        ends = np.array([(line[0], line[-1]) for line in lines]).reshape(-1, 2, 2)
        apart = np.hypot(*np.moveaxis(ends - at, 2, 0)).min(1) if len(ends) else np.zeros(0)
        if not len(apart) or apart.min() > _NEAR:
            return False
        own = self._open.pop(int(np.argmin(apart)))
        ring = self._flat.rings[own]
        shape = solid(shapely.make_valid(shapely.Polygon(np.vstack([ring, self._source.contours[own][-1]]))))
        holders = [i for i in self._touched(shape) if self._shapes[i].contains(shape)]
        return self.cut(shape) if holders else self.add(shape, alone=True)

    def unite(self) -> bool:
        """Make all of it one compound path of outlines that do not cross."""
        self._fresh[self._unsound] = True
        self.changed = True
        return True

    @property
    def path(self) -> Path:
        """What it has become: contours that nothing touched as they were, then those made anew."""
        kept = [own for own, fresh in zip(self._own, self._fresh, strict=True) if not fresh]
        stay = np.sort(np.concatenate([np.zeros(0, np.int64), self._open, *kept])).astype(int).tolist()
        gone = np.setdiff1d(np.arange(len(self._source.contours)), stay).tolist()
        made = [i for i in np.flatnonzero(self._fresh).tolist() if i not in self._eased]
        fresh = [self._shapes[i] for i in made if self._shapes[i] is not None]
        new = refitted(shapely.multipolygons(fresh), [flatten(self._source.part(gone))]) if fresh else Path((), ())
        parts = [self._source.part(stay), new, *(self._eased[i] for i in sorted(self._eased))]
        is_open = tuple(not closed for part in parts for closed in part.closed)
        return Path(
            tuple(contour for part in parts for contour in part.contours),
            tuple(flags for part in parts for flags in part.straight),
            is_open if any(is_open) else (),
        )

    def _touched(self, shape: Any, by_box: bool = False) -> list[int]:
        left, top, right, bottom = shapely.bounds(shape)
        box = self._boxes
        near = (box[:, 0] <= right) & (box[:, 2] >= left) & (box[:, 1] <= bottom) & (box[:, 3] >= top)
        index = np.flatnonzero(near).tolist()
        return [i for i in index if self._shapes[i] is not None and (by_box or self._shapes[i].intersects(shape))]

    def _piece_at(self, at: Floats) -> int | None:
        """The piece at a place: the smallest where several are."""
        there = self._touched(shapely.Point(at))
        return min(there, key=lambda i: (self._shapes[i].area, i)) if there else None

    def _replace(self, gone: Sequence[int], shape: Any) -> None:
        """Put what a shape is in the place of some pieces; the parts of an outline that crosses itself go together."""
        if np.isin(gone, self._unsound).any():
            self._fresh[self._unsound] = True
        for i in gone:
            self._shapes[i] = None
            self._boxes[i] = np.nan
            self._fresh[i] = True
            self._eased.pop(i, None)
        parts = [part for part in shapely.get_parts(solid(shape)) if part.area > CRUMB]
        self._shapes += parts
        self._boxes = np.vstack([self._boxes, shapely.bounds(np.array(parts, object)).reshape(-1, 4)])
        self._own += [np.zeros(0, np.int64)] * len(parts)
        self._fresh = np.append(self._fresh, np.ones(len(parts), bool))
        self.changed = True
