"""Work with an outline: draw an area of an ink, cut along it, trim what lies outside or inside."""

from typing import ClassVar, Literal, Self

import msgspec
import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import fit_lines
from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point
from sketchloom.core.regions import GROUND, DrawnEdge
from sketchloom.core.tidy.give import check_ink
from sketchloom.core.tidy.lines import FEW, laid_over
from sketchloom.core.tidy.places import check_length, check_places
from sketchloom.core.tidy.sheet import Sheet, inside_polygon
from sketchloom.core.tidy.work import Work, over_axis

__all__ = [
    "CutOut",
    "Draw",
    "Trim",
    "by_hand",
    "drawn_on",
    "ellipse",
    "flattened",
    "quarter_steps",
    "rectangle",
    "regular",
    "smooth",
    "solid",
    "straight",
]

_FLAT = 0.01
"""px that a flattened curve may lie off."""
_MOST_PIECES = 256
_STEADY = 8
"""Screen px that a line by hand is long at least to be followed; it is followed within an eighth of that."""
_MOST_STEPS = 20_000
_LEAST = 0.5
"""px2; a smaller area is none."""


def straight(points: list[Point]) -> tuple[Point, ...]:
    """A closed curve of straight sides through points."""
    out: list[Point] = []
    for (x, y), (u, v) in zip(points, points[1:] + points[:1], strict=True):
        out += [(x, y), (x + (u - x) / 3, y + (v - y) / 3), (x + 2 * (u - x) / 3, y + 2 * (v - y) / 3)]
    return (*out, points[0])


def rectangle(first: Point, last: Point) -> tuple[Point, ...]:
    """A rectangle between two corners, as a closed curve."""
    (x, y), (u, v) = first, last
    return straight([(x, y), (u, y), (u, v), (x, v)])


def ellipse(first: Point, last: Point) -> tuple[Point, ...]:
    """An ellipse in a rectangle, as a closed curve of eight pieces.

    A cubic piece over an angle a with handles of 4/3 tan(a/4) strays from a
    circle of radius r by less than 5e-6 r where a is an eighth of a turn
    (Goldapp 1991).
    """
    middle = (np.array(first) + last) / 2
    half = np.abs(np.array(last) - first) / 2
    angle = np.arange(8) * np.pi / 4
    reach = 4 / 3 * np.tan(np.pi / 16)
    out: list[Point] = []
    for a, b in zip(angle, angle + np.pi / 4, strict=True):
        start, end = np.array([np.cos(a), np.sin(a)]), np.array([np.cos(b), np.sin(b)])
        one, other = start + reach * np.array([-np.sin(a), np.cos(a)]), end - reach * np.array([-np.sin(b), np.cos(b)])
        out += [_point(middle + half * at) for at in (start, one, other)]
    return (*out, out[0])


def regular(first: Point, last: Point, sides: int, dent: float = 0.0) -> tuple[Point, ...]:
    """A regular shape in a box, its first corner up, as a closed curve.

    `dent` of 0 gives a polygon; above 0 a star, whose inner corners lie that
    part of the way in from a circle.
    """
    middle = (np.array(first) + last) / 2
    half = np.abs(np.array(last) - first) / 2
    count = 2 * sides if dent else sides
    angle = 2 * np.pi * np.arange(count) / count - np.pi / 2
    reach = np.where(np.arange(count) % 2, 1 - dent, 1.0)[:, None]
    corners = middle + half * reach * np.stack([np.cos(angle), np.sin(angle)], 1)
    return straight([_point(corner) for corner in corners])


def smooth(points: list[Point], closed: bool = True) -> tuple[Point, ...]:
    """A smooth curve through places: a cubic spline over the square roots of the chords.

    References
    ----------
    .. [1] E. T. Y. Lee, "Choosing nodes in parametric curve interpolation",
       Computer-Aided Design 21 (1989): the centripetal choice.
    """
    at = np.array([*points, points[0]] if closed else points, float)
    at = at[np.append(True, np.hypot(*np.diff(at, axis=0).T) > 0)]
    if len(at) < 3:
        return straight([_point(place) for place in at]) if len(at) > 1 else (points[0],) * 4
    t = np.append(0, np.cumsum(np.sqrt(np.hypot(*np.diff(at, axis=0).T))))
    from scipy.interpolate import CubicSpline

    spline = CubicSpline(t, at, bc_type="periodic" if closed else "natural")
    slope, step = spline(t, 1), np.diff(t)[:, None] / 3
    inner = np.stack([at[:-1], at[:-1] + slope[:-1] * step, at[1:] - slope[1:] * step], 1).reshape(-1, 2)
    return tuple(_point(place) for place in np.vstack([inner, at[-1:]]))


