"""All commands by group, with their keys, over the window; a click does one."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QHeaderView, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from sketchloom.app.commands import Commands
from sketchloom.app.fields import Field, faded
from sketchloom.app.theme.style import font

__all__ = ["AllCommands"]

_ID = Qt.ItemDataRole.UserRole
_WIDE, _EDGE = 620, 40


class AllCommands(QFrame):
    """A list in groups that a few letters narrow; Enter does the one in hand, Esc puts it away."""

    def __init__(self, commands: Commands, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self._commands = commands
        box = QVBoxLayout(self)
        box.setContentsMargins(14, 12, 14, 12)
        self.words = Field()
        self.words.setPlaceholderText("All commands; type to narrow them")
        self.words.setAccessibleName("Narrow the commands")
        self.words.textEdited.connect(lambda _: self._fill())
        self.words.installEventFilter(self)
        box.addWidget(self.words)
        self.tree = QTreeWidget()
        self.tree.setAccessibleName("All commands")
        self.tree.setColumnCount(2)
        self.tree.setHeaderHidden(True)
        self.tree.setRootIsDecorated(False)
        self.tree.setIndentation(14)
        self.tree.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.tree.header().setSectionResizeMode(1, QHeaderView.ResizeMode.ResizeToContents)
        self.tree.header().setStretchLastSection(False)
        self.tree.itemClicked.connect(lambda item, _: self._take(item))
        box.addWidget(self.tree)
        box.addWidget(faded("What is pale can do nothing now. Esc closes this."))
        self.hide()

    def open(self) -> None:
        """Show it over the window."""
        room = self.parentWidget().rect()
        wide = min(_WIDE, room.width() - 2 * _EDGE)
        self.setGeometry((room.width() - wide) // 2, _EDGE + 14, wide, room.height() - 2 * _EDGE - 14)
        self.words.clear()
        self._fill()
        self.show()
        self.raise_()
        self.words.setFocus()

    def _fill(self) -> None:
        wanted = self.words.text().lower().split()
        self.tree.clear()
        groups: dict[str, QTreeWidgetItem] = {}
        for identifier, command in self._commands:
            text = f"{command.group} {command.name} {command.help}".lower()
            if identifier == "keys" or not all(word in text for word in wanted):
                continue
            if command.group not in groups:
                head = QTreeWidgetItem([command.group])
                head.setFont(0, font(1, font(1).Weight.DemiBold))
                head.setFlags(Qt.ItemFlag.ItemIsEnabled)
                self.tree.addTopLevelItem(head)
                groups[command.group] = head
            row = QTreeWidgetItem([command.name, command.key])
            row.setToolTip(0, command.help)
            row.setData(0, _ID, identifier)
            row.setDisabled(not command.can())
            groups[command.group].addChild(row)
        self.tree.expandAll()
        self._walk(1)

    def _walk(self, by: int) -> None:
        """Go to the next command that can be done, or the one before."""
        item = self.tree.currentItem() or self.tree.topLevelItem(0)
        while item is not None:
            item = self.tree.itemBelow(item) if by > 0 else self.tree.itemAbove(item)
            if item is not None and item.data(0, _ID) and not item.isDisabled():
                self.tree.setCurrentItem(item)
                return

    def _take(self, item: QTreeWidgetItem | None) -> None:
        identifier = item.data(0, _ID) if item is not None and not item.isDisabled() else None
        if identifier:
            self.put_away()
            self._commands.run(identifier)

    def put_away(self) -> None:
        """Take it away, and give the keys back."""
        self.hide()
        self.words.clearFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrows walk the list, Enter does, Esc closes; focus that goes elsewhere closes too."""
        if event.type() == QEvent.Type.FocusOut and self.isVisible():
            self.hide()
        if event.type() != QEvent.Type.KeyPress or not isinstance(event, QKeyEvent):
            return False
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self._walk(1 if event.key() == Qt.Key.Key_Down else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._take(self.tree.currentItem())
        elif event.key() == Qt.Key.Key_Escape:
            self.put_away()
        else:
            return False
        return True
