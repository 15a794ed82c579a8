"""The page over the work that shows two versions, or two jobs, side by side with their figures."""

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from sketchloom.app.beside.figures import FiguresTable
from sketchloom.app.beside.look import Half, Look
from sketchloom.app.beside.sides import Choice, Side, choices, file_choice, worked_out
from sketchloom.app.controls import fill_box, narrow_box
from sketchloom.app.job_model import JobModel
from sketchloom.app.over import OverPage
from sketchloom.app.runner import Runner
from sketchloom.core.job import COMPARED, QUICK

__all__ = ["BesidePage"]

_FILE = "file"


class _Column:
    """One of the two: what it is, its picture, and the way to go on with it."""

    def __init__(self, look: Look, name: str) -> None:
        self.box = narrow_box(f"{name}: what is shown")
        self.half = Half(look, f"{name} picture")
        self.go = QPushButton("Go on with this")
        self.go.setToolTip("Take it in hand; undo, or the list of open jobs, leads back")
        self.runner = Runner()
        self.key = ""
        self.trouble = ""
        """Why not all of it is known."""
        self.asked = 0
        """Counts what was asked for: of what was given up, nothing is shown."""
        self.files: list[Choice] = []
        self.layout = QVBoxLayout()
        self.layout.setSpacing(6)
        line = QHBoxLayout()
        line.addWidget(self.box, 1)
        line.addWidget(self.go)
        self.layout.addLayout(line)
        self.layout.addWidget(self.half, 1)


class BesidePage(OverPage):
    """Lies over the canvas and the ledger until it is closed."""

    wants_file = Signal(object)
    """A job file is to be chosen, for what takes its path."""

    def __init__(self, model: JobModel, unit: Callable[[], str], parent: QWidget) -> None:
        words = "Both show the same place: the wheel zooms, dragging moves, F shows all."
        super().__init__("Side by side", words, parent)
        self._model, self._unit = model, unit
        self.look = Look()
        self.left, self.right = _Column(self.look, "Left"), _Column(self.look, "Right")
        both = QHBoxLayout()
        both.setSpacing(10)
        for one in (self.left, self.right):
            both.addLayout(one.layout, 1)
            one.box.activated.connect(lambda _, one=one: self._chosen(one, one.box.currentData()))
            one.go.clicked.connect(lambda _=False, one=one: self._go_on(one))
            one.runner.failed.connect(lambda _, sentence, __, one=one: self._failed(one, sentence))
        self.column.addLayout(both, 1)
        self.table = FiguresTable()
        self.column.addWidget(self.table)
        model.recipe_changed.connect(self._follow)
        model.result_ready.connect(self._follow)
        model.jobs_changed.connect(self._follow)
        model.job_changed.connect(lambda opened: self.put_away() if opened else self._follow())
        self._recipe: object = None

    def open(self) -> None:
        """Show the newest version, or another job, beside the job in hand as it stands."""
        known = self._known(self.left)
        if not known:
            return
        other = {f"version {one.name}" for one in self._model.versions if one.recipe != self._model.recipe}
        wanted = [choice for choice in known if choice.key in other] or known[1:] or known
        self.left.key = wanted[0].key
        self.right.key = "now"
        self._recipe = self._model.recipe
        self.look.fit()
        super().open()
        for one in (self.left, self.right):
            self._work_out(one)
        self.left.box.setFocus()

    def follow_unit(self) -> None:
        """Tell the figures anew."""
        self._tell()

    def put_away(self) -> None:
        """Close it."""
        for one in (self.left, self.right):
            one.runner.cancel()
        super().put_away()

    def close_down(self) -> None:
        """End the threads."""
        for one in (self.left, self.right):
            one.runner.close()

    def _known(self, one: _Column) -> list[Choice]:
        return [*choices(self._model), *one.files]

    def _choice(self, one: _Column) -> Choice:
        """What a column shows; what has gone gives way to the job in hand."""
        known = self._known(one)
        return next((choice for choice in known if choice.key == one.key), known[0])

    def _follow(self) -> None:
        """Show what has changed meanwhile."""
        if not self.isVisible():
            return
        if self._model.job is None:
            self.put_away()
            return
        changed = self._model.recipe != self._recipe and not self._model.stale
        for one in (self.left, self.right):
            gone = self._choice(one).key != one.key
            one.key = self._choice(one).key
            if gone or (changed and one.key == "now"):
                self._work_out(one)
            else:
                self._fill(one)
        if changed:
            self._recipe = self._model.recipe
        self._tell()

    def _fill(self, one: _Column) -> None:
        rows = [*((choice.words, choice.key) for choice in self._known(one)), ("A job of a file…", _FILE)]
        fill_box(one.box, rows, one.key)
        one.go.setEnabled(self._choice(one).go is not None)

    def _chosen(self, one: _Column, key: str) -> None:
        if key != _FILE:
            one.key = key
            self._work_out(one)
            return
        self._fill(one)

        def take(path: Path) -> None:
            choice = file_choice(path, self._model)
            one.files = [*(other for other in one.files if other.key != choice.key), choice]
            one.key = choice.key
            self._work_out(one)

        self.wants_file.emit(take)

    def _work_out(self, one: _Column) -> None:
        self._fill(one)
        choice, pipeline = self._choice(one), self._model.pipeline
        one.half.show_side(None, "Working it out…")
        one.runner.cancel()
        one.asked += 1
        one.trouble = ""
        asked = one.asked
        for names in (QUICK, COMPARED):  # the pictures first; sheets and findings of thousands of pieces take a while
            one.runner.enqueue(
                lambda progress, names=names: worked_out(choice, names, pipeline, progress),
                lambda side: self._show(one, side, "") if one.asked == asked else None,
                "open",
            )
        self._tell()

    def _show(self, one: _Column, side: Side | None, words: str) -> None:
        one.half.show_side(side, words)
        self._tell()

    def _failed(self, one: _Column, sentence: str) -> None:
        """Say why something is not known; a picture that shows already stays."""
        one.trouble = sentence
        if one.half.side is None:
            self._show(one, None, sentence)
        else:
            self._model.said.emit(sentence)
            self._tell()

    def _tell(self) -> None:
        left, right = (one.half.side.figures if one.half.side else None for one in (self.left, self.right))
        unknown = tuple("–" if one.trouble else "…" for one in (self.left, self.right))
        self.table.show_figures(left, right, self._unit(), unknown)

    def _go_on(self, one: _Column) -> None:
        go = self._choice(one).go
        if go is not None:
            self.put_away()
            go()
