"""Tools that draw on the canvas; what they give is in source coordinates.

Each works with the pointer and with the keyboard: arrows move a mark (with
Shift by one screen pixel), Enter does what a click does, and Esc puts the
tool away.
"""

from PySide6.QtCore import QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from sketchloom.app.theme import theme
from sketchloom.core.picture import Point, Stroke

__all__ = [
    "AxisTool",
    "BrushTool",
    "CornersTool",
    "LineTool",
    "PickTool",
    "RectangleTool",
    "Tool",
    "draw_line",
    "draw_ring",
]

_STEP = 8
_HANDLE = 7.0
_NEAR = 14.0
_LEAST = 4.0
_ARROWS = {
    Qt.Key.Key_Left: QPointF(-1, 0),
    Qt.Key.Key_Right: QPointF(1, 0),
    Qt.Key.Key_Up: QPointF(0, -1),
    Qt.Key.Key_Down: QPointF(0, 1),
}
_ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


def draw_line(painter: QPainter, line: QPolygonF, closed: bool = False) -> None:
    """Draw a line that shows on any picture."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for code, width in ((theme.tokens.on_indigo, 4), (theme.tokens.indigo, 2)):
        painter.setPen(QPen(QColor(code), width))
        if closed:
            painter.drawPolygon(line)
        else:
            painter.drawPolyline(line)


def draw_handle(painter: QPainter, at: QPointF, chosen: bool = False) -> None:
    """Draw a handle that can be dragged."""
    painter.setPen(QPen(QColor(theme.tokens.indigo), 2))
    painter.setBrush(QColor(theme.tokens.indigo if chosen else theme.tokens.paper))
    painter.drawEllipse(at, _HANDLE, _HANDLE)
    painter.setBrush(Qt.BrushStyle.NoBrush)


class Tool(QObject):
    """What every tool has.

    Attributes
    ----------
    help : str
        How to use it, in one sentence.
    drags : bool
        Whether it draws between press and release; else a click does all.
    ghost : bool
        Whether what was cleared shows faintly meanwhile.
    takes_tab : bool
        Whether Tab is its own; Esc puts it away, and Tab goes on as ever.
    view : str
        What the canvas shows meanwhile.
    """

    done = Signal(object)
    ended = Signal()
    """It wants to be put away."""
    help = ""
    drags = True
    ghost = False
    takes_tab = False
    view = "Picture"

    def __init__(self) -> None:
        super().__init__()
        self.canvas: QWidget | None = None
        self.at: QPointF | None = None
        self.down = False
        self._by_keys = False

    def enter(self, canvas) -> None:
        """Be taken in hand."""
        self.canvas = canvas

    def leave(self) -> None:
        """Be put away."""

    def press(self, at: QPointF) -> None:
        """The pointer went down."""
        self.at, self.down = at, True
        self.canvas.update()

    def move(self, at: QPointF) -> None:
        """The pointer moved."""
        self.at = at
        self._by_keys = False
        self.canvas.update()

    def release(self, at: QPointF) -> None:
        """The pointer went up."""
        self.at, self.down = at, False
        self.canvas.update()

    def finish(self) -> None:
        """A double click, or Shift+Enter."""

    def key(self, event: QKeyEvent) -> bool:
        """Take a key, or leave it."""
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in _ARROWS:
            start = self.at or QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
            self.move(start + _ARROWS[key] * (1 if shift else _STEP))
            self._by_keys = True
            return True
        if key in _ENTER:
            at = self.at or QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
            if shift:
                self.finish()
            elif self.down:
                self.release(at)
            else:
                self.press(at)
                if not self.drags:
                    self.release(at)
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        """Draw the mark that the keys move."""
        if self._by_keys and self.at is not None:
            for way in (QPointF(9, 0), QPointF(0, 9)):
                draw_line(painter, QPolygonF([self.at - way, self.at + way]))


class RectangleTool(Tool):
    """Drags a rectangle; gives two opposite corners."""

    help = "Drag a rectangle."

    def __init__(self, help_text: str) -> None:
        super().__init__()
        self.help = help_text
        self._from: QPointF | None = None

    def press(self, at: QPointF) -> None:
        """Begin at a corner."""
        self._from = at
        super().press(at)

    def release(self, at: QPointF) -> None:
        """End at the other corner."""
        super().release(at)
        start, self._from = self._from, None
        if start is not None and min(abs(at.x() - start.x()), abs(at.y() - start.y())) > _LEAST:
            area = QRectF(start, at).normalized()
            self.done.emit((self.canvas.source_point(area.topLeft()), self.canvas.source_point(area.bottomRight())))

    def paint(self, painter: QPainter) -> None:
        """Draw it."""
        if self._from is not None and self.at is not None:
            draw_line(painter, QPolygonF(QRectF(self._from, self.at)), closed=True)
        super().paint(painter)


class PickTool(Tool):
    """Picks a place with a click."""

    drags = False
    help = "Click the place."

    def release(self, at: QPointF) -> None:
        """Take the place."""
        super().release(at)
        self.done.emit(self.canvas.source_point(at))


class CornersTool(Tool):
    """Moves four corners by their handles; gives them after every move."""

    takes_tab = True
    help = "Drag the corners onto those of the page; Tab goes to the next, arrows move it, Enter ends."

    def __init__(self, corners: tuple[Point, ...]) -> None:
        super().__init__()
        self.corners = list(corners)
        self._chosen = 0

    def _places(self) -> list[QPointF]:
        return [self.canvas.widget_point(corner) for corner in self.corners]

    def press(self, at: QPointF) -> None:
        """Take hold of the nearest corner."""
        far = [(place - at).manhattanLength() for place in self._places()]
        self._chosen = far.index(min(far))
        super().press(at)

    def move(self, at: QPointF) -> None:
        """Move the corner in hand."""
        if self.down:
            self.corners[self._chosen] = self.canvas.source_point(at)
        super().move(at)

    def release(self, at: QPointF) -> None:
        """Let go of it."""
        held = self.down
        super().release(at)
        if held:
            self.corners[self._chosen] = self.canvas.source_point(at)
            self.done.emit(tuple(self.corners))

    def key(self, event: QKeyEvent) -> bool:
        """Tab chooses a corner, arrows move it."""
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._chosen = (self._chosen + (1 if key == Qt.Key.Key_Tab else -1)) % 4
        elif key in _ARROWS:
            at = self._places()[self._chosen] + _ARROWS[key] * (1 if shift else _STEP)
            self.corners[self._chosen] = self.canvas.source_point(at)
            self.done.emit(tuple(self.corners))
        elif key in _ENTER:
            self.ended.emit()
            return True
        else:
            return False
        self.canvas.update()
        return True

    def paint(self, painter: QPainter) -> None:
        """Draw the page's outline and its handles."""
        places = self._places()
        draw_line(painter, QPolygonF(places), closed=True)
        for number, place in enumerate(places):
            draw_handle(painter, place, number == self._chosen)


