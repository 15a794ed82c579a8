"""The card with files that were opened before."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.fields import Card
from sketchloom.app.steps.list_row import refilled

__all__ = ["RecentCard"]

_MOST = 6


class RecentCard(Card):
    """Opens one of them again, beside the job in hand."""

    def __init__(self) -> None:
        super().__init__("Opened before")
        self._shown: list[str] = []
        self.rows = QVBoxLayout()
        self.body.addLayout(self.rows)

    def show_recent(self, names: tuple[str, ...], choose: Callable[[Path], object]) -> None:
        """List those that are still there."""
        there = [name for name in names if Path(name).is_file()][:_MOST]
        self.setVisible(bool(there))
        self.aside.setText(str(len(there)))
        if there == self._shown:
            return
        self._shown = there
        with refilled(self.rows):
            for name in there:
                button = QPushButton(Path(name).name)
                button.setToolTip(name)
                button.setProperty("choice", True)
                button.clicked.connect(lambda _=False, name=name: choose(Path(name)))
                self.rows.addWidget(button)
