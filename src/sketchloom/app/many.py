"""The page that does with more pictures what was done with the one in hand."""

from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QProgressBar,
    QPushButton,
    QWidget,
)

from sketchloom.app.fields import faded
from sketchloom.app.job_model import JobModel
from sketchloom.app.over import OverPage
from sketchloom.app.runner import Progress, Runner
from sketchloom.app.tables import Rows, Table
from sketchloom.core.errors import Cancelled, SketchLoomError
from sketchloom.core.job import (
    ENDINGS,
    FORMATS,
    BatchSettings,
    Row,
    csv_of_rows,
    rows_kept,
    rows_of_batch,
    tasks_of,
    usual_jobs,
)
from sketchloom.core.send import WRITERS, make_folder, write_all

__all__ = ["BatchPage"]

_COLUMNS = ("Picture", "Result", "Pieces", "Findings", "Time", "Remark")


class _Done(Rows):
    """What became of each picture, as it becomes known."""

    def __init__(self) -> None:
        super().__init__(_COLUMNS, ("Pieces", "Findings", "Time"))

    def words(self, row: Row, column: str) -> str:
        """What stands in a cell."""
        number = lambda value: "" if value is None else str(value)  # noqa: E731
        return {
            "Picture": row.picture,
            "Result": row.result,
            "Pieces": number(row.pieces),
            "Findings": number(row.findings),
            "Time": f"{row.seconds:.1f} s",
            "Remark": row.sentence,
        }[column]


