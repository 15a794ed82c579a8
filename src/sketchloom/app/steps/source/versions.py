"""The card with the versions of a job: states kept by name, to come back to and to compare."""

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QPushButton, QVBoxLayout

from sketchloom.app.fields import Card, Field, faded
from sketchloom.app.steps.list_row import ListRow, icon_button, refilled, small_button
from sketchloom.core.job import Recipe, Version
from sketchloom.core.measures import when_words

__all__ = ["VersionsCard"]


class VersionsCard(Card):
    """Keeps the state in hand, and leads back to those that were kept."""

    kept = Signal()
    wanted = Signal(str)
    removed = Signal(str)
    renamed = Signal(str, str)
    """From a name to a name."""

    def __init__(self) -> None:
        super().__init__("Versions")
        self._versions: list[tuple[str, int, bool]] = []
        self._shown: object = None
        self.body.addWidget(faded("Keep the state you have before you try something; they are saved with the job."))
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        self.body.addLayout(self.rows)
        self.keep, self.compare = QPushButton("Keep this state"), QPushButton("Compare side by side")
        self.keep.clicked.connect(lambda: self.kept.emit())
        self.body.addWidget(self.keep)
        self.body.addWidget(self.compare)
        self.unfolded.connect(self._fill)

    def show_versions(self, versions: Sequence[Version], recipe: Recipe) -> None:
        """List versions, the newest first; that of the recipe in force is told."""
        self.show()
        self.aside.setText(str(len(versions)) if versions else "")
        self._versions = [(version.name, version.at, version.recipe == recipe) for version in versions]
        self._fill()

    def _fill(self) -> None:
        if self.folded or self._versions == self._shown:
            return
        self._shown = self._versions
        with refilled(self.rows):
            for name, at, here in reversed(self._versions):
                self.rows.addWidget(self._row(name, at, here))

    def _row(self, name: str, at: int, here: bool) -> ListRow:
        field = Field(name)
        field.setCursorPosition(0)
        field.setAccessibleName(f"Name of the version {name}")
        field.setToolTip(f"Kept {when_words(at)}; type another name")
        field.editingFinished.connect(lambda: self._rename(name, field))
        back = small_button("In hand" if here else "Back to it", lambda: self.wanted.emit(name), f"Back to {name}")
        back.setEnabled(not here)
        return ListRow(field, behind=(back, icon_button("x", f"Remove {name}", lambda: self.removed.emit(name))))

    def _rename(self, name: str, field: Field) -> None:
        if field.isModified():
            field.setModified(False)
            self._shown = None  # whatever became of it is shown anew
            self.renamed.emit(name, field.text())
