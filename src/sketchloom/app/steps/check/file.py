"""The card that checks a file of another program."""

from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout

from sketchloom.app.controls import Choice, narrow_box
from sketchloom.app.fields import Card, LengthField, faded
from sketchloom.app.runner import Progress
from sketchloom.app.steps.check.desk import CheckDesk
from sketchloom.app.steps.check.place import place_picture
from sketchloom.app.steps.check.words import ROLE, against, title_of
from sketchloom.app.steps.list_row import ListRow, refilled
from sketchloom.core.elsewhere import Drawing, read_drawing, stack_of, subject_of
from sketchloom.core.inspect import Finding, Memory, Subject, find_all, mend_all, readiness
from sketchloom.core.measures import in_words
from sketchloom.core.send import SVG, files_of, write_all
from sketchloom.core.stock import Stock

__all__ = ["FileCard"]

_MOST_SHOWN = 20


class FileCard(Card):
    """Checks a drawing from elsewhere, and saves it mended; the job in hand stays as it is."""

    ask_open = Signal()
    ask_save = Signal()

    def __init__(self, step: CheckDesk) -> None:
        super().__init__("A file from elsewhere")
        self._step = step
        self._drawing: tuple[Path, Drawing] | None = None
        self._checked: tuple[Subject, tuple[Finding, ...]] | None = None
        self._memory = Memory.new()
        self.open = QPushButton("Check a file…")
        self.open.setToolTip("An SVG or DXF of another program; it is only read")
        self.open.clicked.connect(self.ask_open)
        self.body.addWidget(self.open)
        self.width = LengthField("Width of what is cut in the file", step.unit)
        self.width.setFixedWidth(92)
        self.width.committed.connect(lambda mm: self._read(self._drawing[0], mm) if self._drawing else None)
        self.stock: Choice = narrow_box("What the file is cut from")
        self.stock.currentIndexChanged.connect(lambda _: self._check())
        self.sentence = QLabel()
        self.sentence.setWordWrap(True)
        self.notes = faded()
        self.rows = QVBoxLayout()
        self.rows.setSpacing(4)
        self.save = QPushButton("Save it mended…")
        self.save.clicked.connect(self.ask_save)
        words = QLabel("Width")
        self.parts = [words, self.width, self.stock, self.sentence, self.notes, self.save]
        self.row(words, self.width).insertStretch(1)
        self.body.addWidget(self.stock)
        self.body.addWidget(self.sentence)
        self.body.addWidget(self.notes)
        self.body.addLayout(self.rows)
        self.body.addWidget(self.save)
        for part in self.parts:
            part.setVisible(False)

    def read(self, path: Path) -> None:
        """Read a file and check it."""
        self._read(path, None)

    def _read(self, path: Path, width: float | None) -> None:
        def done(drawing: Drawing) -> None:
            self._drawing = path, drawing
            boxes = [layer.path.bounds for layer in drawing.stack.cuts]
            self.width.show_mm(max(box[2] for box in boxes) - min(box[0] for box in boxes))
            self._check()

        self._step.model.side.enqueue(lambda progress: read_drawing(path, width), done, "checked")

    def show_stocks(self, shelf: tuple[Stock, ...]) -> None:
        """Offer the stocks on the shelf."""
        names = ["Plain adhesive vinyl", *(stock.name for stock in shelf)]
        if names != [self.stock.itemText(i) for i in range(self.stock.count())]:
            self.stock.blockSignals(True)
            self.stock.clear()
            self.stock.addItem(names[0], None)
            for stock in shelf:
                self.stock.addItem(stock.name, stock)
            self.stock.blockSignals(False)

    def _check(self) -> None:
        if self._drawing is None:
            return
        drawing, stock = self._drawing[1], self.stock.currentData()
        limits = self._step.model.recipe.checks.limits

        def work(progress: Progress) -> tuple[Subject, tuple[Finding, ...]]:
            subject = subject_of(drawing, stock, limits, self._memory)
            return subject, find_all(subject, lambda share: progress("checked", share))

        self._step.model.side.enqueue(work, self._show, "checked")

    def _show(self, checked: tuple[Subject, tuple[Finding, ...]]) -> None:
        self._checked = checked
        subject, found = checked
        assert self._drawing is not None
        path, drawing = self._drawing
        self.sentence.setText(f"{path.name}: {readiness(found)}")
        self.sentence.setProperty("role", ROLE[found[0].severity] if found else "moss")
        self.sentence.style().unpolish(self.sentence)
        self.sentence.style().polish(self.sentence)
        self.notes.setText(" ".join(drawing.notes))
        with refilled(self.rows):
            unit = self._step.unit()
            for finding in found[:_MOST_SHOWN]:
                words = QLabel(f"{title_of(finding)}\n{against(finding, unit)}".strip())
                words.setWordWrap(True)
                words.setProperty("role", ROLE[finding.severity])
                row = ListRow(words, place_picture(subject, finding, 56, 40))
                row.setToolTip(in_words(finding.sentence, self._step.unit()))
                row.setAccessibleName(f"{title_of(finding)}: {in_words(finding.sentence, self._step.unit())}")
                self.rows.addWidget(row)
            if len(found) > _MOST_SHOWN:
                self.rows.addWidget(faded(f"and {len(found) - _MOST_SHOWN} more"))
        for part in self.parts:
            part.setVisible(True)
        self.notes.setVisible(bool(drawing.notes))
        self.save.setVisible(any(fix.mends for one in found for fix in one.fixes))

    def save_mended(self, path: Path) -> None:
        """Save it with what can be mended mended."""
        if self._checked is None or self._drawing is None:
            return
        subject, found = self._checked
        if path.resolve() == self._drawing[0].resolve():
            self._step.model.said.emit("What is checked is never written over; give the mended file a name of its own.")
            return

        def work(progress: Progress) -> tuple[int, tuple[Finding, ...]]:
            done = mend_all(subject, found, found, lambda share: progress("checked", share))
            write_all({path: files_of(SVG, stack_of(done.subject), False)[""]})
            return len(done.fixes), done.findings

        def done(value: tuple[int, tuple[Finding, ...]]) -> None:
            count, left = value
            self._step.model.said.emit(
                f"Saved {path.name} in {path.parent}: {count} place{'s' * (count != 1)} mended. {readiness(left)}"
            )

        self._step.model.side.enqueue(work, done, "send", must=True)
