"""The command finder: type a few letters, press Enter."""

from PySide6.QtCore import QEvent, QPoint, QRect, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QFrame,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from sketchloom.app.commands import Commands
from sketchloom.app.theme import theme
from sketchloom.app.theme.style import font

__all__ = ["Finder"]

_KEY = Qt.ItemDataRole.UserRole + 1


class _Row(QStyledItemDelegate):
    """The command on the left, its key on the right."""

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:
        super().paint(painter, option, index)
        painter.save()
        painter.setFont(font(0))
        painter.setPen(QColor(theme.tokens.faded))
        room = QRect(option.rect).adjusted(0, 0, -12, 0)
        painter.drawText(room, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, index.data(_KEY) or "")
        painter.restore()


class Finder(QLineEdit):
    """A field in the top bar; its matches drop down below it."""

    def __init__(self, commands: Commands, parent: QWidget) -> None:
        super().__init__(parent)
        self._commands = commands
        self.setPlaceholderText("Find a command      Ctrl K")
        self.setAccessibleName("Find a command")
        self.setFixedWidth(270)
        self._drop = QFrame(parent)
        self._drop.setObjectName("card")
        box = QVBoxLayout(self._drop)
        box.setContentsMargins(4, 4, 4, 4)
        self.matches = QListWidget()
        self.matches.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.matches.setAccessibleName("Commands found")
        self.matches.setItemDelegate(_Row(self.matches))
        self.matches.itemClicked.connect(self._take)
        box.addWidget(self.matches)
        self._drop.hide()
        self.textEdited.connect(lambda: self._search())

    def start(self) -> None:
        """Take the focus and show all commands."""
        self.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.selectAll()
        self._search()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Drop the list; keys drop it by Ctrl+K and by typing, not by passing through."""
        super().mousePressEvent(event)
        self._search()

    def focusOutEvent(self, event: QEvent) -> None:
        """Put the list away."""
        super().focusOutEvent(event)
        self._drop.hide()

    def keyPressEvent(self, event) -> None:
        """Arrows choose, Enter does, Esc leaves."""
        row = self.matches.currentRow()
        if event.key() == Qt.Key.Key_Down:
            self.matches.setCurrentRow(min(row + 1, self.matches.count() - 1))
        elif event.key() == Qt.Key.Key_Up:
            self.matches.setCurrentRow(max(row - 1, 0))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(self.matches.currentItem())
        elif event.key() == Qt.Key.Key_Escape:
            self._leave()
        else:
            super().keyPressEvent(event)

    def _leave(self) -> None:
        self.clear()
        self._drop.hide()
        self.parentWidget().window().centralWidget().setFocus()

    def _take(self, item: QListWidgetItem | None) -> None:
        self._leave()
        if item is not None:
            self._commands.run(item.data(Qt.ItemDataRole.UserRole))

    def _search(self) -> None:
        words = self.text().lower().split()
        self.matches.clear()
        for identifier, command in self._commands:
            if (
                identifier != "find"
                and command.can()
                and all(w in f"{command.name} {command.help}".lower() for w in words)
            ):
                item = QListWidgetItem(command.name)
                item.setData(_KEY, command.key)
                item.setToolTip(command.help)
                item.setData(Qt.ItemDataRole.UserRole, identifier)
                self.matches.addItem(item)
        if not self.matches.count():
            self.matches.addItem(QListWidgetItem("No command has these words"))
            self.matches.item(0).setFlags(Qt.ItemFlag.NoItemFlags)
        else:
            self.matches.setCurrentRow(0)
        corner = self.mapTo(self._drop.parentWidget(), QPoint(0, self.height() + 4))
        self._drop.setGeometry(corner.x() - 30, corner.y(), self.width() + 60, min(420, 16 + 32 * self.matches.count()))
        self._drop.raise_()
        self._drop.show()