def by_hand(points: list[Point], step: float, closed: bool) -> tuple[Point, ...]:
    """A curve along a line drawn by hand, as near as a hand is steady; corners stay.

    Parameters
    ----------
    points : list of (x, y)
    step : float
        What a screen pixel covers.
    closed : bool
    """
    line = shapely.LineString([*points, points[0]] if closed else points) if len(points) > 1 else None
    count = int(np.ceil(line.length / step)) if line is not None else 0
    if line is None or count < _STEADY:
        ends = [*points, points[0]] if len(points) == 1 else points
        return straight(ends) if closed else straight(ends)[: 3 * len(ends) - 2]
    count = min(count, _MOST_STEPS)
    at = shapely.get_coordinates(shapely.line_interpolate_point(line, np.arange(count + 1) / count, normalized=True))
    unit = line.length / count
    (piece,) = fit_lines([(at[:-1] if closed else at) / unit], [closed], _STEADY / 8)
    control = piece.control * unit
    out = [_point(place) for place in control[:, :3].reshape(-1, 2)]
    return (*out, out[0] if closed else _point(control[-1, 3]))


def _point(at: Floats) -> Point:
    return float(at[0]), float(at[1])


def flattened(curve: Floats) -> Floats:
    """Points along cubic pieces, (3 n + 1, 2), so close that straight lines between them lie within 0.01 px."""
    pieces = np.stack([curve[:-3:3], curve[1:-2:3], curve[2:-1:3], curve[3::3]], 1)
    bend = np.maximum(
        np.linalg.norm(pieces[:, 0] - 2 * pieces[:, 1] + pieces[:, 2], axis=1),
        np.linalg.norm(pieces[:, 1] - 2 * pieces[:, 2] + pieces[:, 3], axis=1),
    )
    count = np.clip(np.ceil(np.sqrt(0.75 * bend / _FLAT)), 1, _MOST_PIECES).astype(int)  # Wang's bound
    out = []
    for piece, steps in zip(pieces, count.tolist(), strict=True):
        t = np.arange(steps)[:, None] / steps
        out.append(
            (1 - t) ** 3 * piece[0] + 3 * (1 - t) ** 2 * t * piece[1] + 3 * (1 - t) * t**2 * piece[2] + t**3 * piece[3]
        )
    return np.vstack([*out, curve[-1:]])


def quarter_steps(radius: float) -> int:
    """Straight steps of a quarter of a circle that lie within 0.01 px of it."""
    return int(np.clip(np.ceil(np.pi / 4 / np.arccos(1 - min(0.5, _FLAT / max(radius, _FLAT)))), 4, 200))


class _OnCurve(Work, frozen=True, kw_only=True):
    curve: tuple[Point, ...]
    """Node, two controls, node, and so on."""

    def check(self) -> None:
        """Refuse what is no curve."""
        super().check()
        check_places(self.curve)
        if len(self.curve) < 4 or len(self.curve) % 3 != 1:
            raise ArgumentError("A drawn line is not whole; take it back.")

    def marks(self) -> tuple[tuple[Point, ...], ...]:
        """The curve, as dense as a picture of a thousand px needs."""
        line = flattened(np.array(self.curve) * 1000) / 1000
        return (tuple(_point(at) for at in line),)

    def mirrored(self, sheet: Sheet) -> Self | None:
        """The same along the curve of the other half."""
        return msgspec.structs.replace(self, curve=over_axis(sheet, self.axis, self.curve))

    def line(self, sheet: Sheet) -> Floats:
        """Its points on a sheet, px."""
        return flattened(sheet.pixels(self.curve))

    def area(self, sheet: Sheet) -> shapely.Geometry:
        """What it goes round, px."""
        return solid(shapely.make_valid(shapely.Polygon(self.line(sheet))))


