"""A layer while it is mended: only the pieces that a mend touches are made anew."""

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.cut import CRUMB, Cut, Flat, Request, flatten, grown, solid
from sketchloom.core.units import DECIMALS

__all__ = ["NOTCH", "TOUCH", "Change", "Live"]

_WELD = 2e-4
"""mm by which a piece that is given away is grown, so that it grows together with what it lies beside."""
_NEAR = 0.05
"""mm beside an outline that a place on it may lie."""
_GRID = 1e-7
"""mm to which corners are rounded where edges must meet that lie on each other but for the last digits."""
TOUCH = 1e-5
"""mm between what touches."""
NOTCH = 30.0
"""Times the radius that the tip of a notch reaches to where it is wide enough."""


class Change(NamedTuple):
    """What has become of a layer, as polygons: what was added to it, what of that is new, and what went."""

    added: Any
    gained: Any
    lost: Any


class Live:
    """A layer while it is mended: its pieces, and the contours of those that no mend has touched."""

    def __init__(self, cut: Cut) -> None:
        self._source, self._flat, pieces = cut.path, cut.flat, cut.polygons
        self._outer = pieces.outer
        self._open = np.flatnonzero(~np.array(cut.path.closed, bool)).tolist()
        self._shapes: list[Any] = list(pieces.shapes)
        self._boxes = shapely.bounds(pieces.shapes).reshape(-1, 4)
        self._own = [np.flatnonzero(pieces.of_contour == number) for number in range(len(self._shapes))]
        self._fresh = np.full(len(self._shapes), not pieces.valid)  # where pieces overlap all are made anew
        self._unsound = np.flatnonzero(~pieces.sound)
        self._eased: dict[int, float] = {}  # contours as they came that are fitted anew, within which bound
        self._eased_pieces: dict[int, float] = {}  # the same of pieces that a mend made anew
        self._sources: list[Flat] = []  # of layers that gave pieces away
        self._added: list[Any] = []
        self._gained: list[Any] = []
        self._lost: list[Any] = []
        self.changed = False

    def change(self) -> Change:
        """Give what has come of it since it was asked last."""
        out = Change(*(shapely.union_all(shapes) for shapes in (self._added, self._gained, self._lost)))
        self._added, self._gained, self._lost = [], [], []
        return out

    def add(self, shape: Any, alone: bool = False) -> bool:
        """Unite a shape with the pieces that it touches; where it touches none, only if it may stand alone."""
        touched = [] if shape.is_empty else self._touched(shape)
        if shape.is_empty or not (touched or alone):
            return False
        old = [self._shapes[i] for i in touched]
        self._added.append(shape)
        self._gained.append(solid(shapely.difference(shape, shapely.union_all(old))))
        self._replace(touched, solid(shapely.union_all([shape, *old])))
        return True

    def cut(self, shape: Any, least: float = 0.0) -> bool:
        """Cut a shape out of the pieces that it touches, and covers by more than an area, mm2."""
        touched = [i for i in self._touched(shape) if not least or self._shapes[i].intersection(shape).area > least]
        if not touched:
            return False
        old = [self._shapes[i] for i in touched]
        self._lost += [solid(shapely.intersection(one, shape)) for one in old]
        left = [solid(shapely.difference(one, shape)) for one in old]
        self._replace(touched, shapely.union_all(left))
        return True

    def take(self, at: Floats) -> Any:
        """Take the piece at a place away; gives it, or None."""
        own = self._piece_at(at)
        if own is None:
            return None
        shape = self._shapes[own]
        self._lost.append(shape)
        self._replace([own], shapely.Polygon())
        return shape

    def receive(self, piece: Any, of: "Live") -> None:
        """Take a piece of a layer in: it becomes one with what it shares an edge with, or lies a hair beside."""
        self._sources.append(of._flat)
        beside = [i for i in self._touched(piece) if self._shared(i, piece) > _NEAR]
        whole = shapely.union_all([piece, *(self._shapes[i] for i in beside)], grid_size=_GRID)
        if len(beside) and whole.geom_type == "Polygon":
            self._added.append(piece)
            self._gained.append(piece)
            self._replace(beside, whole)
        else:
            self.add(grown(piece, _WELD), alone=True)

    def shared_with(self, shape: Any) -> float:
        """Length of outline that it shares with a shape, mm."""
        return sum(self._shared(i, shape) for i in self._touched(shape))

    def _shared(self, piece: int, shape: Any) -> float:
        near = shapely.intersection(self._shapes[piece], shape.envelope.buffer(_NEAR)).buffer(TOUCH)
        return float(shapely.length(shapely.intersection(shape.boundary, near)))

    def grow(self, at: Floats, by: float) -> bool:
        """Grow the piece at a place."""
        own = self._piece_at(at)
        return own is not None and self.add(grown(self._shapes[own], by))

    def fill(self, at: Floats) -> bool:
        """Fill the window at a place; what lies in it becomes one with it."""
        point = shapely.Point(at)
        for i in self._touched(point.buffer(_NEAR), by_box=True):
            for ring in self._shapes[i].interiors:
                window = shapely.Polygon(ring)
                if window.intersects(point):
                    return self.add(grown(window, _WELD))
        return False

    def round_off(self, at: Floats, radius: float) -> bool:
        """Fill the tip of the gap at a place, as a disc of a radius would not reach into it."""
        reach = NOTCH * radius
        room = shapely.box(*(at - reach), *(at + reach))
        point = shapely.Point(at)
        near = self._touched(point.buffer(_NEAR))
        here = shapely.intersection(shapely.union_all([self._shapes[i] for i in near]), room)
        closed = grown(grown(here, radius), -radius)
        tips = [part for part in shapely.get_parts(solid(shapely.difference(closed, here))) if
                part.distance(point) <= _NEAR and part.area > CRUMB]  # fmt: skip
        if not tips:
            return False
        return self.add(grown(shapely.union_all(tips), _WELD))

    def ease(self, at: Floats, within: float) -> Any:
        """Have the contour that runs at a place fitted anew, and no other; gives its polygon, or None."""
        point = shapely.Point(at)
        for i in self._touched(point.buffer(_NEAR)):
            rings = [self._shapes[i].exterior, *self._shapes[i].interiors]
            near = min(rings, key=lambda ring: ring.distance(point))
            if near.distance(point) > _NEAR:
                continue
            lines = {int(own): shapely.linearrings(self._flat.rings[own]) for own in self._own[i]}
            if self._fresh[i] or i in self._unsound:
                self._fresh[self._unsound if i in self._unsound else i] = True
                self._eased_pieces[i] = within
            else:
                self._eased[min(lines, key=lambda own: lines[own].distance(point))] = within
            self.changed = True
            return shapely.Polygon(near)
        return None

    def fit_beside(self, shape: Any) -> None:
        """Have pieces made anew that a shape touches, so that they share what becomes of it."""
        for i in self._touched(shape):
            self._fresh[i] = True
            self.changed = True

    def touches(self, shape: Any) -> bool:
        """Whether a shape touches any of its pieces."""
        return bool(self._touched(shape))

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

    def requests(self, layer: int, shares: bool) -> list[Request]:
        """What is to be fitted anew: pieces that mends touched, and outlines that are eased; and if it shares edges."""
        gone = np.setdiff1d(np.arange(len(self._source.contours)), self._stay).tolist()
        index = [i for i in np.flatnonzero(self._fresh).tolist() if self._shapes[i] is not None]
        plain = [self._shapes[i] for i in index if i not in self._eased_pieces]
        sources = [flatten(self._source.part(gone)), *self._sources] if plain else []
        whole = shapely.multipolygons(plain) if plain else shapely.Polygon()
        if shares:  # what lies no farther apart than files can tell is one
            whole = solid(shapely.union_all(plain, grid_size=10.0**-DECIMALS))
        return [
            Request(whole, sources, layer=layer),
            *(Request(self._shapes[i], (), self._eased_pieces[i], layer) for i in index if i in self._eased_pieces),
            *(Request(shapely.Polygon(self._flat.rings[own]), (), self._eased[own], layer) for own in self._rings),
        ]

    def path(self, made: Sequence[Path]) -> Path:
        """What it has become: contours that nothing touched as they were, then those made anew, as requested."""
        own = len(made) - len(self._rings)
        eased = zip(self._rings, made[own:], strict=True)
        turned = [path if self._outer[ring] else path.reversed() for ring, path in eased]
        parts = [self._source.part(self._stay), *made[:own], *turned]
        is_open = tuple(not closed for part in parts for closed in part.closed)
        return Path(
            tuple(contour for part in parts for contour in part.contours),
            tuple(flags for part in parts for flags in part.straight),
            is_open if any(is_open) else (),
        )

    @property
    def _rings(self) -> list[int]:
        """Contours as they came that are eased, of pieces that nothing else touched."""
        kept = [own for own, fresh in zip(self._own, self._fresh, strict=True) if not fresh]
        return sorted(self._eased.keys() & set(np.concatenate([np.zeros(0, np.int64), *kept]).tolist()))

    @property
    def _stay(self) -> list[int]:
        """Contours that stay as they came."""
        kept = [own for own, fresh in zip(self._own, self._fresh, strict=True) if not fresh]
        stay = np.concatenate([np.zeros(0, np.int64), self._open, *kept]).astype(int)
        return sorted(set(stay.tolist()) - set(self._rings))

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
            self._eased_pieces.pop(i, None)
        parts = [part for part in shapely.get_parts(solid(shape)) if part.area > CRUMB]
        self._shapes += parts
        self._boxes = np.vstack([self._boxes, shapely.bounds(np.array(parts, object)).reshape(-1, 4)])
        self._own += [np.zeros(0, np.int64)] * len(parts)
        self._fresh = np.append(self._fresh, np.ones(len(parts), bool))
        self.changed = True
