"""The warp: the steps in working order, and one thread per ink beside them."""

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFont, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QAbstractButton, QButtonGroup, QFrame, QVBoxLayout, QWidget

from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font
from sketchloom.app.theme.tokens import edge_on

__all__ = ["StepState", "Warp"]

_WIDTH, _ROW, _GUTTER, _TOP = 204, 56, 62, 12
_MOST_THREADS = 8
LEFT = 44
ROOM = _WIDTH - LEFT - _GUTTER - 6
_STATE_WORDS = {
    "done": "done",
    "working": "working",
    "stale": "out of date",
    "look": "needs a look",
    "worth": "worth a look",
    "spoils": "spoils the cut",
}


class StepState(NamedTuple):
    """What the warp says of a step."""

    figure: str
    state: str  # done, working, stale, look, worth, spoils
    share: float = 0.0  # done of the work in hand


class _Step(QAbstractButton):
    """One row of the warp."""

    def __init__(self, number: int, name: str) -> None:
        super().__init__()
        self.number, self.name = number, name
        self.shown = StepState("", "stale")
        self.setCheckable(True)
        self.setFixedHeight(_ROW)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(f"{name}  ({number})")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_state(self, shown: StepState) -> None:
        self.shown = shown
        self.setAccessibleName(f"Step {self.number}: {self.name}, {shown.figure}, {_STATE_WORDS[shown.state]}")
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(_WIDTH, _ROW)

    def paintEvent(self, event) -> None:
        t = theme.tokens
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.isChecked():
            painter.fillRect(self.rect(), QColor(t.paper))
            painter.fillRect(0, 0, 3, self.height(), QColor(t.indigo))
        elif self.underMouse():
            painter.fillRect(self.rect(), QColor(t.paper))
        if self.hasFocus():
            painter.setPen(QPen(QColor(t.indigo), 2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(5, 3, -3, -3), 6, 6)
        painter.setPen(QColor(t.faded))
        painter.setFont(font(0))
        painter.drawText(QRectF(16, 8, 20, 18), Qt.AlignmentFlag.AlignVCenter, str(self.number))
        painter.setPen(QColor(t.indigo if self.isChecked() else t.ink if self.isEnabled() else t.faded))
        painter.setFont(font(1, QFont.Weight.DemiBold))
        room = ROOM
        painter.drawText(QRectF(LEFT, 8, room, 18), Qt.AlignmentFlag.AlignVCenter, self.name)
        colour = {"look": t.madder, "spoils": t.madder, "worth": t.ochre, "working": t.indigo}.get(
            self.shown.state, t.faded
        )
        painter.setPen(QColor(colour))
        painter.setFont(font(0))
        words = "working, Esc stops" if self.shown.state == "working" else self.shown.figure
        text = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QRectF(LEFT, 27, room, 16), Qt.AlignmentFlag.AlignVCenter, text)
        if self.shown.state == "working":
            painter.fillRect(QRectF(LEFT, 46, room, 3), QColor(t.line))
            painter.fillRect(QRectF(LEFT, 46, room * self.shown.share, 3), QColor(t.indigo))


