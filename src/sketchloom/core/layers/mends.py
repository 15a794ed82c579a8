"""Mends: what is changed on the outlines of a layer, at places, after it was built."""

import math
from collections.abc import Callable, Sequence
from typing import Any, ClassVar, Protocol, Self

import msgspec
import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.cut import Cut, grown
from sketchloom.core.errors import ArgumentError
from sketchloom.core.layers.live import NOTCH, TOUCH, Live
from sketchloom.core.picture import Point

__all__ = [
    "AlongLines",
    "AnyMend",
    "AtPlace",
    "CloseOutline",
    "EaseOutline",
    "FillWindow",
    "GrowPiece",
    "Mend",
    "OnPage",
    "PareAlong",
    "RoundNotch",
    "TakePiece",
    "Unite",
    "WidenAlong",
    "check_mends",
]

PLACES = 6
"""Decimals of a mm that places are rounded to."""
MOST_MENDS = 5000
MOST_POINTS = 200_000
_WIDEST = 100.0
"""mm"""
_FARTHEST = 100.0
"""Of source coordinates, lengths of the longer side."""


OnPage = Callable[[Sequence[Point]], Floats]
"""Brings places of the source to mm on the page; (n, 2)."""


Near = Callable[[Any], Any]


class Others(Protocol):
    """The other layers that a mend may reach."""

    def with_copies(self, key: str) -> list[Live]:
        """Give a layer and its copies."""

    def flush_with(self, key: str) -> list[Live]:
        """Give layers that lie flush beside one."""


class Mend(msgspec.Struct, frozen=True, kw_only=True, tag_field="mend"):
    """One change of one layer's outlines.

    Places are in source coordinates, lengths in mm at the finished size.
    """

    sentence: ClassVar[str]
    """What it does, for lists of changes."""
    unites: ClassVar[bool] = False
    """Whether it makes one compound path of a layer."""
    shares_out: ClassVar[bool] = False
    """Whether flush neighbours get what it takes away."""
    layer: str
    """Key of the layer."""

    def places(self) -> tuple[Point, ...]:
        """Every place that it is anchored at."""
        return ()

    def lengths(self) -> tuple[float, ...]:
        """Every length that it has."""
        return ()

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Do it on a layer; tells whether it found its place."""
        raise NotImplementedError

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """Where it may change what it is for, as a polygon, its place being mm on the page; none for all of a layer.

        Parameters
        ----------
        cut : Cut
            Before it.
        near : callable
            Gives the cut's pieces that a shape touches.
        fit : float
            mm that an outline which was made anew may lie beside the old one.
        """
        return shapely.Polygon()

    def settled(self) -> Self:
        """The same with places, mm on a page, rounded: one that goes by the source comes back the same."""
        return self.placed(lambda points: [_settled(point) for point in points])

    def placed(self, there: Callable[[Sequence[Point]], Sequence[Point]]) -> Self:
        """The same with its places brought elsewhere."""
        return self


class AlongLines(Mend, frozen=True, kw_only=True):
    """A band along lines, round at their ends."""

    lines: tuple[tuple[Point, ...], ...]
    width: float

    def places(self) -> tuple[Point, ...]:
        """Every point of its lines."""
        return tuple(point for line in self.lines for point in line)

    def lengths(self) -> tuple[float, ...]:
        """Its width."""
        return (self.width,)

    def placed(self, there: Callable[[Sequence[Point]], Sequence[Point]]) -> Self:
        """The same with its lines brought elsewhere."""
        return msgspec.structs.replace(self, lines=tuple(tuple(there(line)) for line in self.lines))

    def band(self, on_page: OnPage) -> Any:
        """The band as a polygon on the page."""
        lines = [np.round(on_page(line), PLACES) for line in self.lines]
        shapes = [shapely.Point(line[0]) if len(line) == 1 else shapely.linestrings(line) for line in lines]
        return shapely.union_all([grown(shape, self.width / 2) for shape in shapes])

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """The band."""
        return shapely.buffer(self.band(lambda line: np.array(line, float).reshape(-1, 2)), fit)


class WidenAlong(AlongLines, frozen=True, tag="widen", kw_only=True):
    """Add a band of material along lines."""

    sentence: ClassVar[str] = "Widen"

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Unite the band with what it touches."""
        return layer.add(self.band(on_page))


class PareAlong(AlongLines, frozen=True, tag="pare", kw_only=True):
    """Take a band of material away along lines."""

    sentence: ClassVar[str] = "Open"
    shares_out: ClassVar[bool] = True

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Cut the band out."""
        return layer.cut(self.band(on_page))


class AtPlace(Mend, frozen=True, kw_only=True):
    """Something at one place."""

    at: Point

    def places(self) -> tuple[Point, ...]:
        """The place."""
        return (self.at,)

    def placed(self, there: Callable[[Sequence[Point]], Sequence[Point]]) -> Self:
        """The same elsewhere."""
        return msgspec.structs.replace(self, at=there([self.at])[0])

    def spot(self, on_page: OnPage) -> Floats:
        """The place on the page, mm."""
        return np.asarray(np.round(on_page([self.at])[0], PLACES))

    def _piece(self, near: Near, fit: float) -> Any:
        return shapely.union_all(near(shapely.Point(self.at).buffer(fit)))


class TakePiece(AtPlace, frozen=True, tag="take", kw_only=True):
    """Take the piece at a place away, or give it to another layer."""

    sentence: ClassVar[str] = "Take a piece away"
    to: str = ""
    """Key of the layer that it joins; empty for none."""

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Take the piece; the layer that it joins gets it, and that one's copies."""
        taken = layer.take(self.spot(on_page))
        if taken is None:
            return False
        for other in others.with_copies(self.to):
            other.receive(taken, layer)
        return True

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """The piece."""
        return self._piece(near, fit).buffer(fit)


