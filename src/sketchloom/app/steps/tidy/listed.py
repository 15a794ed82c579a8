"""The card with the list of work by hand: switched off, moved, removed."""

import msgspec
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QCheckBox, QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, faded
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled
from sketchloom.app.steps.tidy.desk import TidyDesk
from sketchloom.app.theme import theme
from sketchloom.core.job import Result
from sketchloom.core.tidy import AnyWork, Draw, Give, Split

__all__ = ["WorkCard"]

_MOST_SHOWN = 40


class WorkCard(Card):
    """All work by hand, in the order it is done."""

    def __init__(self, step: TidyDesk) -> None:
        super().__init__("Work by hand")
        self._step = step
        self._shown: object = None
        self.empty = faded("Nothing yet.")
        self.body.addWidget(self.empty)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(2)
        self.body.addLayout(self.rows)
        self.clear = QPushButton("Take back what found no place")
        self.clear.clicked.connect(self.remove_unplaced)
        self.body.addWidget(self.clear)

    @property
    def _work(self) -> tuple[AnyWork, ...]:
        return self._step.model.recipe.tidy.work

    def _change(self, name: str, work: tuple[AnyWork, ...]) -> None:
        self._step.model.change(name, "tidy", work=work)

    def switch(self, place: int, on: bool) -> None:
        """Switch a piece of work on or off."""
        work = list(self._work)
        work[place] = msgspec.structs.replace(work[place], on=on)
        self._change(f"{'Do' if on else 'Leave out'}: {work[place].sentence.lower()}", tuple(work))

    def move(self, place: int, by: int) -> None:
        """Do a piece of work earlier or later."""
        work = list(self._work)
        work.insert(place + by, work.pop(place))
        self._change("Order of work", tuple(work))

    def remove(self, place: int) -> None:
        """Take a piece of work back."""
        work = self._work
        self._change(f"Take back: {work[place].sentence.lower()}", (*work[:place], *work[place + 1 :]))

    def remove_unplaced(self) -> None:
        """Take back all that found no place."""
        result = self._step.model.result
        if result is not None and result.recipe.tidy.work == self._work:
            lost = set(result.tidied.unplaced)
            self._change("Take back lost work", tuple(one for i, one in enumerate(self._work) if i not in lost))

    def show_result(self, result: Result) -> None:
        """List the work of the recipe in force."""
        known = result.recipe.tidy.work == self._work
        lost = result.tidied.unplaced if known else ()
        self.aside.setText(str(len(self._work)) if self._work else "")
        self.setVisible(bool(self._work))
        self.clear.setVisible(bool(lost))
        names = tuple(self._words(one) for one in self._work)
        shown = self._work, lost, names, theme.is_dark
        if shown == self._shown:
            return
        self._shown = shown
        with refilled(self.rows):
            count = len(self._work)
            for place in range(max(0, count - _MOST_SHOWN), count):
                self.rows.addWidget(self._row(place, self._work[place], names[place], place in lost))
            if count > _MOST_SHOWN:
                self.rows.insertWidget(0, faded(f"{count - _MOST_SHOWN} earlier ones, and"))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Show where the row is that the keyboard reaches."""
        if isinstance(watched, QCheckBox) and event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            row = watched.parentWidget()
            if isinstance(row, ListRow):
                row.looked_at.emit(event.type() == QEvent.Type.FocusIn)
        return False

    def _words(self, one: AnyWork) -> str:
        return self._plain(one) + (", both halves" if one.axis else "")

    def _plain(self, one: AnyWork) -> str:
        if isinstance(one, Give):
            many = f"{len(one.pieces)} pieces" if len(one.pieces) > 1 else "A piece"
            return f"{many} to {self._step.name_of(one.ink) if one.ink else 'the ground'}"
        if isinstance(one, Draw):
            return f"Drawn in {self._step.name_of(one.ink)}" if one.ink else "Cut away along a shape"
        if isinstance(one, Split) and one.ink:
            return f"One side to {self._step.name_of(one.ink)}"
        return one.sentence

    def _row(self, place: int, one: AnyWork, name: str, lost: bool) -> ListRow:
        on = QCheckBox(name)
        on.setChecked(one.on)
        on.setAccessibleName(f"{name} is on")
        if lost:
            on.setText(f"{name}: no place found")
            on.setProperty("role", "ochre")
        on.clicked.connect(lambda state: self.switch(place, state))
        count = len(self._work)
        row = ListRow(
            on,
            behind=(
                icon_button("chevron-up", f"Do {name} earlier", lambda: self.move(place, -1), place > 0, 22),
                icon_button("chevron-down", f"Do {name} later", lambda: self.move(place, 1), place + 1 < count, 22),
                icon_button("x", f"Take {name} back", lambda: self.remove(place), side=22),
            ),
        )
        row.line.setSpacing(2)
        on.installEventFilter(self)
        row.looked_at.connect(lambda here: self._step.show_marks(one if here else None))
        return row
