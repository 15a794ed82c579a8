"""Results as things Qt can draw."""

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QImage, QPainterPath, QPixmap, QPolygonF

from sketchloom.core.curves import Path

__all__ = ["nodes_of", "painter_path", "pixmap_of"]


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
