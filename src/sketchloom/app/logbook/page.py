"""The page of the logbook: its lines, what is told of one, and the stock on hand."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QHeaderView, QPushButton, QWidget

from sketchloom.app.controls import Choice, fill_box, narrow_box
from sketchloom.app.fields import Field, faded
from sketchloom.app.job_model import JobModel
from sketchloom.app.log_model import Listed, LogModel
from sketchloom.app.logbook.lines import COLUMNS, Lines
from sketchloom.app.logbook.one_cut import OneCut
from sketchloom.app.logbook.store import StoreCard
from sketchloom.app.over import OverPage
from sketchloom.app.tables import Table
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job import decode_recipe
from sketchloom.core.logbook import RESULTS, Entry, Search

__all__ = ["LogbookPage"]

_MEASURED = 60
"""Lines whose width is measured: of thousands it takes a second."""


class LogbookPage(OverPage):
    """Lies over the work until it is closed."""

    wants_csv = Signal(object)
    """A place for a CSV file is to be chosen, for what takes its path."""
    wants_photo = Signal(object)

    def __init__(self, model: JobModel, log: LogModel, parent: QWidget) -> None:
        super().__init__("Logbook", "What was cut, of what, and how it went.", parent)
        self._model, self._log = model, log
        self._removed: tuple[int, ...] = ()
        self.sort, self.falling = "at", True
        self._filters()
        self.lines = Lines()
        self.table = Table("Cuts", self.lines)
        head = self.table.horizontalHeader()
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setResizeContentsPrecision(_MEASURED)
        head.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        head.setSortIndicatorShown(True)
        head.setSectionsClickable(True)
        head.sectionClicked.connect(self._sort_by)
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self._show_one())
        self.empty = faded("")
        self.column.addWidget(self.empty)
        self.column.addWidget(self.table, 1)
        below = QHBoxLayout()
        below.setSpacing(12)
        self.one, self.store = OneCut(log), StoreCard(model, log)
        below.addWidget(self.one, 3, Qt.AlignmentFlag.AlignTop)
        below.addWidget(self.store, 2, Qt.AlignmentFlag.AlignTop)
        self.column.addLayout(below)
        self.one.back.connect(self._back_to)
        self.one.removed.connect(self._remove)
        self.one.photo_wanted.connect(self.wants_photo)
        log.changed.connect(self.look)

    def _filters(self) -> None:
        line = QHBoxLayout()
        line.setSpacing(8)
        self.words = Field()
        self.words.setPlaceholderText("Search jobs, notes, settings")
        self.words.setAccessibleName("Search the logbook")
        self.words.textEdited.connect(lambda _: self.look())
        self.stock, self.cutter, self.result = narrow_box("Stock"), narrow_box("Cutter"), Choice("How it went")
        self.of_job = Choice("Which jobs")
        for words, key in (("All jobs", ""), ("This job", "this")):
            self.of_job.addItem(words, key)
        for words, value in (("However it went", None), *((one.capitalize() or "Not told", one) for one in RESULTS)):
            self.result.addItem(words, value)
        line.addWidget(self.words, 2)
        for box in (self.of_job, self.stock, self.cutter, self.result):
            box.activated.connect(lambda _: self.look())
            line.addWidget(box, 1)
        self.export = QPushButton("Save as CSV…")
        self.export.clicked.connect(lambda: self.wants_csv.emit(lambda path: self._log.export(self.wanted, path)))
        self.put_back = QPushButton("Put back")
        self.put_back.setToolTip("Puts the cut that was removed last back")
        self.put_back.clicked.connect(self._put_back)
        self.put_back.hide()
        line.addWidget(self.put_back)
        line.addWidget(self.export)
        self.column.addLayout(line)

    @property
    def wanted(self) -> Search:
        """What is searched for."""
        job = self._model.job
        return Search(
            words=self.words.text(),
            job=job.name[:200] if self.of_job.currentData() and job is not None else "",
            stock=self.stock.currentData() or "",
            cutter=self.cutter.currentData() or "",
            result=self.result.currentData(),
            sort=self.sort,
            falling=self.falling,
        )

    def open(self) -> None:
        """Show it."""
        super().open()
        self.look()
        self.words.setFocus()

    def look(self) -> None:
        """Search anew."""
        if self.isVisible():
            self._log.find(self.wanted, self._found)

    def _found(self, listed: Listed) -> None:
        one = self._chosen()
        number = one.number if one is not None else None
        self.lines.show(listed.entries)
        for box, any_words, names in (
            (self.stock, "All stocks", listed.stocks), (self.cutter, "All cutters", listed.cutters)
        ):  # fmt: skip
            fill_box(box, [(any_words, ""), *((name, name) for name in names)], box.currentData() or "")
        column = next(place for place, (_, key) in enumerate(COLUMNS) if key == self.sort)
        order = Qt.SortOrder.DescendingOrder if self.falling else Qt.SortOrder.AscendingOrder
        self.table.horizontalHeader().setSortIndicator(column, order)
        self.empty.setText(
            "Nothing is logged yet: at Send, under Logbook, say how a cut went."
            if self.wanted == Search()
            else "No cut is like that."
        )
        self.empty.setVisible(not listed.entries)
        self.export.setEnabled(bool(listed.entries))
        self.store.show_store(listed.on_hand)
        rows = [row for row, entry in enumerate(listed.entries) if entry.number == number]
        if listed.entries:
            self.table.selectRow(rows[0] if rows else 0)
        self._show_one()

    def _sort_by(self, column: int) -> None:
        key = COLUMNS[column][1]
        if key:
            self.falling = not self.falling if key == self.sort else key in ("at", "planned", "taken", "cost")
            self.sort = key
        self.look()

    def _chosen(self) -> Entry | None:
        row = self.table.currentIndex().row()
        return self.lines.rows[row] if 0 <= row < len(self.lines.rows) else None

    def _show_one(self) -> None:
        self.one.show_entry(self._chosen(), self._model.job is not None)

    def _back_to(self, entry: Entry) -> None:
        """Take the settings of a cut in hand, on the picture in hand."""

        def done(recipe: bytes) -> None:
            try:
                self._model.change_recipe(f"As it was cut, {entry.job}", decode_recipe(recipe, "The snapshot"))
            except SketchLoomError as error:
                self._log.said.emit(str(error))
            else:
                self.put_away()

        self._log.ask(lambda: self._log.book.whole(entry.number).recipe, done)

    def _remove(self, entry: Entry) -> None:
        self._removed = (entry.number,)
        self.put_back.show()
        words = "Removed; what it used is on hand again. Put back brings it back."
        self._log.write(lambda book: book.remove(self._removed), words)

    def _put_back(self) -> None:
        self.put_back.hide()
        self._log.write(lambda book: book.remove(self._removed, back=True))
