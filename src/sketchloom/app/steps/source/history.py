"""The card with every change of the job, the newest first: where the job stands, and a way to anywhere else."""

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.list_row import refilled
from sketchloom.core.job import Change

__all__ = ["HistoryCard"]

_AROUND = 12
"""Changes that are listed before and after the one in hand."""


class HistoryCard(Card):
    """Undo and redo, seen as a list."""

    jumped = Signal(int)
    """To the state after so many changes."""

    def __init__(self) -> None:
        super().__init__("History")
        self._now: tuple[tuple[Change, ...], int] = ((), 0)
        self._shown: object = None
        self.told = faded()
        self.body.addWidget(self.told)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        self.body.addLayout(self.rows)
        self.unfolded.connect(self._fill)

    def show_history(self, changes: Sequence[Change], place: int) -> None:
        """List changes with their steps; `place` is after how many of them the job stands."""
        self.setVisible(bool(changes))
        self.aside.setText(str(len(changes)) if place == len(changes) else f"{place} of {len(changes)}")
        self._now = tuple(changes), place
        self._fill()

    def _fill(self) -> None:
        if self.folded or self._now == self._shown:
            return
        self._shown = changes, place = self._now
        later = len(changes) - place
        self.told.setText(
            f"{later} change{'s come' if later > 1 else ' comes'} after this one, taken back: the next change you make "
            f"takes {'their' if later > 1 else 'its'} place."
        )
        self.told.setVisible(later > 0)
        first, last = max(0, place - _AROUND), min(len(changes), place + _AROUND)
        with refilled(self.rows):
            if last < len(changes):
                self.rows.addWidget(faded(f"{len(changes) - last} later"))
            for number in range(last, first - 1, -1):
                self.rows.addWidget(self._row(changes[number - 1] if number else None, number, place))
            if first:
                self.rows.addWidget(faded(f"{first} earlier"))

    def _row(self, change: Change | None, number: int, place: int) -> QPushButton:
        step = f", {change.step}" if change is not None and change.step else ""
        name = f"{change.name}{step}" if change is not None else "As it was opened"
        button = QPushButton(name)
        button.setProperty("choice", True)
        button.setCheckable(True)
        button.setChecked(number == place)
        button.setToolTip("Here the job stands" if number == place else "Go there; nothing is lost by that")
        button.clicked.connect(lambda: self.jumped.emit(number))
        return button
