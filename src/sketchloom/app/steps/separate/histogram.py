"""A histogram with a mark that is dragged."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from sketchloom.app.fields import gesture_id
from sketchloom.app.theme import theme

__all__ = ["Histogram"]

_HEIGHT = 92
_FOOT = 10
_PAPER = 250
"""Grey of the bare paper in the histogram."""
_LOW, _HIGH = 0.02, 0.98


class Histogram(QWidget):
    """How many pixels have how much of the paper's light; the mark tells ink from paper."""

    moved = Signal(float, int)
    """Share of the paper's light, and the gesture it belongs to."""
    rested = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setFixedHeight(_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setToolTip("Dark is left, bare paper right; drag the line, or use the arrows")
        self._bars = np.zeros(_PAPER + 1)
        self.share = 0.5
        self._gesture = 0

    def show_counts(self, counts: np.ndarray, share: float) -> None:
        """Show a histogram, (256,), and where it is split; a mark in the hand stays there."""
        counts = np.append(counts[:_PAPER], counts[_PAPER:].sum())
        bars = np.sqrt(np.convolve(counts, np.ones(5) / 5, "same"))
        usual = np.sort(bars)[-8] if bars.any() else 1.0  # the paper's own peak would flatten all others
        self._bars = np.minimum(1.0, bars / max(1.0, usual))
        if not self._gesture:
            self.share = share
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width, base = self.width(), _HEIGHT - _FOOT
        x = self.share * width
        step = width / len(self._bars)
        tokens = theme.tokens
        for code, part in ((tokens.ink, QRectF(0, 0, x, base)), (tokens.faded, QRectF(x, 0, width - x, base))):
            outline = [QPointF(0, base)]
            for place, bar in enumerate(self._bars.tolist()):
                outline.append(QPointF((place + 0.5) * step, base - bar * (base - 4)))
            outline.append(QPointF(width, base))
            painter.save()
            painter.setClipRect(part)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(code))
            painter.drawPolygon(QPolygonF(outline))
            painter.restore()
        painter.setPen(QPen(QColor(tokens.line), 1))
        painter.drawLine(QPointF(0, base), QPointF(width, base))
        painter.setPen(QPen(QColor(tokens.indigo), 3 if self.hasFocus() else 2))
        painter.drawLine(QPointF(x, 0), QPointF(x, base))
        painter.setBrush(QColor(tokens.indigo if self.hasFocus() else tokens.paper))
        painter.drawEllipse(QPointF(x, base), 5, 5)

    def _set(self, share: float) -> None:
        if not self._gesture:
            self._gesture = gesture_id()
        self.share = min(max(share, _LOW), _HIGH)
        self.update()
        self.moved.emit(round(self.share, 3), self._gesture)

    def _end(self) -> None:
        if self._gesture:
            self._gesture = 0
            self.rested.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the mark."""
        self._set(event.position().x() / self.width())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move it."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._set(event.position().x() / self.width())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let it go."""
        self._end()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move it, with Shift in finer steps."""
        ways = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event.key() not in ways:
            super().keyPressEvent(event)
            return
        fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self._set(self.share + ways[Qt.Key(event.key())] * (0.002 if fine else 0.01))

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        """Work out the full result once the key is let go."""
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and not event.isAutoRepeat():
            self._end()
        super().keyReleaseEvent(event)

    def focusOutEvent(self, event) -> None:
        """A key that is let go elsewhere ends the gesture too."""
        self._end()
        super().focusOutEvent(event)
