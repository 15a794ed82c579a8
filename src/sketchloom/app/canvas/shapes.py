"""Results as things Qt can draw."""

from typing import Any

import numpy as np
import shapely
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainterPath, QPixmap, QPolygonF, QTransform

from sketchloom.core.arrays import connected_parts
from sketchloom.core.curves import Path

__all__ = ["Shapes", "nodes_of", "painter_path", "painter_paths", "pixmap_of"]


class _QtPen:
    """A fontTools pen that draws into a QPainterPath."""

    def __init__(self) -> None:
        self.path = QPainterPath()

    def moveTo(self, point: tuple[float, float]) -> None:
        self.path.moveTo(*point)

    def lineTo(self, point: tuple[float, float]) -> None:
        self.path.lineTo(*point)

    def curveTo(self, *points: tuple[float, float]) -> None:
        self.path.cubicTo(*(value for point in points for value in point))

    def closePath(self) -> None:
        self.path.closeSubpath()

    def endPath(self) -> None:
        """Leave it open."""


def painter_path(path: Path) -> QPainterPath:
    """Draw a path; in its own units."""
    pen = _QtPen()
    path.draw(pen)
    return pen.path


class Shapes:
    """Paths that are drawn alike, and where each lies."""

    def __init__(self, paths: list[QPainterPath]) -> None:
        self.paths = paths
        boxes = [path.controlPointRect().getCoords() for path in paths]
        self._boxes = np.array(boxes, float).reshape(-1, 4)

    def within(self, area: QRectF) -> list[QPainterPath]:
        """Those that touch an area."""
        left, top, right, bottom = area.getCoords()
        boxes = self._boxes
        seen = (boxes[:, 0] <= right) & (boxes[:, 2] >= left) & (boxes[:, 1] <= bottom) & (boxes[:, 3] >= top)
        return self.paths if seen.all() else [self.paths[place] for place in np.flatnonzero(seen).tolist()]

    def mapped(self, place: QTransform) -> "Shapes":
        """All of them, elsewhere."""
        return Shapes([place.map(path) for path in self.paths])


def painter_paths(path: Path, place: QTransform) -> Shapes:
    """Draw a path as several that together fill what it fills: outlines that hold holes with their holes.

    Qt fills many small paths far faster than one of many contours, and those
    that do not show need not be drawn.
    """
    if any(path.open) or len(path.contours) < 2:
        return Shapes([place.map(painter_path(path))])
    corners = np.array([[*contour.min(0), *contour.max(0)] for contour in path.contours])
    boxes, areas = shapely.box(*corners.T), path.areas
    outer, holes = np.flatnonzero(areas > 0), np.flatnonzero(areas <= 0)
    nodes = np.array([path.contours[place][0] for place in holes.tolist()]).reshape(-1, 2)  # controls may lie outside
    hole, holder = shapely.STRtree(boxes[outer]).query(shapely.points(nodes), predicate="intersects")
    _, group = connected_parts(len(boxes), holes[hole], outer[holder])
    order = np.argsort(group, kind="stable")
    ends = np.flatnonzero(np.diff(group[order], append=-1)) + 1
    groups = np.split(order, ends[:-1])
    return Shapes([place.map(painter_path(path.part(some.tolist()))) for some in groups])


def polygon_path(shape: Any) -> QPainterPath:
    """Draw polygons with their holes."""
    out = QPainterPath()
    out.setFillRule(Qt.FillRule.OddEvenFill)
    for part in shapely.get_parts(shape):
        for ring in (part.exterior, *part.interiors):
            out.addPolygon(QPolygonF([QPointF(x, y) for x, y in shapely.get_coordinates(ring).tolist()]))
    return out


def nodes_of(path: Path) -> QPolygonF:
    """Nodes of a path."""
    return QPolygonF(
        [
            QPointF(x, y)
            for contour, closed in zip(path.contours, path.closed, strict=True)
            for x, y in (contour[:-1:3] if closed else contour[::3]).tolist()
        ]
    )


def pixmap_of(rgba: np.ndarray) -> QPixmap:
    """Make a pixmap of (H, W, 4) uint8."""
    height, width = rgba.shape[:2]
    data = np.ascontiguousarray(rgba)
    return QPixmap.fromImage(QImage(data.data, width, height, 4 * width, QImage.Format.Format_RGBA8888))
