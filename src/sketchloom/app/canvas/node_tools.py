"""Tools that work on traced curves by hand: on nodes, and on stretches between two places."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPainterPath, QPen, QPolygonF

from sketchloom.app.canvas.tools import LineTool, Tool, draw_handle, draw_line, draw_ring
from sketchloom.app.job_model import JobModel
from sketchloom.app.theme import theme
from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Piece, Spot, arc_piece, edit_of, nearest_spot
from sketchloom.core.curves.handwork import (
    Change,
    Node,
    closed_by_curve,
    made_corner,
    made_smooth,
    node_added,
    node_deleted,
    node_moved,
    smoothed,
    straightened,
    stretches_under,
)
from sketchloom.core.job import Result, ink_keys
from sketchloom.core.layers import Join
from sketchloom.core.picture import on_picture, source_points

__all__ = ["STRETCHES", "EdgeBrush", "JoinTool", "NodeTool", "StretchTool"]

_NEAR = 12.0
_FINE, _COARSE = 0.1, 1.0  # mm
_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class _CurveTool(Tool):
    """What both have: the result, and places on it in widget and picture coordinates."""

    view = "Paths"

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self.model = model

    @property
    def result(self) -> Result:
        """The newest result."""
        assert self.model.result is not None
        return self.model.result

    def px(self, at: QPointF) -> Floats:
        """Px of the picture under a point of the widget."""
        return on_picture(self.result.picture, [self.canvas.source_point(at)])[0]

    def on_screen(self, points: Floats) -> list[QPointF]:
        """Points of the widget that show px of the picture."""
        return [self.canvas.widget_point(point) for point in source_points(self.result.picture, points)]

    @property
    def screen_px(self) -> float:
        """Px of the picture that a screen pixel covers."""
        middle = QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
        return float(np.hypot(*(self.px(middle + QPointF(10, 0)) - self.px(middle)))) / 10

    def loop(self, arc: int) -> bool:
        """Whether an arc is a loop without a junction."""
        return bool(self.result.planar.loops[arc])

    def give(self, what: str, change: Change | None) -> None:
        """Pass a change on, or say why there is none."""
        if change is None:
            self.model.said.emit("Where three edges meet the node stays; work on the nodes beside it.")
            return
        self.give_all(what, [change])

    def give_all(self, what: str, changes: list[Change]) -> None:
        """Pass several changes on as one."""
        result = self.result
        keys, to_source = ink_keys(result), result.picture.source_of
        self.done.emit(tuple(edit_of(what, result.planar, keys, c.arc, c.old, c.new, to_source) for c in changes))

    def paint_piece(self, painter: QPainter, piece: Piece) -> None:
        """Draw segments."""
        path = QPainterPath()
        for number, control in enumerate(piece.control):
            points = self.on_screen(control)
            if number == 0:
                path.moveTo(points[0])
            path.cubicTo(*points[1:])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for code, width in ((theme.tokens.on_indigo, 4), (theme.tokens.indigo, 2)):
            painter.setPen(QPen(QColor(code), width))
            painter.drawPath(path)


class _Held(NamedTuple):
    """What is dragged: a node, or a handle of it."""

    node: Node
    handle: int


class NodeTool(_CurveTool):
    """Moves, adds and deletes nodes, and makes them corners or smooth."""

    help = (
        "Click a node, then drag it or a handle. Arrows move it by 0.1 mm, with Shift by 1 mm; Delete takes it out, "
        "C makes a corner, R makes it round; a double click on a line adds one; Tab goes to the next."
    )
    takes_tab = True

    def __init__(self, model: JobModel) -> None:
        super().__init__(model)
        self.chosen: Floats | None = None  # source point: the node stays chosen over a new fit
        self._held: _Held | None = None
        self._from: Floats | None = None
        self._by = np.zeros(2)

    def nodes(self) -> tuple[list[Node], Floats]:
        """All nodes, and where they are, px."""
        curves = self.result.curves
        count = np.diff(curves.offset)
        arc = np.repeat(np.arange(len(count)), count + 1)
        place = np.arange(len(arc)) - (curves.offset[:-1] + np.arange(len(count)))[arc]
        at = curves.points[3 * (np.arange(len(arc)) - arc) + arc]
        keep = ~(self.result.planar.loops[arc] & (place == count[arc]))
        inner = (self.result.planar.left[arc] > 0) & (self.result.planar.right[arc] > 0)
        rows = np.flatnonzero(keep & inner)
        return [Node(int(arc[row]), int(place[row])) for row in rows], at[rows]

    def node(self) -> Node | None:
        """The chosen node as it now is."""
        if self.chosen is None:
            return None
        nodes, at = self.nodes()
        if not nodes:
            return None
        here = on_picture(self.result.picture, [(float(self.chosen[0]), float(self.chosen[1]))])[0]
        return nodes[int(np.argmin(np.hypot(*(at - here).T)))]

    def choose(self, node: Node | None) -> None:
        """Choose a node."""
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
        here, reach = self.px(at), _NEAR * self.screen_px
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
        self._held, self._from, self._by = _Held(node, handle), here, np.zeros(2)

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
        self._moved(held.node, self._by, held.handle)

    def _moved(self, node: Node, by: Floats, handle: int = 0) -> None:
        change = node_moved(self.result.curves, node, self.loop(node.arc), by, handle)
        if change is not None and handle == 0:
            self.chosen = np.array(self._source(self._at(node) + by))
        self.give("Handle moved" if handle else "Node moved", change)

    def finish(self) -> None:
        """Add a node where a curve was double clicked."""
        if self.at is None:
            return
        spot = nearest_spot(self.result.curves, self.px(self.at))
        if spot is not None and spot.away < _NEAR * self.screen_px:
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
        curves, loop = self.result.curves, self.loop(node.arc)
        if key in _ARROWS:
            coarse = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            step = (_COARSE if coarse else _FINE) * self.result.finished.px_per_mm
            self._moved(node, np.array(_ARROWS[key], float) * step)
            return True
        work: dict[int, tuple[str, Callable[..., Change | None]]] = {
            Qt.Key.Key_Delete: ("Node deleted", node_deleted),
            Qt.Key.Key_Backspace: ("Node deleted", node_deleted),
            Qt.Key.Key_C: ("Corner made", made_corner),
            Qt.Key.Key_R: ("Node rounded", made_smooth),
        }
        if key not in work:
            return super().key(event)
        what, make = work[key]
        self.give(what, make(curves, node, loop))
        return True

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
        for point in self.on_screen(places[seen]) if nodes else []:
            painter.drawRect(QRectF(point.x() - 3, point.y() - 3, 6, 6))
        node = self.node()
        if node is None:
            super().paint(painter)
            return
        if self._held is not None and self.down:
            change = node_moved(self.result.curves, node, self.loop(node.arc), self._by, self._held.handle)
            if change is not None:
                self.paint_piece(painter, change.new)
        at = self.on_screen(self._at(node)[None])[0]
        for place in self._handles(node).values():
            handle = self.on_screen(place[None])[0]
            draw_line(painter, QPolygonF([at, handle]))
            draw_handle(painter, handle)
        painter.setPen(QPen(QColor(theme.tokens.on_indigo), 1.5))
        painter.setBrush(QColor(theme.tokens.indigo))
        painter.drawRect(QRectF(at.x() - 5, at.y() - 5, 10, 10))
        painter.setBrush(Qt.BrushStyle.NoBrush)


class _Stretch(NamedTuple):
    """One kind of work on a stretch."""

    what: str
    help: str


STRETCHES = {
    "straighten": _Stretch(
        "Straightened", "Brush along edges: what the brush runs along becomes straight. Zoom in for a finer brush."
    ),
    "smooth": _Stretch(
        "Smoothed", "Brush along edges: bumps and corners under the brush go. Zoom in for a finer brush."
    ),
    "close": _Stretch("Closed by a curve", "Drag from one place of an edge to another; one curve closes the gap."),
}


class EdgeBrush(_CurveTool, LineTool):
    """Straightens or smooths all edges that it runs along, in one change."""

    def __init__(self, model: JobModel, kind: str) -> None:
        super().__init__(model)
        self.kind = kind
        self.help = STRETCHES[kind].help

    def _changes(self) -> list[Change]:
        curves, loops = self.result.curves, self.result.planar.loops
        line = np.array([self.px(at) for at in self.line])
        inner = (self.result.planar.left > 0) & (self.result.planar.right > 0)
        tolerance = max(0.3, self.model.recipe.trace.smoothness * self.result.finished.px_per_mm)
        changes = []
        for first, last in stretches_under(curves, loops, line, _NEAR * self.screen_px):
            if inner[first.arc] and self.kind == "straighten":
                changes.append(straightened(curves, first, last, self.loop(first.arc), onwards=True))
            elif inner[first.arc]:
                changes.append(smoothed(curves, first, last, self.loop(first.arc), tolerance, onwards=True))
        return changes

    def release(self, at: QPointF) -> None:
        """Change all edges that the brush ran along."""
        held = self.down
        super().release(at)
        if not held:
            return
        self.line.append(at)
        changes, self.line = self._changes(), []
        if changes:
            self.give_all(STRETCHES[self.kind].what, changes)
        else:
            self.model.said.emit("The brush ran along no edge; crossing one changes nothing.")

    def paint(self, painter: QPainter) -> None:
        """Draw the brush, and what its edges will be."""
        if self.line and self.model.result is not None:
            for change in self._changes():
                self.paint_piece(painter, change.new)
        if self.at is not None:
            draw_ring(painter, self.at, _NEAR)
        super().paint(painter)


class StretchTool(_CurveTool):
    """Closes an edge by one curve between two places."""

    help = STRETCHES["close"].help

    def __init__(self, model: JobModel) -> None:
        super().__init__(model)
        self._first: Spot | None = None

    def press(self, at: QPointF) -> None:
        """Begin on the nearest edge."""
        super().press(at)
        spot = nearest_spot(self.result.curves, self.px(at))
        self._first = spot if spot is not None and spot.away < _NEAR * self.screen_px else None
        if self._first is None:
            self.model.said.emit("No edge lies there; begin on one.")

    def _change(self, at: QPointF) -> Change | None:
        if self._first is None:
            return None
        curves, arc = self.result.curves, self._first.arc
        last = nearest_spot(curves, self.px(at), np.array([arc]))
        if last is None or (last.segment, last.t) == (self._first.segment, self._first.t):
            return None
        return closed_by_curve(curves, self._first, last, self.loop(arc))

    def release(self, at: QPointF) -> None:
        """End on the same edge."""
        super().release(at)
        change = self._change(at)
        if change is not None:
            self.give(STRETCHES["close"].what, change)
        self._first = None

    def paint(self, painter: QPainter) -> None:
        """Draw what it will be."""
        if self.down and self.at is not None and self.model.result is not None:
            change = self._change(self.at)
            if change is not None:
                self.paint_piece(painter, change.new)
        super().paint(painter)


class JoinTool(_CurveTool):
    """Joins two open ends of centre lines."""

    help = "Drag from one end of a centre line to another; a curve joins them."

    def __init__(self, model: JobModel) -> None:
        super().__init__(model)
        self._first: tuple[str, Floats] | None = None

    def ends(self) -> list[tuple[str, Floats]]:
        """Open ends and the inks they are of, px."""
        finished = self.result.finished
        out = []
        for layer in self.result.stack.strokes:
            code = "#{:02x}{:02x}{:02x}".format(*layer.ink.key)
            for stroke in layer.strokes:
                if not stroke.closed:
                    control = stroke.piece.control
                    both = (control[0, 0], control[-1, 3])
                    out += [(code, end * finished.px_per_mm + finished.origin) for end in both]
        return out

    def _near(self, at: QPointF, ink: str | None = None) -> tuple[str, Floats] | None:
        here = self.px(at)
        ends = [end for end in self.ends() if ink in (None, end[0])]
        away = [float(np.hypot(*(end - here))) for _, end in ends]
        return ends[int(np.argmin(away))] if away and min(away) < _NEAR * self.screen_px else None

    def press(self, at: QPointF) -> None:
        """Begin at an end."""
        super().press(at)
        self._first = self._near(at)
        if self._first is None:
            self.model.said.emit("No open end lies there; begin at one.")

    def release(self, at: QPointF) -> None:
        """End at another."""
        super().release(at)
        first, self._first = self._first, None
        last = self._near(at, first[0]) if first is not None else None
        if first is None or last is None or np.array_equal(first[1], last[1]):
            return
        places = source_points(self.result.picture, np.array([first[1], last[1]]))
        self.done.emit(Join(first[0], places[0], places[1]))

    def paint(self, painter: QPainter) -> None:
        """Draw the ends, and the line that is dragged."""
        if self.model.result is None:
            return
        for _, end in self.ends():
            draw_handle(painter, self.on_screen(end[None])[0])
        if self.down and self.at is not None and self._first is not None:
            draw_line(painter, QPolygonF([self.on_screen(self._first[1][None])[0], self.at]))
        super().paint(painter)
