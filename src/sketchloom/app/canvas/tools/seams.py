"""A tool that moves seams: a whole one, or one of its bends or ends."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QPolygonF

from sketchloom.app.canvas.tools.base import ARROWS, ENTER, STEP, Tool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line, draw_words
from sketchloom.app.theme import theme
from sketchloom.core.arrays import Floats
from sketchloom.core.picture import Point

__all__ = ["SeamAt", "SeamMoved", "SeamTool"]

_NEAR = 12.0
"""Screen pixels; so near a press takes hold."""
_LEAST = 3.0
_BESIDE = QPointF(16, -12)
"""Screen pixels, of a number from the middle of its seam."""
_WHOLE = -1


class SeamAt(NamedTuple):
    """A seam on the canvas."""

    layer: str
    """Key."""
    words: str
    line: Sequence[Point]
    """Source coordinates."""
    seen: bool


class SeamMoved(NamedTuple):
    """A seam that a hand laid elsewhere: which, and its line in source coordinates."""

    place: int
    line: tuple[Point, ...]


class SeamTool(Tool):
    """Moves seams; gives `SeamMoved`."""

    view = "Layers"
    takes_tab = True
    help = (
        "Drag a seam, or one of its points. A double click gives it a bend, Delete takes one out; "
        "Tab goes to the next, arrows move it, Enter lays it there."
    )

    def __init__(self, seams: Callable[[], Sequence[SeamAt]]) -> None:
        super().__init__()
        self._seams = seams
        self.chosen = -1
        self._point = _WHOLE
        self._held = False
        self._from: QPointF | None = None
        self._by = QPointF(0, 0)

    def choose(self, place: int) -> None:
        """Take a seam in hand."""
        self.chosen, self._point, self._by = place, _WHOLE, QPointF(0, 0)
        if self.canvas is not None:
            self.canvas.update()

    def _line(self, place: int) -> list[QPointF]:
        """Points of a seam on the canvas, with what a hand moved of it."""
        points = [self.canvas.widget_point(at) for at in self._seams()[place].line]
        if place == self.chosen and not self._by.isNull():
            points = [
                point + self._by if self._point in (_WHOLE, number) else point for number, point in enumerate(points)
            ]
        return points

    def _nearest(self, at: QPointF) -> tuple[int, int, float]:
        """The seam that lies nearest to a place, the segment of it, and how far it is, screen pixels."""
        best = -1, -1, np.inf
        for place in range(len(self._seams())):
            ends = np.array([(one.x(), one.y()) for one in self._line(place)])
            away, segment = _away(ends, np.array([at.x(), at.y()]))
            if away < best[2]:
                best = place, segment, away
        return best

    def press(self, at: QPointF) -> None:
        """Take hold of a seam, or of a point of the one in hand."""
        super().press(at)
        place, _, away = self._nearest(at)
        if away > _NEAR:
            self.choose(-1)
            return
        self.choose(place)
        apart = [(one - at).manhattanLength() for one in self._line(place)]
        self._point = int(np.argmin(apart)) if min(apart) < _NEAR else _WHOLE
        self._held, self._from = True, at

    def move(self, at: QPointF) -> None:
        """Move what is in hand."""
        if self._held and self.down and self._from is not None:
            self._by = at - self._from
        super().move(at)

    def release(self, at: QPointF) -> None:
        """Let go."""
        super().release(at)
        there = 0 <= self.chosen < len(self._seams())  # an undo may have taken it meanwhile
        if self._held and there and self._by.manhattanLength() >= _LEAST:
            self._give(self._line(self.chosen))
        self._held, self._from, self._by = False, None, QPointF(0, 0)

    def _give(self, points: Sequence[QPointF]) -> None:
        self.done.emit(SeamMoved(self.chosen, tuple(self.canvas.source_point(one) for one in points)))

    def finish(self) -> None:
        """Give the seam a bend where the pointer is."""
        if self.at is None:
            return
        place, segment, away = self._nearest(self.at)
        if away <= _NEAR:
            self.choose(place)
            points = self._line(place)
            self._give([*points[: segment + 1], self.at, *points[segment + 1 :]])
            self._point = segment + 1

    def key(self, event: QKeyEvent) -> bool:
        """Tab goes to the next seam, arrows move the one in hand, Delete takes its bend out, Enter lays it."""
        many = len(self._seams())
        if event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab) and many:
            self.choose((self.chosen + (1 if event.key() == Qt.Key.Key_Tab else -1)) % many)
        elif event.key() in ARROWS and 0 <= self.chosen < many:
            shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._by += ARROWS[event.key()] * (1 if shift else STEP)
            self.canvas.update()
        elif event.key() in ENTER and 0 <= self.chosen < many and not self._by.isNull():
            points, self._by = self._line(self.chosen), QPointF(0, 0)
            self._give(points)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and 0 <= self.chosen < many:
            points = self._line(self.chosen)
            if 0 < self._point < len(points) - 1:
                del points[self._point]
                self._point = _WHOLE
                self._give(points)
        else:
            return False
        return True

    def paint(self, painter: QPainter) -> None:
        """Draw all seams with their numbers, the one in hand with its points."""
        t, seams = theme.tokens, self._seams()
        layer = seams[self.chosen].layer if 0 <= self.chosen < len(seams) else None
        for place, seam in enumerate(seams):
            points = self._line(place)
            if layer not in (None, seam.layer):  # of other layers, while one of a layer is in hand
                painter.setPen(QPen(QColor(t.faded), 1.0))
                painter.drawPolyline(QPolygonF(points))
                continue
            if place == self.chosen:
                draw_line(painter, QPolygonF(points))
                for number, at in enumerate(points):
                    draw_handle(painter, at, number == self._point)
            else:
                for code, width in ((t.on_indigo, 5.0), (t.madder if seam.seen else t.moss, 3.0)):
                    painter.setPen(QPen(QColor(code), width))
                    painter.drawPolyline(QPolygonF(points))
            half = len(points) // 2
            draw_words(painter, seam.words, (points[half - 1] + points[half]) / 2 + _BESIDE)


def _away(ends: Floats, at: Floats) -> tuple[float, int]:
    """How far a point lies from a line of points, and on which segment it is nearest."""
    way = np.diff(ends, axis=0)
    share = ((at - ends[:-1]) * way).sum(1) / np.maximum((way * way).sum(1), 1e-12)
    apart = np.hypot(*(ends[:-1] + np.clip(share, 0, 1)[:, None] * way - at).T)
    return float(apart.min()), int(apart.argmin())
