"""The card of the empty window: how to begin."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.demo import DEMOS
from sketchloom.app.fields import Card, faded

__all__ = ["StartCard"]

_MOST = 5


class StartCard(Card):
    """Open pictures, a demo, or what was opened before."""

    demo_chosen = Signal(str)
    """Its key."""

    def __init__(self) -> None:
        super().__init__("Start")
        self.body.addWidget(faded("Open pictures, or look round with the demo first."))
        self.open, self.demo = QPushButton("Open pictures or a job…"), QPushButton("Open the demo job")
        self.open.setProperty("primary", True)
        self.body.addWidget(self.open)
        self.body.addWidget(self.demo)
        self.demo.clicked.connect(lambda: self.demo_chosen.emit("badge"))
        self.demos: dict[str, QPushButton] = {}
        for key, demo in DEMOS.items():
            if key == "badge":
                continue
            button = QPushButton(demo.name)
            button.setToolTip(demo.help)
            button.setProperty("choice", True)
            button.clicked.connect(lambda _=False, key=key: self.demo_chosen.emit(key))
            self.body.addWidget(button)
            self.demos[key] = button
        self.recent = QVBoxLayout()
        self.body.addLayout(self.recent)

    def show_recent(self, names: tuple[str, ...], choose: Callable[[str], None]) -> None:
        """Offer files opened before that are still there."""
        there = [name for name in names if Path(name).is_file()][:_MOST]
        if there:
            self.recent.addWidget(faded("Opened before"))
        for name in there:
            button = QPushButton(Path(name).name)
            button.setToolTip(name)
            button.setProperty("choice", True)
            button.clicked.connect(lambda _=False, name=name: choose(name))
            self.recent.addWidget(button)
