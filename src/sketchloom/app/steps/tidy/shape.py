"""The card that gives the choice another outline or place; it is there while something is chosen."""

from typing import Any

from PySide6.QtWidgets import QGridLayout, QPushButton

from sketchloom.app.controls import Number
from sketchloom.app.fields import Card, LengthField
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.core.job import Result
from sketchloom.core.tidy import Bind, Grow, Place, Smooth, Together

__all__ = ["ShapeCard"]


class ShapeCard(Card):
    """Grow, round, turn, move and copy what is chosen."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Shape the choice")
        self._step = step
        self.by = LengthField("Length to grow, round or bind by", step.unit, decimals=2)
        self.by.setFixedWidth(84)
        self.by.show_mm(0.5)
        self.by.committed.connect(lambda mm: self.by.show_mm(min(max(mm, 0.0), 1000.0)))
        self.turn, self.size = Number(), Number()
        for box, name, low, high, value, suffix in (
            (self.turn, "Turn", -360, 360, 0, "°"),
            (self.size, "Size", 1, 1000, 100, " %"),
        ):
            box.setRange(low, high)
            box.setKeyboardTracking(True)  # nothing changes before it is asked for
            box.setValue(value)
            box.setSuffix(suffix)
            box.setAccessibleName(name)
            box.setToolTip(f"{name} of the chosen pieces, about their middle")
            box.setButtonSymbols(Number.ButtonSymbols.NoButtons)
            box.setFixedWidth(76)
        self.row("Grow, round or bind by", self.by)
        line = self.row("Turn, size", self.turn)
        line.addWidget(self.size)
        grid = QGridLayout()
        grid.setSpacing(6)
        self.shaping: dict[str, QPushButton] = {}
        for place, (words, act) in enumerate(
            (
                ("Grow", lambda: self._grow(1)),
                ("Shrink", lambda: self._grow(-1)),
                ("Smooth corners", self._smooth),
                ("Bind near", self._bind),
                ("Mirror", lambda: self.put("Mirror", mirror=True)),
                ("Move", lambda: step.draw_with("move")),
                ("Copy", lambda: step.draw_with("copy")),
                ("By handles", lambda: step.draw_with("handles")),
                ("Keep together", self._keep_together),
                ("Turn and size", self._turn_and_size),
            )
        ):
            button = QPushButton(words)
            button.setProperty("small", True)
            button.clicked.connect(lambda _=False, act=act: act())
            grid.addWidget(button, place // 2, place % 2)
            self.shaping[words] = button
        self.body.addLayout(grid)

    def _turn_and_size(self) -> None:
        self.put("Turn and size", turn=float(self.turn.value()), scale=self.size.value() / 100)

    def _grow(self, way: int) -> None:
        if self._step.choice and self.by.mm:
            self._step.add_work("Grow" if way > 0 else "Shrink", Grow(pieces=self._step.choice, by=way * self.by.mm))

    def _smooth(self) -> None:
        if self._step.choice and self.by.mm:
            self._step.add_work("Smooth the corners", Smooth(pieces=self._step.choice, radius=self.by.mm))

    def _bind(self) -> None:
        if self._step.choice and self.by.mm:
            self._step.add_work("Join near pieces", Bind(pieces=self._step.choice, gap=self.by.mm))

    def _keep_together(self) -> None:
        if len(self._step.choice) > 1:
            self._step.add_work("Keep together", Together(pieces=self._step.choice))

    def put(self, name: str, gesture: int | None = None, **how: Any) -> None:
        """Put the choice elsewhere, as `Place` says; what was put there is chosen."""
        pieces = self._step.pieces
        chosen = pieces.found(self._step.choice) if pieces is not None else []
        if pieces is not None and chosen:
            there = pieces.anchors_after(chosen, **how)
            self._step.add_work(name, Place(pieces=self._step.choice, **how), gesture=gesture)
            self._step.choose(there)

    def show_result(self, result: Result) -> None:
        """Be there while something is chosen."""
        pieces = self._step.pieces
        many = len(pieces.found(self._step.choice)) if pieces is not None else 0
        self.setVisible(many > 0)
        self.shaping["Keep together"].setEnabled(many > 1)