class _Threads(QWidget):
    """The gutter: threads, knots and the shuttle; sees no mouse."""

    def __init__(self, warp: "Warp") -> None:
        super().__init__(warp)
        self._warp = warp
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def paintEvent(self, event) -> None:
        warp, t = self._warp, theme.tokens
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = [QColor(code) for code in warp.inks[:_MOST_THREADS]]
        middles = [step.y() + 20 for step in warp.steps]
        first = warp.first_thread
        here = warp.current
        pitch = min(7.0, 40 / max(1, len(colours)))
        left = self.width() / 2 - pitch * (len(colours) - 1) / 2
        top, bottom = middles[first] - 9, middles[-1] + 18
        shuttle_y = max(middles[here], top)
        for i, colour in enumerate(colours):
            x = left + i * pitch
            for low, high, alpha in ((top, shuttle_y, 1.0), (shuttle_y, bottom, 0.42)):
                if high <= low:
                    continue
                edge, thread = QColor(edge_on(t, colour.name(), t.linen)), QColor(colour)
                edge.setAlphaF((0.5 if edge.name() == QColor(t.faded).name() else 0.9) * alpha)
                thread.setAlphaF(alpha)
                painter.setPen(QPen(edge, 4.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
                painter.drawLine(QPointF(x, low), QPointF(x, high))
                painter.setPen(QPen(QColor(t.linen), 3.6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
                painter.drawLine(QPointF(x, low), QPointF(x, high))
                painter.setPen(QPen(thread, 3.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
                painter.drawLine(QPointF(x, low), QPointF(x, high))
            for place in range(first, here):
                if warp.steps[place].shown.state in ("done", "worth"):
                    painter.setPen(QPen(QColor(t.faded), 0.8))
                    painter.setBrush(colour)
                    painter.drawEllipse(QPointF(x, middles[place]), 3.4, 3.4)
        if colours and here >= first:
            self._shuttle(painter, middles[here], t.indigo, t.linen, colours, left, pitch)

    def _shuttle(
        self, painter: QPainter, y: float, indigo: str, linen: str, colours: list[QColor], left: float, pitch: float
    ) -> None:
        middle, half = self.width() / 2, 26.0
        shape = QPainterPath(QPointF(middle - half, y))
        shape.quadTo(QPointF(middle, y - 17), QPointF(middle + half, y))
        shape.quadTo(QPointF(middle, y + 17), QPointF(middle - half, y))
        painter.setPen(QPen(QColor(indigo), 2))
        painter.setBrush(QColor(linen))
        painter.drawPath(shape)
        for i, colour in enumerate(colours):
            painter.setPen(QPen(colour, 3.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            x = left + i * pitch
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))


class Warp(QFrame):
    """The steps that exist; exactly one is current."""

    chosen = Signal(int)

    def __init__(self, names: list[str], first_thread: int) -> None:
        super().__init__()
        self.setObjectName("warp")
        self.setFixedWidth(_WIDTH)
        self.setAccessibleName("Steps")
        self.first_thread = first_thread
        self.current = 0
        self.inks: list[str] = []
        self.steps = [_Step(i + 1, name) for i, name in enumerate(names)]
        box = QVBoxLayout(self)
        box.setContentsMargins(0, _TOP, 0, 0)
        box.setSpacing(0)
        group = QButtonGroup(self)
        for i, step in enumerate(self.steps):
            box.addWidget(step)
            group.addButton(step, i)
        box.addStretch()
        group.idClicked.connect(self.chosen)
        self._threads = _Threads(self)
        self._threads.raise_()
        theme.changed.connect(self._threads.update)

    def show_current(self, place: int) -> None:
        """Move the shuttle."""
        self.current = place
        self.steps[place].setChecked(True)
        self._threads.update()

    def show_inks(self, colours: list[str]) -> None:
        """Hang the threads."""
        if colours != self.inks:
            self.inks = colours
            self._threads.update()

    def show_state(self, place: int, shown: StepState) -> None:
        """Say how a step stands."""
        if self.steps[place].shown != shown:
            self.steps[place].show_state(shown)
            self._threads.update()

    def keyPressEvent(self, event) -> None:
        """Up and down move between steps."""
        way = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(event.key())
        if way is None:
            super().keyPressEvent(event)
            return
        focused = next((i for i, step in enumerate(self.steps) if step.hasFocus()), self.current)
        self.steps[min(max(focused + way, 0), len(self.steps) - 1)].setFocus()

    def resizeEvent(self, event) -> None:
        """Keep the gutter at the right edge."""
        self._threads.setGeometry(_WIDTH - _GUTTER - 6, 0, _GUTTER, self.height())
        super().resizeEvent(event)