def draw_ring(painter: QPainter, at: QPointF, radius: float) -> None:
    """Draw the edge of a round brush."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for code, width in ((theme.tokens.on_indigo, 3), (theme.tokens.indigo, 1.5)):
        painter.setPen(QPen(QColor(code), width))
        painter.drawEllipse(at, radius, radius)


class LineTool(Tool):
    """Keeps the line along which the pointer was dragged."""

    def __init__(self) -> None:
        super().__init__()
        self.line: list[QPointF] = []

    def press(self, at: QPointF) -> None:
        """Begin a stroke."""
        self.line = [at]
        super().press(at)

    def move(self, at: QPointF) -> None:
        """Go on with it."""
        if self.down and (at - self.line[-1]).manhattanLength() > 2:
            self.line.append(at)
        super().move(at)


class BrushTool(LineTool):
    """Draws strokes with a round brush; stays in hand."""

    help = "Paint with the pointer; each stroke can be undone."

    def __init__(self, help_text: str, width: float, colour: str, ghost: bool = False) -> None:
        super().__init__()
        self.help, self.width, self.colour, self.ghost = help_text, width, colour, ghost

    def _screen_width(self) -> float:
        """Of the brush where it is, in screen pixels."""
        at = self.at or QPointF(self.canvas.width() / 2, self.canvas.height() / 2)
        (x0, y0), (x1, y1) = (self.canvas.source_point(at + QPointF(shift, 0)) for shift in (0, 100))
        return self.width * 100 / max(1e-9, ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5)

    def release(self, at: QPointF) -> None:
        """End it."""
        held = self.down
        super().release(at)
        if held:
            line, self.line = [*self.line, at], []
            points = tuple(self.canvas.source_point(place) for place in line)
            self.done.emit(Stroke(points if line[0] != at or len(line) > 2 else points[:1], round(self.width, 6)))

    def paint(self, painter: QPainter) -> None:
        """Draw the stroke in hand and the brush."""
        wide = self._screen_width()
        if self.line:
            tint = QColor(self.colour)
            tint.setAlphaF(0.6)
            painter.setPen(QPen(tint, wide, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
            painter.drawPolyline(QPolygonF([*self.line, self.at or self.line[-1]]))
        if self.at is not None:
            draw_ring(painter, self.at, wide / 2)
        super().paint(painter)


class AxisTool(Tool):
    """Moves an upright or level axis; gives its ends and a place in the half that stays."""

    takes_tab = True
    help = "Drag the axis; click a half to keep it, X lays the axis the other way, Enter ends."

    def __init__(self, first: Point, last: Point, keep: Point) -> None:
        super().__init__()
        self._ends, self._keep = (first, last), keep
        self._moves = False

    def _across(self) -> tuple[bool, float, bool]:
        """Whether the axis stands, where it crosses the widget, and whether the left or upper half stays."""
        first, last = (self.canvas.widget_point(end) for end in self._ends)
        keep, middle = self.canvas.widget_point(self._keep), (first + last) / 2
        upright = abs(last.y() - first.y()) >= abs(last.x() - first.x())
        at = middle.x() if upright else middle.y()
        return upright, at, (keep.x() if upright else keep.y()) < at

    def _set(self, upright: bool, at: float, first_half: bool) -> None:
        size = self.canvas.scene.extent
        origin, zoom = self.canvas.widget_point(self.canvas.scene.corner), self.canvas.zoom
        low = origin.x() if upright else origin.y()
        high = low + (size.width() if upright else size.height()) * zoom
        at = min(max(at, low + 1), high - 1)
        start = origin.y() if upright else origin.x()
        end = start + (size.height() if upright else size.width()) * zoom
        ends = [QPointF(at, side) if upright else QPointF(side, at) for side in (start, end)]
        beside = at - 1e-3 - 0.4 * (at - low) if first_half else at + 0.4 * (high - at)
        middle = (start + end) / 2
        self._ends = tuple(self.canvas.source_point(place) for place in ends)
        self._keep = self.canvas.source_point(QPointF(beside, middle) if upright else QPointF(middle, beside))
        self.done.emit((*self._ends, self._keep))
        self.canvas.update()

    def press(self, at: QPointF) -> None:
        """Take hold of the axis, or choose a half."""
        upright, place, first_half = self._across()
        along = at.x() if upright else at.y()
        self._moves = abs(along - place) < _NEAR
        if not self._moves and (along < place) != first_half:
            self._set(upright, place, along < place)
        super().press(at)

    def move(self, at: QPointF) -> None:
        """Move the axis in hand."""
        if self.down and self._moves:
            upright, _, first_half = self._across()
            self._set(upright, at.x() if upright else at.y(), first_half)
        super().move(at)

    def key(self, event: QKeyEvent) -> bool:
        """Arrows move the axis, X turns it, Tab takes the other half."""
        upright, place, first_half = self._across()
        if event.key() == Qt.Key.Key_X:
            size, origin = self.canvas.scene.extent, self.canvas.widget_point(self.canvas.scene.corner)
            half = (size.height() if upright else size.width()) * self.canvas.zoom / 2
            self._set(not upright, (origin.y() if upright else origin.x()) + half, first_half)
        elif event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab):
            self._set(upright, place, not first_half)
        elif event.key() in _ARROWS:
            step = _ARROWS[event.key()] * (1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else _STEP)
            self._set(upright, place + step.x() + step.y(), first_half)
        elif event.key() in _ENTER:
            self.done.emit((*self._ends, self._keep))
            self.ended.emit()
        else:
            return False
        return True

    def paint(self, painter: QPainter) -> None:
        """Draw the axis, and shade the half that goes."""
        upright, place, first_half = self._across()
        origin, size = self.canvas.widget_point(self.canvas.scene.corner), self.canvas.scene.extent * self.canvas.zoom
        area = QRectF(origin, size)
        goes = QRectF(area)
        if upright:
            goes.setLeft(place) if first_half else goes.setRight(place)
            line = [QPointF(place, area.top() - 20), QPointF(place, area.bottom() + 20)]
        else:
            goes.setTop(place) if first_half else goes.setBottom(place)
            line = [QPointF(area.left() - 20, place), QPointF(area.right() + 20, place)]
        veil = QColor(theme.tokens.linen)
        veil.setAlphaF(0.6)
        painter.fillRect(goes, veil)
        draw_line(painter, QPolygonF(line))
        draw_handle(painter, (line[0] + line[1]) / 2, self._moves and self.down)
