"""Work that gives pieces another outline: grown, shrunk, smoothed, copied, moved, turned, scaled."""

import math
from collections.abc import Iterable
from typing import ClassVar, Literal, Self

import msgspec
import numpy as np
import shapely
from shapely import affinity

from sketchloom.core.curves import Bounds, trace_arcs
from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point
from sketchloom.core.planar import planar_map, sample_edges
from sketchloom.core.regions import LabelMap
from sketchloom.core.tidy.give import OnPieces
from sketchloom.core.tidy.places import check_length, check_places
from sketchloom.core.tidy.shapes import drawn_on, flattened, quarter_steps, solid
from sketchloom.core.tidy.sheet import Sheet, inside_polygon
from sketchloom.core.tidy.work import over_axis

__all__ = ["Bind", "Grow", "Place", "Smooth", "area_of"]

_RIM = 8
"""px round a piece that say where its edges run."""
_CLOSE = 0.05
"""px that its curves may lie off its edges."""
_MITRE = 2.5
_TOUCH = 0.05
"""px; pieces that lie just as far apart as the gap are joined."""
_LEAST_SCALE, _MOST_SCALE = 0.01, 100.0
Leaves = Literal["ground", "neighbours"]


def area_of(sheet: Sheet, faces: list[int]) -> shapely.Geometry:
    """The exact area of pieces, px: their edges traced, corners kept."""
    mask = sheet.mask(faces)
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    top, left = max(0, rows[0] - _RIM), max(0, columns[0] - _RIM)
    part = slice(top, rows[-1] + 1 + _RIM), slice(left, columns[-1] + 1 + _RIM)
    regions = sheet.regions
    shift = np.array([left, top], float)
    own = mask[part].astype(np.uint8)
    piece = LabelMap(
        own,
        ("",),
        np.ascontiguousarray(regions.evidence[part]),
        np.ascontiguousarray(regions.tones[part]),
        regions.mix,
        drawn=tuple(edge.moved(-shift) for edge in regions.drawn),
        soft=regions.soft,
        blur=regions.blur,
        simple=regions.simple,
    )
    planar = planar_map(own)
    curves = trace_arcs(planar, sample_edges(planar, piece), Bounds(_CLOSE))
    half_edges, offset = planar.outline(planar.faces.label == 1)
    area = shapely.Polygon()
    for begin, end in zip(offset[:-1].tolist(), offset[1:].tolist(), strict=True):
        line: list[np.ndarray] = []
        for half in half_edges[begin:end].tolist():
            arc = half // 2
            first = 3 * int(curves.offset[arc]) + arc
            points = flattened(curves.points[first : first + 3 * int(curves.offset[arc + 1] - curves.offset[arc]) + 1])
            line.append(points[::-1] if half % 2 else points)
        ring = np.vstack(line) + shift
        if len(ring) > 3:
            area = shapely.symmetric_difference(area, shapely.make_valid(shapely.Polygon(ring)))
    return solid(area)


def _replaced(sheet: Sheet, faces: list[int], area: shapely.Geometry, leaves: Leaves) -> int:
    """Give pieces of one ink another area; what they leave goes to the ground or to what lies nearest."""
    found, _ = sheet.faces
    label = int(found.label[faces[0]])
    key = sheet.keys[label - 1] if label else ""
    before = sheet.mask(faces)
    where = inside_polygon(sheet.labels.shape, area) if not area.is_empty else np.zeros_like(before)
    freed = before & ~where
    if freed.any():
        sheet.leave(freed, before, leaves == "ground")
    if not where.any():
        return 0
    sheet.put(where, key)
    sheet.draw(area)
    return 0


def _by_ink(sheet: Sheet, faces: list[int]) -> list[list[int]]:
    label = sheet.faces[0].label
    return [[face for face in faces if label[face] == one] for one in sorted({int(label[face]) for face in faces})]


class _Reshape(OnPieces, frozen=True, kw_only=True):
    leaves: Leaves = "ground"
    """What takes the place that the pieces leave."""

    @property
    def in_mm(self) -> bool:
        """Its length is."""
        return True

    def reshaped(self, sheet: Sheet, area: shapely.Geometry) -> shapely.Geometry:
        """Give the new area for the old one, px."""
        raise NotImplementedError

    def do(self, sheet: Sheet) -> int:
        """Do it, the pieces of one ink together."""
        faces, lost = sheet.found(self.pieces)
        if not faces:
            return lost
        anchors = {anchor: sheet.found([anchor])[0] for anchor in self.pieces}
        groups = _by_ink(sheet, faces)
        own = [[anchor for anchor, at in anchors.items() if at and at[0] in group] for group in groups]
        for some in own:
            group, gone = sheet.found(some)
            lost += gone
            if group:
                area = area_of(sheet, group)
                lost += _replaced(sheet, group, solid(self.reshaped(sheet, area)), self.leaves)
        return lost


class Grow(_Reshape, frozen=True, tag="grow", kw_only=True):
    """Grow pieces by a length on all sides, over what lies beside; a negative one shrinks them."""

    sentence: ClassVar[str] = "Grow or shrink"
    by: float
    """mm"""

    def check(self) -> None:
        """Refuse what is no length."""
        super().check()
        check_length("Growing", abs(self.by))

    def reshaped(self, sheet: Sheet, area: shapely.Geometry) -> shapely.Geometry:
        """Offset it, corners kept sharp."""
        return shapely.buffer(area, self.by * sheet.px_per_mm, join_style="mitre", mitre_limit=_MITRE)


