"""Work along a line: parting pieces, bridges of ground."""

from itertools import pairwise
from typing import ClassVar, Self

import cv2
import msgspec
import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Point
from sketchloom.core.regions import GROUND, DrawnEdge
from sketchloom.core.tidy.give import check_ink
from sketchloom.core.tidy.places import check_length, check_places
from sketchloom.core.tidy.sheet import Sheet, Window, window_of_polygon
from sketchloom.core.tidy.work import Work, over_axis

__all__ = ["FEW", "Bridge", "Split", "laid_over", "strip"]

FEW = 8
"""px; less on one side of a line is no piece."""
_BESIDE = 2
"""px from a line, in which a side of it is told."""


def strip(line: Floats, width: float) -> shapely.Geometry:
    """Area within half a width of a line, its ends cut straight; px."""
    return shapely.buffer(shapely.LineString(line), width / 2, cap_style="flat", join_style="mitre", mitre_limit=4)


class Split(Work, frozen=True, tag="split", kw_only=True):
    """Part the pieces that a line goes across: with a gap, without, or as a change of colour."""

    sentence: ClassVar[str] = "Part along a line"
    line: tuple[Point, ...]
    gap: float = 0.0
    """mm; without one the pieces can be chosen apart, but nothing is cut between them."""
    ink: str = ""
    """Key of the ink that the smaller side of each piece gets; empty leaves both as they are."""

    @property
    def in_mm(self) -> bool:
        """Its gap is."""
        return self.gap > 0

    def check(self) -> None:
        """Refuse a line that is none."""
        super().check()
        check_places(self.line)
        check_length("A gap", self.gap)
        check_ink(self.ink)
        if len(self.line) < 2:
            raise ArgumentError("A line to part along has one end only; take it back.")

    def mirrored(self, sheet: Sheet) -> Self:
        """The same along the line of the other half."""
        return msgspec.structs.replace(self, line=over_axis(sheet, self.axis, self.line))

    def marks(self) -> tuple[tuple[Point, ...], ...]:
        """The line."""
        return (self.line,)

    def inks(self) -> tuple[str, ...]:
        """The ink of the smaller side."""
        return (self.ink,) if self.ink else ()

    def do(self, sheet: Sheet) -> int:
        """Part; a line that goes across nothing is counted."""
        line = sheet.pixels(self.line)
        if self.gap and not self.ink:
            return laid_over(sheet, strip(line, self.gap * sheet.px_per_mm))
        found, runs = sheet.faces
        barrier = np.zeros(sheet.labels.shape, np.uint8)
        far = 4 * max(barrier.shape)
        corners = np.floor(np.clip(line, -far, far)).astype(np.int32)
        cv2.polylines(barrier, [corners.reshape(-1, 1, 2)], False, 1, 1, cv2.LINE_4)
        crossed = np.unique(runs.face_at(np.flatnonzero(barrier)))
        parted: list[tuple[Window, Bools]] = []
        for face in crossed[found.label[crossed] != GROUND].tolist():
            window, own = sheet.window(face, _BESIDE)
            side = _sides(own, barrier[window] > 0, line, (window[1].start, window[0].start))
            if side is not None:
                parted.append((window, side))
        if not parted:
            return 1
        if self.ink:
            sheet.put_each(parted, self.ink)
        else:
            sheet.part_each(parted)
        sheet.drawn.append(DrawnEdge(line))
        return 0


def _sides(own: Bools, barrier: Bools, line: Floats, corner: tuple[int, int]) -> Bools | None:
    """The smaller part of a piece that a line goes across, in a window; None where it does not.

    Parameters
    ----------
    own, barrier : (h, w) bool
        Pixels of the piece, and under the line.
    line : (n, 2) float
        px of the picture.
    corner : (int, int)
        Column and row at which the window begins.
    """
    count, parts, stats, _ = cv2.connectedComponentsWithStats((own & ~barrier).view(np.uint8), connectivity=4)
    areas = stats[1:, cv2.CC_STAT_AREA]
    if (areas >= FEW).sum() < 2:
        return None
    left = _left_of(line, np.argwhere(own)[:, ::-1] + corner + 0.5)
    sign = np.zeros(own.shape, np.int8)
    sign[own] = np.where(left, 1, -1)
    beside = cv2.dilate(barrier.view(np.uint8), np.ones((2 * _BESIDE + 1,) * 2, np.uint8)) > 0
    votes = np.bincount(parts[beside & own], sign[beside & own], count)
    left_area, right_area = (areas[votes[1:] > 0].sum(), areas[votes[1:] < 0].sum())
    if not left_area or not right_area:
        return None
    way = 1 if left_area <= right_area else -1
    chosen = votes * way > 0
    chosen[0] = False
    out: Bools = chosen[parts] | (own & barrier & (sign == way))
    return out


def _left_of(line: Floats, points: Floats) -> Bools:
    """Which points lie left of a line, by its nearest side, whose ends go on; (n,)."""
    best, left = np.full(len(points), np.inf), np.zeros(len(points), bool)
    last = len(line) - 2
    for place, (start, end) in enumerate(pairwise(line)):
        way = end - start
        length = max(1e-12, float(way @ way))
        part = (points - start) @ way / length
        part = np.clip(part, -np.inf if place == 0 else 0, np.inf if place == last else 1)
        rest = points - start - part[:, None] * way
        away = np.hypot(rest[:, 0], rest[:, 1])
        closer = away < best - 1e-9
        best[closer] = away[closer]
        left[closer] = (way[0] * rest[:, 1] - way[1] * rest[:, 0] < 0)[closer]
    return left


def laid_over(sheet: Sheet, *areas: shapely.Geometry) -> int:
    """Lay ground over the inks of areas, one after the other; gives how many of them lie over none."""
    labels = sheet.labels.copy()
    laid = []
    for area in areas:
        window, inside = window_of_polygon(labels.shape, area)
        where = inside & (labels[window] != GROUND)
        if where.any():
            labels[window][where] = GROUND
            laid.append((window, where))
            sheet.draw(area)
    if laid:
        sheet.put_each(laid, "")
    return len(areas) - len(laid)


class Bridge(Work, frozen=True, tag="bridge", kw_only=True):
    """Ground laid across an ink, so that an island of a stencil stays in its sheet."""

    sentence: ClassVar[str] = "Lay a bridge"
    first: Point
    last: Point
    width: float
    """mm"""

    @property
    def in_mm(self) -> bool:
        """Its width is."""
        return True

    def check(self) -> None:
        """Refuse a bridge that is none."""
        super().check()
        check_places([self.first, self.last])
        check_length("A bridge", self.width, 0.01)

    def marks(self) -> tuple[tuple[Point, ...], ...]:
        """From end to end."""
        return ((self.first, self.last),)

    def mirrored(self, sheet: Sheet) -> Self:
        """The bridge of the other half."""
        first, last = over_axis(sheet, self.axis, [self.first, self.last])
        return msgspec.structs.replace(self, first=first, last=last)

    def do(self, sheet: Sheet) -> int:
        """Lay it; one that crosses no ink is counted."""
        ends = sheet.pixels([self.first, self.last])
        if not np.hypot(*(ends[1] - ends[0])):
            return 1
        return laid_over(sheet, strip(ends, self.width * sheet.px_per_mm))