class BatchPage(OverPage):
    """Lies over the work; the batch goes on when it is closed.

    Parameters
    ----------
    model : JobModel
        Whose recipe is done.
    parent : QWidget
    """

    said = Signal(str)
    _row = Signal(object)

    def __init__(self, model: JobModel, parent: QWidget) -> None:
        super().__init__(
            "Do this with more pictures", "The settings in hand, one file of all layers a picture.", parent
        )
        self._model = model
        self._sources: list[Path] = []
        self._out: Path | None = None
        self._of = 0
        self._runner = Runner()
        self._runner.failed.connect(lambda _, sentence, __: self._ended(sentence))
        self._runner.cancelled.connect(lambda: self._ended("Stopped; what was done stays. Doing it again goes on."))
        self._row.connect(self._on_row)
        self.setAcceptDrops(True)
        self.pictures, self.folder, self.none = (
            QPushButton("Add pictures…"), QPushButton("Add a folder…"), QPushButton("None"),
        )  # fmt: skip
        self.pictures.clicked.connect(self._add_pictures)
        self.folder.clicked.connect(self._add_folder)
        self.none.clicked.connect(lambda: self.take([], anew=True))
        self.none.setToolTip("Takes all pictures off the list again")
        self.what = QLabel()
        self.what.setWordWrap(True)
        line = QHBoxLayout()
        for button in (self.pictures, self.folder, self.none):
            line.addWidget(button)
        line.addWidget(self.what, 1)
        self.column.addLayout(line)
        self.formats: dict[str, QCheckBox] = {}
        line = QHBoxLayout()
        line.setSpacing(14)
        for form in FORMATS:
            box = self.formats[form] = QCheckBox(WRITERS[f".{form}"].name)
            box.setChecked(form == "svg")
            box.clicked.connect(lambda _: self._tell())
            line.addWidget(box)
        line.addStretch(1)
        self.column.addLayout(line)
        line = QHBoxLayout()
        line.setSpacing(14)
        self.check, self.resume = QCheckBox("Check each"), QCheckBox("Only what is missing or older")
        self.check.setChecked(True)
        self.resume.setChecked(True)
        for box in (self.check, self.resume):
            box.clicked.connect(lambda _: self._tell())
            line.addWidget(box)
        self.where = QPushButton("Folder for the files…")
        self.where.clicked.connect(self._choose_out)
        line.addStretch(1)
        line.addWidget(self.where)
        self.begin, self.stop = QPushButton("Do it"), QPushButton("Stop")
        self.begin.setProperty("primary", True)
        self.begin.clicked.connect(self._begin)
        self.stop.clicked.connect(self._runner.cancel)
        line.addWidget(self.begin)
        line.addWidget(self.stop)
        self.column.addLayout(line)
        self.bar = QProgressBar()
        self.bar.setAccessibleName("Pictures done")
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        self.column.addWidget(self.bar)
        self.told = faded("")
        self.column.addWidget(self.told)
        self.rows = _Done()
        self.table = Table("What became of each picture", self.rows)
        head = self.table.horizontalHeader()
        for column, wide in enumerate((190, 80, 62, 76, 62)):
            self.table.setColumnWidth(column, wide)
        head.setSectionResizeMode(len(_COLUMNS) - 1, QHeaderView.ResizeMode.Stretch)
        self.column.addWidget(self.table, 1)
        self.report = QPushButton("Save the list as CSV…")
        self.report.clicked.connect(self._save_list)
        line = QHBoxLayout()
        line.addStretch(1)
        line.addWidget(self.report)
        self.column.addLayout(line)

    @property
    def busy(self) -> bool:
        """Whether pictures are being done."""
        return self._runner.busy

    def words(self) -> str:
        """What goes on, for the strip that tells of quiet work."""
        return f"doing picture {min(len(self.rows.rows) + 1, self._of)} of {self._of}"

    @property
    def runner(self) -> Runner:
        """What it works with."""
        return self._runner

    def open(self) -> None:
        """Show it."""
        super().open()
        self._tell()
        self.pictures.setFocus()

    def take(self, sources: list[Path], anew: bool = False) -> None:
        """Add pictures and folders."""
        self._sources = list(dict.fromkeys([*([] if anew else self._sources), *sources]))
        self._tell()

    def _add_pictures(self) -> None:
        kinds = f"Pictures ({' '.join(f'*{ending}' for ending in ENDINGS)});;All files (*)"
        names, _ = QFileDialog.getOpenFileNames(self, "Pictures to do", "", kinds)
        self.take([Path(name) for name in names])

    def _add_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "A folder of pictures, with all below it")
        if name:
            self.take([Path(name)])

    def _choose_out(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Folder for the files")
        if name:
            self.write_to(Path(name))

    def write_to(self, folder: Path) -> None:
        """Write all files to a folder."""
        self._out = folder
        self._tell()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Take pictures and folders."""
        if any(url.isLocalFile() for url in event.mimeData().urls()) and not self.busy:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Add them."""
        self.take([Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()])

    @property
    def _asked(self) -> tuple[str, ...]:
        return tuple(form for form, box in self.formats.items() if box.isChecked())

    def _tell(self) -> None:
        """Show what would be done, and what can be."""
        files = [source for source in self._sources if not source.is_dir()]
        folders = [source for source in self._sources if source.is_dir()]
        parts = [f"{len(files)} picture{'s' * (len(files) != 1)}"] if files else []
        parts += [f"all in “{folder.name}”" for folder in folders[:3]]
        parts += [f"{len(folders) - 3} more folders"] if len(folders) > 3 else []
        self.what.setText(", ".join(parts) or "Add pictures, or drop them here.")
        self.where.setText(f"To “{self._out.name or self._out}”" if self._out else "Folder for the files…")
        self.where.setToolTip(str(self._out or "Where all files go; folders are mirrored there"))
        busy = self.busy
        can = bool(self._sources and self._asked and self._out is not None and self._model.job is not None)
        self.begin.setEnabled(can)
        self.begin.setVisible(not busy)
        self.stop.setVisible(busy)
        for widget in (self.pictures, self.folder, self.where, *self.formats.values(), self.check, self.resume):
            widget.setEnabled(not busy)
        self.none.setEnabled(bool(self._sources) and not busy)
        self.report.setEnabled(bool(self.rows.rows) and not busy)
        self.bar.setVisible(busy)

    def _begin(self) -> None:
        out, sources, asked = self._out, tuple(self._sources), self._asked
        if out is None or any(source.is_dir() and source.resolve() == out.resolve() for source in sources):
            self.told.setText("Files would lie among the pictures; choose another folder for them.")
            return
        held = self._model.current
        since = held.since if held is not None else 0.0
        settings = BatchSettings(self._model.recipe, asked, self.check.isChecked(), since)
        resume = self.resume.isChecked()
        self.rows.show(())
        self._of = 0
        self.bar.setRange(0, 0)
        self.told.setText("Looking for pictures…")

        def work(progress: Progress) -> int:
            tasks = tasks_of(sources, out, asked)
            kept, todo = rows_kept(tasks, settings, out) if resume else ([], tasks)
            self._of = len(tasks)
            progress("send", 0.0)
            make_folder(out)
            for row in kept:
                self._row.emit(row)
            doing = rows_of_batch(
                todo, settings, out, min(usual_jobs(), len(todo) or 1), True, lambda: progress("send", 0.5)
            )
            self._pass_on(doing, progress)
            return len(tasks)

        self._runner.enqueue(work, self._done, "send")
        self._tell()

    def _pass_on(self, doing: Iterator[Row], progress: Progress) -> None:
        """On the worker: tell rows as they come; called off, the processes end."""
        try:
            for row in doing:
                self._row.emit(row)
                progress("send", 0.5)
        except Cancelled:
            doing.close()  # type: ignore[attr-defined]
            raise

    def _on_row(self, row: Row) -> None:
        self.rows.add(row)
        self.bar.setRange(0, max(1, self._of))
        self.bar.setValue(len(self.rows.rows))
        self.told.setText(f"{len(self.rows.rows)} of {self._of}: {self._counts()}")

    def _counts(self) -> str:
        counts = Counter(row.result for row in self.rows.rows)
        return ", ".join(f"{many} {result}" for result, many in counts.items())

    def _done(self, of: int) -> None:
        self._ended(f"{self._counts()}." if of else "There is no picture in what was named.")
        self.said.emit(f"All pictures done: {self.told.text()}" if of else self.told.text())

    def _ended(self, words: str) -> None:
        self.told.setText(words)
        self._tell()

    def _save_list(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the list", "pictures.csv", "CSV (*.csv)")
        if name:
            path = Path(name) if Path(name).suffix else Path(name).with_suffix(".csv")
            try:
                write_all({path: csv_of_rows(sorted(self.rows.rows, key=lambda row: row.picture))})
            except SketchLoomError as error:
                self.said.emit(str(error))
            else:
                self.said.emit(f"Saved {len(self.rows.rows)} rows as {path.name} in {path.parent}.")

    def close_down(self) -> None:
        """Stop, and end the thread."""
        self._runner.cancel()
        self._runner.close()
