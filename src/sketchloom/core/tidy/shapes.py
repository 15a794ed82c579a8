"""Work with an outline: draw an area of an ink, cut along it, trim what lies outside or inside."""

from typing import ClassVar, Literal

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point
from sketchloom.core.regions import GROUND
from sketchloom.core.tidy.give import check_ink
from sketchloom.core.tidy.places import check_length, check_places
from sketchloom.core.tidy.sheet import Sheet, inside_polygon
from sketchloom.core.tidy.work import Work

__all__ = ["Draw", "Trim", "drawn_on", "ellipse", "flattened", "quarter_steps", "rectangle", "solid", "straight"]

_FLAT = 0.01
"""px that a flattened curve may lie off."""
_MOST_PIECES = 256
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
        check_places(self.curve)
        if len(self.curve) < 4 or len(self.curve) % 3 != 1:
            raise ArgumentError("A drawn line is not whole; take it back.")

    def line(self, sheet: Sheet) -> Floats:
        """Its points on a sheet, px."""
        return flattened(sheet.pixels(self.curve))


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
            area = shapely.make_valid(shapely.Polygon(line))
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

    def do(self, sheet: Sheet) -> int:
        """Trim; where nothing goes it is counted."""
        area = solid(shapely.make_valid(shapely.Polygon(self.line(sheet))))
        if area.is_empty:
            return 1
        inside = inside_polygon(sheet.labels.shape, area)
        where = (inside if self.side == "inside" else ~inside) & (sheet.labels != GROUND)
        if not where.any() or (self.side == "outside" and not inside.any()):
            return 1
        sheet.put(where, "")
        sheet.draw(area)
        return 0
