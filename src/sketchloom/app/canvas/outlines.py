"""Outlines of pieces over the canvas: those chosen, the one under the pointer, those that were taken."""

from dataclasses import dataclass, field

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from sketchloom.app.theme import theme
from sketchloom.core.arrays import Floats
from sketchloom.core.picture import Picture

__all__ = ["Outlines", "marks_path", "outline_path"]

_RING = 0.01
"""Of the source's longer side."""


def outline_path(lines: list[Floats], picture: Picture) -> QPainterPath:
    """Closed lines in px of a picture as a path in source coordinates."""
    path = QPainterPath()
    if not lines:
        return path
    points = np.concatenate(lines)
    there = np.column_stack([points, np.ones(len(points))]) @ picture.source_of.T
    places = [QPointF(x, y) for x, y in (there[:, :2] / there[:, 2:]).tolist()]
    begin = 0
    for line in lines:
        path.addPolygon(QPolygonF(places[begin : begin + len(line)]))
        path.closeSubpath()
        begin += len(line)
    return path


def marks_path(marks: tuple[tuple[tuple[float, float], ...], ...]) -> QPainterPath:
    """Places and lines in source coordinates as a path: a ring round a place."""
    path = QPainterPath()
    for mark in marks:
        if len(mark) == 1:
            path.addEllipse(QPointF(*mark[0]), _RING, _RING)
        else:
            path.addPolygon(QPolygonF([QPointF(x, y) for x, y in mark]))
    return path


@dataclass
class Outlines:
    """Paths in source coordinates."""

    chosen: QPainterPath = field(default_factory=QPainterPath)
    under: QPainterPath = field(default_factory=QPainterPath)
    taken: QPainterPath = field(default_factory=QPainterPath)
    work: QPainterPath = field(default_factory=QPainterPath)
    """Where a row of work is."""
    axis: QPainterPath = field(default_factory=QPainterPath)
    """Line over which work is mirrored."""

    def paint(self, painter: QPainter, to_source: Floats, room: QTransform) -> None:
        """Draw them; `to_source` leads from px to the source, `room` from px to the painter's."""
        back = np.linalg.inv(to_source)
        place = QTransform(*(back / back[2, 2]).T.ravel().tolist()) * room
        tokens = theme.tokens
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for path, colours in (
            (self.taken, ((tokens.on_indigo, 4.0), (tokens.madder, 2.0))),
            (self.chosen, ((tokens.on_indigo, 5.0), (tokens.indigo, 2.5))),
            (self.under, ((tokens.on_indigo, 3.0), (tokens.ink, 1.0))),
            (self.work, ((tokens.on_indigo, 5.0), (tokens.ochre, 2.5))),
            (self.axis, ((tokens.on_indigo, 3.0), (tokens.ochre, 1.5))),
        ):
            if path.isEmpty():
                continue
            lines = place.map(path).toSubpathPolygons()  # one by one they are drawn far faster than as one path
            for code, width in colours:
                painter.setPen(QPen(QColor(code), width))
                for line in lines:
                    painter.drawPolyline(line)