class Smooth(_Reshape, frozen=True, tag="smooth", kw_only=True):
    """Round the corners of pieces, inner and outer ones, by a radius."""

    sentence: ClassVar[str] = "Smooth the corners"
    radius: float
    """mm"""

    def check(self) -> None:
        """Refuse what is no radius."""
        super().check()
        check_length("A radius", self.radius)

    def reshaped(self, sheet: Sheet, area: shapely.Geometry) -> shapely.Geometry:
        """Open and close it by a disc."""
        radius = self.radius * sheet.px_per_mm
        steps = quarter_steps(radius)
        opened = shapely.buffer(shapely.buffer(area, -radius, quad_segs=steps), radius, quad_segs=steps)
        return shapely.buffer(shapely.buffer(opened, radius, quad_segs=steps), -radius, quad_segs=steps)


class Bind(_Reshape, frozen=True, tag="bind", kw_only=True):
    """Make one of pieces of an ink that lie nearer to each other than a gap, over what lies between."""

    sentence: ClassVar[str] = "Join near pieces"
    gap: float
    """mm"""

    def check(self) -> None:
        """Refuse what is no gap."""
        super().check()
        check_length("A gap", self.gap)

    def reshaped(self, sheet: Sheet, area: shapely.Geometry) -> shapely.Geometry:
        """Close it by a disc as wide as the gap."""
        half = self.gap * sheet.px_per_mm / 2 + _TOUCH
        steps = quarter_steps(half)
        return shapely.union(area, shapely.buffer(shapely.buffer(area, half, quad_segs=steps), -half, quad_segs=steps))


def _middle(areas: Iterable[shapely.Geometry]) -> tuple[float, float]:
    """Middle of the box round areas."""
    left, top, right, bottom = shapely.total_bounds(list(areas))
    return (left + right) / 2, (top + bottom) / 2


class Place(OnPieces, frozen=True, tag="place", kw_only=True):
    """Put pieces, or copies of them, elsewhere: moved, turned about their middle, scaled."""

    sentence: ClassVar[str] = "Put elsewhere"
    by: tuple[float, float] = (0.0, 0.0)
    """Of source coordinates."""
    turn: float = 0.0
    """Degrees, clockwise as seen."""
    scale: float = 1.0
    mirror: bool = False
    """Left and right changed over."""
    copy: bool = False
    leaves: Leaves = "neighbours"
    about: Point | None = None
    """What they are turned and scaled about; None is their middle."""

    def check(self) -> None:
        """Refuse what is no place."""
        super().check()
        if not all(math.isfinite(value) and abs(value) <= 100 for value in self.by):
            raise ArgumentError("A piece cannot be put there; take the work back.")
        if self.about is not None:
            check_places([self.about])
        if not (math.isfinite(self.turn) and abs(self.turn) <= 360):
            raise ArgumentError(f"A turn of {self.turn:g}° cannot be used; type -360 to 360°.")
        if not (math.isfinite(self.scale) and _LEAST_SCALE <= self.scale <= _MOST_SCALE):
            raise ArgumentError(f"A scale of {self.scale:g} cannot be used; type {_LEAST_SCALE:g} to {_MOST_SCALE:g}.")

    def mirrored(self, sheet: Sheet) -> Self | None:
        """The pieces of the other half, turned the other way and moved as in a mirror."""
        other, parts = super().mirrored(sheet), self._parts(sheet)
        if other is None or self.axis is None or not parts:
            return None
        about = self.about or sheet.source([_middle(area for _, area in parts)])[0]
        there = (about[0] + self.by[0], about[1] + self.by[1])
        (x, y), (u, v) = over_axis(sheet, self.axis, [about, there])
        (a, b), (c, d) = sheet.pixels(self.axis)
        # what is flipped left and right is flipped across another line there: four times the axis's angle on
        more = 4 * math.degrees(math.atan2(d - b, c - a)) if self.mirror else 0.0
        turn = math.remainder(more - self.turn, 360)
        return msgspec.structs.replace(other, by=(u - x, v - y), turn=turn, about=(x, y))

    def _parts(self, sheet: Sheet) -> list[tuple[str, shapely.Geometry]]:
        """Areas of the pieces, px, by the key of their ink."""
        faces, label = sheet.found(self.pieces)[0], sheet.faces[0].label
        return [
            (sheet.keys[int(label[group[0]]) - 1] if label[group[0]] else "", area_of(sheet, group))
            for group in _by_ink(sheet, faces)
        ]

    def do(self, sheet: Sheet) -> int:
        """Put them there, all about the middle of all."""
        faces, lost = sheet.found(self.pieces)
        if not faces:
            return lost
        parts = self._parts(sheet)
        middle = _middle(area for _, area in parts) if self.about is None else tuple(sheet.pixels([self.about])[0])
        if not self.copy:
            gone = sheet.mask(faces)
            sheet.leave(gone, gone, self.leaves == "ground")
        for key, area in parts:
            moved = affinity.scale(area, -self.scale if self.mirror else self.scale, self.scale, origin=middle)
            moved = affinity.rotate(moved, self.turn, origin=middle)
            lost += drawn_on(sheet, self._shifted(sheet, moved, middle), key)
        return lost

    def _shifted(self, sheet: Sheet, area: shapely.Geometry, middle: tuple[float, float]) -> shapely.Geometry:
        start = sheet.source([middle])[0]
        there = sheet.pixels([(start[0] + self.by[0], start[1] + self.by[1])])[0]
        return affinity.translate(area, *(there - middle))