class Draw(_OnCurve, frozen=True, tag="draw", kw_only=True):
    """An area of an ink inside an outline, or a stroke along a line; over all that is there."""

    sentence: ClassVar[str] = "Draw"
    ink: str
    """Its key; empty cuts the area away."""
    width: float = 0.0
    """mm of a stroke along the curve; 0 fills the outline."""

    @property
    def in_mm(self) -> bool:
        """Its width is."""
        return self.width > 0

    def check(self) -> None:
        """Refuse what is no outline."""
        super().check()
        check_ink(self.ink)
        check_length("A stroke", self.width)

    def do(self, sheet: Sheet) -> int:
        """Draw; what covers no pixel is counted."""
        line = self.line(sheet)
        if self.width:
            radius = self.width * sheet.px_per_mm / 2
            steps = quarter_steps(radius)
            area = shapely.buffer(shapely.LineString(line), radius, quad_segs=steps)
        else:
            area = self.area(sheet)
        return drawn_on(sheet, area, self.ink)

    def inks(self) -> tuple[str, ...]:
        """Its ink."""
        return (self.ink,) if self.ink else ()


def solid(area: shapely.Geometry) -> shapely.Geometry:
    """The polygons of an area that are no dust."""
    parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon" and part.area > _LEAST]
    return shapely.union_all(parts) if parts else shapely.Polygon()


def drawn_on(sheet: Sheet, area: shapely.Geometry, key: str) -> int:
    """Give an area to an ink, with its exact outline; 1 where it covers no pixel."""
    whole = solid(area)
    if whole.is_empty:
        return 1
    where = inside_polygon(sheet.labels.shape, whole)
    if not where.any():
        return 1
    sheet.put(where, key)
    sheet.draw(whole)
    return 0


class Trim(_OnCurve, frozen=True, tag="trim", kw_only=True):
    """Send all outside an outline to the ground, or all inside."""

    sentence: ClassVar[str] = "Trim along an outline"
    side: Literal["outside", "inside"] = "outside"

    def do_both(self, sheet: Sheet) -> int:
        """Trim along both halves' outlines at once: what lies inside one is not outside."""
        return self._trim(sheet, [self] if self.axis is None else [self, self.mirrored(sheet) or self])

    def do(self, sheet: Sheet) -> int:
        """Trim; where nothing goes it is counted."""
        return self._trim(sheet, [self])

    def _trim(self, sheet: Sheet, trims: list[Self]) -> int:
        area = solid(shapely.union_all([one.area(sheet) for one in trims]))
        if area.is_empty:
            return 1
        inside = inside_polygon(sheet.labels.shape, area)
        where = (inside if self.side == "inside" else ~inside) & (sheet.labels != GROUND)
        if not where.any() or (self.side == "outside" and not inside.any()):
            return 1
        sheet.put(where, "")
        sheet.draw(area)
        return 0


class CutOut(_OnCurve, frozen=True, tag="cut-out", kw_only=True):
    """Part what an outline goes across along it, with a gap or without; both sides keep their ink."""

    sentence: ClassVar[str] = "Part along an outline"
    gap: float = 0.0
    """mm; without one the pieces can be chosen apart, but nothing is cut between them."""

    @property
    def in_mm(self) -> bool:
        """Its gap is."""
        return self.gap > 0

    def check(self) -> None:
        """Refuse what is no outline."""
        super().check()
        check_length("A gap", self.gap)

    def do(self, sheet: Sheet) -> int:
        """Part; an outline that goes across nothing is counted."""
        area = self.area(sheet)
        if area.is_empty:
            return 1
        if self.gap:
            half = self.gap * sheet.px_per_mm / 2
            return laid_over(sheet, solid(shapely.buffer(area.boundary, half, join_style="mitre", mitre_limit=4)))
        inside = inside_polygon(sheet.labels.shape, area)
        found, runs = sheet.faces
        held = np.bincount(runs.face_at(np.flatnonzero(inside)), minlength=len(found.area))
        parted = (held >= FEW) & (found.area - held >= FEW) & (found.label != GROUND)
        windows = [sheet.window(face) for face in np.flatnonzero(parted).tolist()]
        if not windows:
            return 1
        sheet.part_each([(window, own & inside[window]) for window, own in windows])
        for part in shapely.get_parts(area):
            for ring in (part.exterior, *part.interiors):
                sheet.drawn.append(DrawnEdge(shapely.get_coordinates(ring)[:-1], closed=True))
        return 0
