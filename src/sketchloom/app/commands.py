"""Commands: each declared once; menu, buttons, finder and keys all come from here."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from PySide6.QtCore import QObject
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget

__all__ = ["Command", "Commands"]


@dataclass(frozen=True)
class Command:
    """Something a maker can do."""

    name: str
    run: Callable[[], None]
    key: str = ""
    icon: str = ""
    help: str = ""
    can: Callable[[], bool] = lambda: True
    in_fields: bool = False
    """Whether its key works while a field is being typed in."""
    group: str = ""
    """What it belongs to, in the list of all; given when it is declared."""


class Commands(QObject):
    """All commands of a window, by identifier."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._all: dict[str, Command] = {}
        self._actions: dict[str, QAction] = {}
        self.group = ""
        """What the commands that are declared now belong to."""

    def __iter__(self) -> Iterator[tuple[str, Command]]:
        return iter(self._all.items())

    def __getitem__(self, identifier: str) -> Command:
        return self._all[identifier]

    def add(self, identifier: str, command: Command) -> None:
        """Declare a command; its key works from then on."""
        self._all[identifier] = command = replace(command, group=command.group or self.group)
        action = QAction(command.name, self._window)
        if command.key:
            action.setShortcuts([QKeySequence(key) for key in command.key.split(" or ")])
        action.triggered.connect(lambda: self.run(identifier))
        self._window.addAction(action)
        self._actions[identifier] = action

    def run(self, identifier: str) -> None:
        """Do it, if it can be done now."""
        command = self._all[identifier]
        if command.can():
            command.run()

    def pause_plain_keys(self, focus: QWidget | None) -> None:
        """Give single-letter keys to a field while it is being typed in."""
        typing = isinstance(focus, QLineEdit)
        for identifier, command in self._all.items():
            self._actions[identifier].setEnabled(command.in_fields or not typing)

    def follow_focus(self, app: QApplication) -> None:
        """Watch the focus for `pause_plain_keys`."""
        app.focusChanged.connect(self._on_focus)

    def _on_focus(self, _old: QWidget | None, new: QWidget | None) -> None:
        self.pause_plain_keys(new)
