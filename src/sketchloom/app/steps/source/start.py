"""The card of the empty window: how to begin."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QSizePolicy

from sketchloom.app.demo import DEMOS
from sketchloom.app.fields import Card, faded

__all__ = ["StartCard"]


class StartCard(Card):
    """Open pictures, a demo, or what was open last."""

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
        self.last = QPushButton()
        self.last.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)  # a long name is cut off
        self.last.hide()
        self.body.addWidget(self.last)

    def offer_last(self, names: Sequence[str], choose: Callable[[Sequence[Path]], object]) -> None:
        """Offer the files that were open when the window was closed last, as far as they are there."""
        there = [Path(name) for name in names if Path(name).is_file()]
        self.last.setVisible(bool(there))
        self.last.setText(f"Open what was open last, {len(there)}" if len(there) > 1 else "Open what was open last")
        self.last.setToolTip("\n".join(str(path) for path in there))
        self.last.clicked.connect(lambda: choose(there))
