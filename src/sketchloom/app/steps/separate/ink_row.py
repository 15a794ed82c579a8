"""The list of inks: each can be renamed, joined, locked, recoloured, and sent to the ground."""

from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtGui import QColor, QDrag
from PySide6.QtWidgets import QColorDialog, QFrame, QHBoxLayout, QLabel, QLineEdit, QMenu

from sketchloom.app.fields import Field, faded
from sketchloom.app.steps.base import swatch
from sketchloom.app.steps.list_row import icon_button
from sketchloom.app.steps.separate.desk import InkList
from sketchloom.app.theme import icon, theme
from sketchloom.core.palette import Ink

__all__ = ["InkRow"]

_DRAGGED = "application/x-sketchloom-ink"
_START = 8


class InkRow(QFrame):
    """One ink; dropped on another it joins it."""

    def __init__(self, step: InkList, ink: Ink, share: float) -> None:
        super().__init__()
        self._step, self.ink = step, ink
        self._pressed: QPoint | None = None
        self.setObjectName("row")
        self.setAcceptDrops(True)
        self.setAccessibleName(f"{ink.name}, {100 * share:.1f} per cent")
        self.setToolTip(f"{ink.hex}; drag it onto another ink to join the two")
        line = QHBoxLayout(self)
        line.setContentsMargins(2, 2, 0, 2)
        line.setSpacing(6)
        mark = QLabel()
        mark.setPixmap(swatch(ink.hex))
        line.addWidget(mark)
        line.addWidget(self._name_field(), 1)
        if step.is_locked(ink):
            held = QLabel()
            held.setPixmap(icon("lock", theme.tokens.faded, 14).pixmap(14, 14))
            held.setToolTip("Locked: it stays when fewer inks are wanted")
            line.addWidget(held)
        line.addWidget(faded(f"{100 * share:.1f} %" if share >= 5e-4 else "< 0.1 %", wrap=False))
        self._more = icon_button("ellipsis-vertical", f"What to do with {ink.name}", self._open_menu)
        self._more.setToolTip("Join, lock, recolour, send to the ground")
        line.addWidget(self._more)

    def _open_menu(self) -> None:
        self.menu().exec(self._more.mapToGlobal(self._more.rect().bottomLeft()))

    def _name_field(self) -> QLineEdit:
        field = Field(self.ink.name)
        field.setProperty("flat", True)
        field.setMaxLength(40)
        field.setAccessibleName(f"Name of {self.ink.name}")
        field.setToolTip(f"{self.ink.hex}; type a name of your own, or nothing for the name of the colour")
        field.editingFinished.connect(lambda: self._rename(field))
        return field

    def _rename(self, field: Field) -> None:
        if field.isModified():
            field.setModified(False)
            self._step.rename(self.ink, field.text())

    def menu(self) -> QMenu:
        """What can be done with the ink."""
        step, ink = self._step, self.ink
        menu = QMenu(self)
        join = menu.addMenu("Join with")
        for other in step.inks_now():
            if other.key != ink.key:
                join.addAction(other.name, lambda other=other: step.join(ink, other))
        join.setEnabled(not join.isEmpty())
        locked = step.is_locked(ink)
        lock = menu.addAction("Unlock" if locked else "Lock", lambda: step.lock(ink, not locked))
        lock.setEnabled(step.can_lock(ink))
        menu.addAction("Show in another colour…", self._recolour)
        if ink.shown != ink.found:
            menu.addAction("Show in its own colour", lambda: step.recolour(ink, None))
        menu.addAction("Send to the ground", lambda: step.send_to_ground(ink))
        return menu

    def _recolour(self) -> None:
        chosen = QColorDialog.getColor(QColor(self.ink.hex), self, f"Colour of {self.ink.name}")
        if chosen.isValid():
            self._step.recolour(self.ink, (chosen.red(), chosen.green(), chosen.blue()))

    def contextMenuEvent(self, event) -> None:
        """The same menu by a right click."""
        self.menu().exec(event.globalPos())

    def mousePressEvent(self, event) -> None:
        """Remember where a drag may begin."""
        self._pressed = event.position().toPoint() if event.button() == Qt.MouseButton.LeftButton else None

    def mouseMoveEvent(self, event) -> None:
        """Begin to drag."""
        if self._pressed is None or (event.position().toPoint() - self._pressed).manhattanLength() < _START:
            return
        self._pressed = None
        data = QMimeData()
        data.setData(_DRAGGED, self.ink.key.encode())
        drag = QDrag(self)
        drag.setMimeData(data)
        drag.setPixmap(swatch(self.ink.hex, 24))
        drag.exec(Qt.DropAction.MoveAction)

    def dragEnterEvent(self, event) -> None:
        """Take another ink."""
        if event.mimeData().hasFormat(_DRAGGED) and self._dragged(event) != self.ink.key:
            self._mark(True)
            event.acceptProposedAction()

    def dragLeaveEvent(self, event) -> None:
        """It went on."""
        self._mark(False)

    def dropEvent(self, event) -> None:
        """Join the two."""
        self._mark(False)
        key = self._dragged(event)
        for other in self._step.inks_now():
            if other.key == key:
                self._step.join(other, self.ink)
                event.acceptProposedAction()
                return

    @staticmethod
    def _dragged(event) -> str:
        return bytes(event.mimeData().data(_DRAGGED).data()).decode()

    def _mark(self, on: bool) -> None:
        self.setProperty("chosen", on)
        self.style().unpolish(self)
        self.style().polish(self)
