"""A row of Prepare in the window: its switch, its place in the list, and its settings."""

from PySide6.QtWidgets import QCheckBox, QFrame, QPushButton, QVBoxLayout

from sketchloom.app.fields import faded
from sketchloom.app.steps.list_row import ListRow, icon_button
from sketchloom.app.steps.prepare.desk import PrepareDesk
from sketchloom.app.steps.prepare.kinds import KINDS, lost_words, name_of
from sketchloom.core.picture import Row

__all__ = ["RowCard"]


class RowCard(QFrame):
    """One row; its settings show while it is chosen."""

    def __init__(self, step: PrepareDesk, place: int, row: Row, lost: int) -> None:
        super().__init__()
        self._step, self._place, self._row = step, place, row
        chosen = step.chosen == place
        self.setObjectName("row")
        self.setProperty("chosen", chosen)
        column = QVBoxLayout(self)
        column.setContentsMargins(6, 4, 4, 6 if chosen else 4)
        column.setSpacing(6)
        column.addWidget(self._head(chosen))
        if lost:
            note = faded(lost_words(row, lost))
            note.setProperty("role", "ochre")
            column.addWidget(note)
        if chosen:
            KINDS[type(row)].settings(step, place, row, column, bool(lost))

    def _head(self, chosen: bool) -> ListRow:
        step, row, place, count = self._step, self._row, self._place, len(self._step.model.recipe.prepare)
        on = QCheckBox()
        on.setChecked(row.on)
        on.setAccessibleName(f"{name_of(row)} is on")
        on.setToolTip("Switch this change on or off")
        on.toggled.connect(lambda state: step.set_row(place, on=state))
        self.title = QPushButton(name_of(row))
        self.title.setProperty("row", True)
        self.title.setCheckable(True)
        self.title.setChecked(chosen)
        self.title.setToolTip("Show its settings, and the picture before and after it")
        self.title.clicked.connect(lambda: step.choose(None if chosen else place))
        name = name_of(row)
        head = ListRow(
            self.title,
            behind=(
                icon_button("chevron-up", f"Move {name} up", lambda: step.move_row(place, -1), place > 0, 24),
                icon_button(
                    "chevron-down", f"Move {name} down", lambda: step.move_row(place, 1), place + 1 < count, 24
                ),
                icon_button("x", f"Remove {name}", lambda: step.remove(place), side=24),
            ),
        )
        head.line.setContentsMargins(0, 0, 0, 0)
        head.line.setSpacing(2)
        head.line.insertWidget(0, on)
        return head