class GrowPiece(AtPlace, frozen=True, tag="grow", kw_only=True):
    """Grow the piece at a place all round."""

    sentence: ClassVar[str] = "Grow a piece"
    by: float

    def lengths(self) -> tuple[float, ...]:
        """By how much."""
        return (self.by,)

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Grow the piece."""
        return layer.grow(self.spot(on_page), self.by)

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """The piece, as it grows."""
        return self._piece(near, fit).buffer(self.by + fit)


class FillWindow(AtPlace, frozen=True, tag="fill", kw_only=True):
    """Fill the window at a place."""

    sentence: ClassVar[str] = "Fill a window"

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Fill the window."""
        return layer.fill(self.spot(on_page))

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """The window."""
        room = shapely.Point(self.at).buffer(fit)
        shapes = cut.polygons.shapes
        around = shapes[shapely.intersects(shapely.envelope(shapes), room)]
        windows = [shapely.Polygon(ring) for piece in around for ring in piece.interiors]
        return shapely.union_all([one for one in windows if one.intersects(room)]).buffer(fit)


class RoundNotch(AtPlace, frozen=True, tag="round", kw_only=True):
    """Round off the tip of a gap."""

    sentence: ClassVar[str] = "Round a notch"
    radius: float

    def lengths(self) -> tuple[float, ...]:
        """The radius."""
        return (self.radius,)

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Fill the tip."""
        return layer.round_off(self.spot(on_page), self.radius)

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """As far as the tip of a gap reaches."""
        return shapely.Point(self.at).buffer(NOTCH * self.radius)


class EaseOutline(AtPlace, frozen=True, tag="ease", kw_only=True):
    """Fit the outline that runs at a place with as few nodes as a bound allows."""

    sentence: ClassVar[str] = "Smooth an outline"
    within: float

    def lengths(self) -> tuple[float, ...]:
        """The bound."""
        return (self.within,)

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Have the outline fitted anew, and what lies flush beside it along it."""
        eased = layer.ease(self.spot(on_page), self.within)
        if eased is None:
            return False
        for other in others.flush_with(self.layer):
            other.fit_beside(eased.buffer(TOUCH))
        return True

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """Along the outlines of the piece."""
        return self._piece(near, fit).boundary.buffer(self.within + fit)


class CloseOutline(AtPlace, frozen=True, tag="close", kw_only=True):
    """Close the open outline that ends at a place by a straight line."""

    sentence: ClassVar[str] = "Close an outline"

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Close it."""
        return layer.close(self.spot(on_page))

    def own_place(self, cut: Cut, near: Near, fit: float) -> Any:
        """What the outline goes round."""
        path = cut.path
        lines = [contour for contour, closed in zip(path.contours, path.closed, strict=True) if not closed]
        ends = min(lines, key=lambda line: float(np.hypot(*(line[[0, -1]] - self.at).T).min()), default=None)
        return shapely.Polygon() if ends is None else shapely.convex_hull(shapely.multipoints(ends)).buffer(fit)


class Unite(Mend, frozen=True, tag="unite", kw_only=True):
    """Unite all outlines of a layer that cross or overlap, as one compound path."""

    sentence: ClassVar[str] = "Unite"
    unites: ClassVar[bool] = True

    def do(self, layer: Live, on_page: OnPage, others: Others) -> bool:
        """Make it all one path."""
        return layer.unite()


AnyMend = WidenAlong | PareAlong | TakePiece | GrowPiece | FillWindow | RoundNotch | EaseOutline | CloseOutline | Unite


def _settled(point: Point) -> Point:
    return round(point[0], PLACES), round(point[1], PLACES)


def check_mends(mends: Sequence[Mend]) -> None:
    """Refuse mends that cannot be; raises ArgumentError."""
    if len(mends) > MOST_MENDS:
        raise ArgumentError(f"{len(mends)} mends are too many; at most {MOST_MENDS} can be kept.")
    if sum(len(mend.places()) for mend in mends) > MOST_POINTS:
        raise ArgumentError("The mends have too many places; take some back.")
    for mend in mends:
        if not all(math.isfinite(value) and abs(value) <= _FARTHEST for place in mend.places() for value in place):
            raise ArgumentError(f"“{mend.sentence}” has no place that can be used; take it back.")
        if not all(math.isfinite(length) and 0 < length <= _WIDEST for length in mend.lengths()):
            raise ArgumentError(f"“{mend.sentence}” has no length that can be used; take it back.")
        if isinstance(mend, AlongLines) and not (mend.lines and all(mend.lines)):
            raise ArgumentError(f"“{mend.sentence}” has no line that it runs along; take it back.")
