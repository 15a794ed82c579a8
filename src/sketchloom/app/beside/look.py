"""One of two pictures that are looked at alike: both show the same place at the same zoom."""

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QTransform, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from sketchloom.app.beside.sides import Side
from sketchloom.app.canvas.held_view import HeldView
from sketchloom.app.theme import theme

__all__ = ["Half", "Look"]

_MOST_ZOOM, _STEP, _PAN, _EDGE = 200.0, 1.25, 0.08, 12


class Look(QObject):
    """Where both look: how often each picture's fit, and which place of it, as shares of its size, is in the middle."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.zoom, self.middle = 1.0, QPointF(0.5, 0.5)

    def fit(self) -> None:
        """Show all of both."""
        self.zoom, self.middle = 1.0, QPointF(0.5, 0.5)
        self.changed.emit()

    def zoom_by(self, times: float, about: QPointF | None = None) -> None:
        """Zoom, leaving a place, as shares of the size, where it is."""
        zoom = min(_MOST_ZOOM, max(1.0, self.zoom * times))
        about = about if about is not None else self.middle
        self.middle = about + (self.middle - about) * (self.zoom / zoom)
        self.zoom = zoom
        self._hold()

    def pan(self, by: QPointF) -> None:
        """Move the middle by shares of the size."""
        self.middle = self.middle + by
        self._hold()

    def _hold(self) -> None:
        if self.zoom == 1.0:
            self.middle = QPointF(0.5, 0.5)
        self.middle = QPointF(min(1.0, max(0.0, self.middle.x())), min(1.0, max(0.0, self.middle.y())))
        self.changed.emit()


class Half(QWidget):
    """Draws a side where a look says; wheel, drag and keys move both."""

    def __init__(self, look: Look, name: str) -> None:
        super().__init__()
        self.look = look
        self._side: Side | None = None
        self._words = ""
        self._held = HeldView()
        self._held.rested.connect(self.update)
        self._from: QPointF | None = None
        self.setAccessibleName(name)
        self.setMinimumHeight(120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        look.changed.connect(self.update)

    @property
    def side(self) -> Side | None:
        """What it shows."""
        return self._side

    def show_side(self, side: Side | None, words: str = "") -> None:
        """Draw a side, or say why there is none."""
        self._side, self._words = side, words
        self.update()

    def _room(self) -> QTransform:
        """Where mm of the side lie."""
        assert self._side is not None
        wide, high = self._side.size
        fit = min((self.width() - 2 * _EDGE) / max(wide, 1e-6), (self.height() - 2 * _EDGE) / max(high, 1e-6))
        scale = max(fit, 1e-6) * self.look.zoom
        at = QPointF(self.look.middle.x() * wide, self.look.middle.y() * high)
        return QTransform(
            scale, 0, 0, scale, self.width() / 2 - scale * at.x(), self.height() / 2 - scale * at.y()
        )  # fmt: skip

    def _share(self, point: QPointF) -> QPointF:
        """A point of the widget as shares of the side's size."""
        assert self._side is not None
        at = self._room().inverted()[0].map(point)
        return QPointF(at.x() / self._side.size[0], at.y() / self._side.size[1])

    def paintEvent(self, event) -> None:
        """Draw the layers on the canvas's ground."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.tokens.kraft))
        if self._side is None:
            painter.setPen(QColor(theme.tokens.faded))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(self.rect().adjusted(24, 24, -24, -24), flags, self._words)
        else:
            room, key = self._room(), (id(self._side), theme.is_dark)
            self._held.paint(painter, self.rect(), key, room, lambda own: self._draw(own, room))
        if self.hasFocus():
            painter.setPen(QColor(theme.tokens.indigo))
            painter.drawRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5))

    def _draw(self, painter: QPainter, room: QTransform) -> None:
        assert self._side is not None
        painter.setTransform(room)
        seen = room.inverted()[0].mapRect(QRectF(self.rect()))
        for colour, shapes in self._side.layers:
            for shape in shapes.within(seen):
                painter.fillPath(shape, colour)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the pointer."""
        if self._side is not None:
            self.look.zoom_by(_STEP ** (event.angleDelta().y() / 120), self._share(event.position()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        self._from = event.position()
        self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag both."""
        if self._from is not None and self._side is not None:
            self.look.pan(self._share(self._from) - self._share(event.position()))
            self._from = event.position()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._from = None
        self.setCursor(Qt.CursorShape.OpenHandCursor)

    def event(self, event: QEvent) -> bool:
        """Keep the keys that move and zoom from the canvas below."""
        own = (Qt.Key.Key_F, Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Equal)
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in own:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move, + and - zoom, F shows all."""
        step = _PAN / self.look.zoom * 2
        by = {
            Qt.Key.Key_Left: (-step, 0.0), Qt.Key.Key_Right: (step, 0.0), Qt.Key.Key_Up: (0.0, -step),
            Qt.Key.Key_Down: (0.0, step),
        }.get(Qt.Key(event.key()))  # fmt: skip
        if by is not None:
            self.look.pan(QPointF(*by))
        elif event.text() in ("+", "="):
            self.look.zoom_by(_STEP)
        elif event.text() == "-":
            self.look.zoom_by(1 / _STEP)
        elif event.key() == Qt.Key.Key_F:
            self.look.fit()
        else:
            super().keyPressEvent(event)
