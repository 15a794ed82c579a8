"""A tool that works on the nodes of traced curves."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QPolygonF

from sketchloom.app.canvas.tools.curve import NEAR, CurveTool
from sketchloom.app.canvas.tools.draw import draw_handle, draw_line
from sketchloom.app.fields import gesture_id
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.core.arrays import Floats
from sketchloom.core.curves import ArcCurves, arc_piece, nearest_spot
from sketchloom.core.curves.work import (
    Change,
    Node,
    made_corner,
    made_smooth,
    node_added,
    node_deleted,
    node_moved,
    nodes_on,
)
from sketchloom.core.picture import on_picture, source_points

__all__ = ["NodeTool"]

_FINE, _COARSE = 0.1, 1.0
"""mm that an arrow moves a node by."""
_WAYS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class _Held(NamedTuple):
    """What is dragged: a node, by its source point, or a handle of it."""

    at: tuple[float, float]
    handle: int


class NodeTool(CurveTool):
    """Moves, adds and deletes nodes, and makes them corners or smooth."""

    help = (
        "Click a node, then drag it or a handle. Arrows move it a little, with Shift ten times as far; "
        "Delete takes it out, C makes a corner, R makes it round; a double click adds one; Tab goes to the next."
    )
    takes_tab = True

    def __init__(self, model: JobModel) -> None:
        super().__init__(model)
        self._known: tuple[ArcCurves, tuple[list[Node], Floats]] | None = None
        self.chosen: Floats | None = None  # source point: the node stays chosen over a new fit
        self._held: _Held | None = None
        self._from: Floats | None = None
        self._by = np.zeros(2)
        self._nudge = np.zeros(2)
        """px that arrows asked for and that is not done yet."""

    def nodes(self) -> tuple[list[Node], Floats]:
        """All nodes, and where they are, px; looked up once for a result."""
        if self._known is None or self._known[0] is not self.result.curves:
            self._known = self.result.curves, nodes_on(self.result.curves, self.result.planar)
        return self._known[1]

    def node(self) -> Node | None:
        """The chosen node as it now is."""
        return None if self.chosen is None else self._node_at((float(self.chosen[0]), float(self.chosen[1])))

    def _node_at(self, place: tuple[float, float]) -> Node | None:
        """The node nearest to a source point."""
        nodes, at = self.nodes()
        if not nodes:
            return None
        here = on_picture(self.result.picture, [place])[0]
        return nodes[int(np.argmin(np.hypot(*(at - here).T)))]

    def choose(self, node: Node | None) -> None:
        """Choose a node."""
        self.gesture = None
        self.chosen = None if node is None else np.array(self._source(self._at(node)))
        self.canvas.update()

    def _source(self, at: Floats) -> tuple[float, float]:
        return source_points(self.result.picture, at[None])[0]

    def _at(self, node: Node) -> Floats:
        piece = arc_piece(self.result.curves, node.arc)
        return piece.control[node.place, 0] if node.place < len(piece.control) else piece.control[-1, 3]

    def _handles(self, node: Node) -> dict[int, Floats]:
        """The handles of a node: -1 before it, 1 after it; none beside straight lines."""
        piece = arc_piece(self.result.curves, node.arc)
        count, out = len(piece.control), {}
        before = node.place - 1 if node.place else (count - 1 if self.loop(node.arc) else -1)
        if before >= 0 and not piece.straight[before]:
            out[-1] = piece.control[before, 2]
        if node.place < count and not piece.straight[node.place]:
            out[1] = piece.control[node.place, 1]
        return out

    def press(self, at: QPointF) -> None:
        """Take hold of a handle of the chosen node, or of a node."""
        super().press(at)
        here, reach = self.px(at), NEAR * self.screen_px
        node = self.node()
        if node is not None:
            for handle, place in self._handles(node).items():
                if np.hypot(*(place - here)) < reach:
                    self._hold(node, handle, here)
                    return
        nodes, places = self.nodes()
        away = np.hypot(*(places - here).T) if nodes else np.array([np.inf])
        nearest = int(np.argmin(away))
        if away[nearest] < reach:
            self.choose(nodes[nearest])
            self._hold(nodes[nearest], 0, here)
        else:
            self.choose(None)

    def _hold(self, node: Node, handle: int, here: Floats) -> None:
        self._held, self._from, self._by = _Held(self._source(self._at(node)), handle), here, np.zeros(2)

    def move(self, at: QPointF) -> None:
        """Drag."""
        if self._held is not None and self._from is not None and self.down:
            self._by = self.px(at) - self._from
        super().move(at)

    def release(self, at: QPointF) -> None:
        """Let go; a drag of less than two screen pixels was a click."""
        super().release(at)
        held, self._held = self._held, None
        if held is None or np.hypot(*self._by) < 2 * self.screen_px:
            return
        self.gesture = None
        by = self._by
        self.when_fresh(lambda: self._move_at(held, by))

    def _move_at(self, held: _Held, by: Floats) -> None:
        node = self._node_at(held.at)
        if node is not None:
            self._moved(node, by, held.handle)

    def _nudge_by(self, step: Floats) -> None:
        """Move the chosen node by what arrows ask for: all that comes until it can be done is one move."""
        if self.gesture is None:
            self.gesture = gesture_id()
        waits = bool(self._nudge.any())
        self._nudge = self._nudge + step
        if not waits:
            self.when_fresh(self._nudged)

    def _nudged(self) -> None:
        node, by = self.node(), self._nudge
        self._nudge = np.zeros(2)
        if node is not None:
            self._moved(node, by)

    def _moved(self, node: Node, by: Floats, handle: int = 0) -> None:
        change = node_moved(self.result.curves, node, self.loop(node.arc), by, handle)
        if change is not None and handle == 0:
            self.chosen = np.array(self._source(self._at(node) + by))
        self.give("Handle moved" if handle else "Node moved", change)

    def finish(self) -> None:
        """Add a node where a curve was double clicked."""
        if self.at is not None:
            at, reach = self.canvas.source_point(self.at), NEAR * self.screen_px
            self.gesture = None
            self.when_fresh(lambda: self._add_at(at, reach))

    def _add_at(self, place: tuple[float, float], reach: float) -> None:
        spot = nearest_spot(self.result.curves, on_picture(self.result.picture, [place])[0])
        if spot is not None and spot.away < reach:
            change = node_added(self.result.curves, spot)
            self.chosen = np.array(self._source(change.new.control[1, 0]))
            self.give("Node added", change)

    def key(self, event: QKeyEvent) -> bool:
        """Work on the chosen node."""
        key, node = event.key(), self.node()
        if key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._next(-1 if key == Qt.Key.Key_Backtab else 1)
            return True
        if node is None or self.chosen is None:
            return super().key(event)
        if key in _WAYS:
            coarse = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            step = (_COARSE if coarse else _FINE) * self.result.finished.px_per_mm
            self._nudge_by(np.array(_WAYS[key], float) * step)
            return True
        work: dict[int, tuple[str, Callable[..., Change | None]]] = {
            Qt.Key.Key_Delete: ("Node deleted", node_deleted),
            Qt.Key.Key_Backspace: ("Node deleted", node_deleted),
            Qt.Key.Key_C: ("Corner made", made_corner),
            Qt.Key.Key_R: ("Node rounded", made_smooth),
        }
        if key not in work:
            return super().key(event)
        self.gesture = None
        self.when_fresh(lambda: self._worked(*work[key]))
        return True

    def _worked(self, what: str, make: Callable[..., Change | None]) -> None:
        node = self.node()
        if node is not None:
            self.give(what, make(self.result.curves, node, self.loop(node.arc)))

    def _next(self, step: int) -> None:
        nodes, _ = self.nodes()
        here = self.node()
        if nodes:
            self.choose(nodes[(nodes.index(here) + step) % len(nodes)] if here in nodes else nodes[0])

    def paint(self, painter: QPainter) -> None:
        """Draw the nodes in view, the chosen one with its handles, and the shape while it is dragged."""
        if self.model.result is None:
            return
        nodes, places = self.nodes()
        room = QRectF(self.canvas.rect())
        painter.setPen(QPen(QColor(theme.tokens.indigo), 1))
        painter.setBrush(QColor(theme.tokens.paper))
        low, high = self.px(room.topLeft()), self.px(room.bottomRight())
        seen = ((places >= np.minimum(low, high)) & (places <= np.maximum(low, high))).all(1) if nodes else []
        if nodes:
            painter.drawRects([QRectF(point.x() - 3, point.y() - 3, 6, 6) for point in self.on_screen(places[seen])])
        node = self.node()
        if node is None:
            super().paint(painter)
            return
        if self._held is not None and self.down:
            change = node_moved(self.result.curves, node, self.loop(node.arc), self._by, self._held.handle)
            if change is not None:
                self.paint_piece(painter, change.new)
        at = self.on_screen((self._at(node) + self._nudge)[None])[0]
        for place in self._handles(node).values():
            handle = self.on_screen(place[None])[0]
            draw_line(painter, QPolygonF([at, handle]))
            draw_handle(painter, handle)
        painter.setPen(QPen(QColor(theme.tokens.on_indigo), 1.5))
        painter.setBrush(QColor(theme.tokens.indigo))
        painter.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10))
        painter.setBrush(Qt.BrushStyle.NoBrush)
