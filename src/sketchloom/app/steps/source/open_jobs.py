"""The card with the jobs that are open."""

from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.fields import Card
from sketchloom.app.held import Held
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled
from sketchloom.app.steps.source.desk import SourceDesk
from sketchloom.app.theme import theme
from sketchloom.core.job import Result

__all__ = ["OpenJobsCard"]


class OpenJobsCard(Card):
    """Take another job in hand, or close one."""

    def __init__(self, step: SourceDesk) -> None:
        super().__init__("Open jobs")
        self._step = step
        self._shown: list[tuple] = []
        self.jobs = QVBoxLayout()
        self.jobs.setSpacing(4)
        self.body.addLayout(self.jobs)

    def show_result(self, result: Result) -> None:
        """List them."""
        model = self._step.model
        self.setVisible(len(model.held) > 1)
        shown = [(id(one), one is model.current, one.dirty, one.job.name, theme.is_dark) for one in model.held]
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.jobs):
            for held in model.held:
                self.jobs.addWidget(self._row(held))

    def _row(self, held: Held) -> ListRow:
        model = self._step.model
        in_hand = held is model.current
        button = QPushButton(held.job.name + (" *" if held.dirty else ""))
        button.setProperty("choice", True)
        button.setCheckable(True)
        button.setChecked(in_hand)
        button.setToolTip("In hand" if in_hand else "Take it in hand; the other is laid aside as it is")
        button.clicked.connect(lambda: model.take(held))
        away = icon_button("x", f"Close {held.job.name}", lambda: self._step.put_away.emit(held), not in_hand)
        return ListRow(button, behind=(away,))
