"""The command finder: type a few letters, press Enter."""

from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from sketchloom.app.commands import Commands

__all__ = ["Finder"]


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
        self.matches.itemClicked.connect(self._take)
        box.addWidget(self.matches)
        self._drop.hide()
        self.textEdited.connect(lambda: self._search())

    def start(self) -> None:
        """Take the focus and show all commands."""
        self.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.selectAll()
        self._search()

    def focusInEvent(self, event: QEvent) -> None:
        """Drop the list as soon as the field is entered."""
        super().focusInEvent(event)
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
            if identifier != "find" and command.can() and all(w in f"{command.name} {command.help}".lower() for w in words):
                item = QListWidgetItem(command.name + (f"     {command.key}" if command.key else ""))
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
