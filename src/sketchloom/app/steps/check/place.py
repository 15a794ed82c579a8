"""A picture of the place of a finding: the outlines that are cut there, over the picture."""

from typing import Any

import numpy as np
import shapely
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap

from sketchloom.app.theme import theme
from sketchloom.app.theme.tokens import edge_on
from sketchloom.core.arrays import Floats
from sketchloom.core.inspect import Finding, Outline, Subject

__all__ = ["place_picture"]

_ROOM = 1.6
"""Times the extent of a finding that is shown."""
_LEAST = 6.0
"""mm that is shown at least."""
_MARK = 0.5
"""mm; a smaller finding is ringed as if it were so large."""


def place_picture(subject: Subject, finding: Finding, width: int, height: int) -> QPixmap:
    """Draw the layers round a finding, pale, and its own over them, with a ring round the place."""
    t = theme.tokens
    pixmap = QPixmap(2 * width, 2 * height)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(QColor(t.kraft))
    left, top, right, bottom = finding.box
    across = max(_LEAST, _ROOM * max(right - left, (bottom - top) * width / height))
    across = min(across, max(subject.size) * 1.1)
    x, y = finding.at if right - left > across / _ROOM * 1.01 else ((left + right) / 2, (top + bottom) / 2)
    scale = width / across
    room = shapely.box(x - across / 2, y - across * height / width / 2, x + across / 2, y + across * height / width / 2)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(width / 2, height / 2)
    painter.scale(scale, scale)
    painter.translate(-x, -y)
    for layer in sorted(subject.layers, key=lambda one: one.key == finding.layer):
        own = layer.key == finding.layer
        path = _near(subject.outline(layer), room)
        colour = QColor(layer.colour)
        colour.setAlphaF(1.0 if own else 0.45)
        pen = QPen(QColor(edge_on(t, layer.colour, t.kraft)) if own else QColor(0, 0, 0, 0), 1.2 / scale)
        painter.setPen(pen if own else Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawPath(path)
        painter.setPen(QPen(QColor(layer.colour), 2.0 / scale))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in _open_lines(subject.outline(layer)):
            painter.drawPolyline([QPointF(*point) for point in line])
    ring = max(_MARK, min(max(right - left, bottom - top), across / _ROOM)) * 0.62
    for colour, wide in ((t.paper, 4.0), (t.madder if finding.severity == "spoils" else t.ochre, 2.0)):
        painter.setPen(QPen(QColor(colour), wide / scale))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        middle = QPointF(*finding.at)
        painter.drawEllipse(middle, ring, ring)
    painter.end()
    return pixmap


def _open_lines(outline: Outline) -> list[Floats]:
    """Lines that do not close."""
    path = outline.flat.path
    if not path.open:
        return []
    rings = zip(outline.flat.rings, path.contours, path.closed, strict=True)
    return [np.vstack([ring, contour[-1:]]) for ring, contour, closed in rings if not closed]


def _near(outline: Outline, room: Any) -> QPainterPath:
    """Pieces of a layer that reach into a room."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    shapes = outline.pieces.shapes
    near = outline.tree.query(room, predicate="intersects")
    for shape in shapely.clip_by_rect(shapes[np.sort(near)], *_wider(room.bounds)):
        for part in shapely.get_parts(shape):
            if part.geom_type != "Polygon":
                continue
            for ring in (part.exterior, *part.interiors):
                points = shapely.get_coordinates(ring)
                path.moveTo(*points[0])
                for point in points[1:]:
                    path.lineTo(*point)
                path.closeSubpath()
    return path


def _wider(bounds: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    left, top, right, bottom = bounds
    return left - 1, top - 1, right + 1, bottom + 1
