"""Sheets beside the work: laid once the layers stand, and searched for tighter ones when that is asked for."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from sketchloom.app.job_model import JobModel
from sketchloom.app.quiet import QuietWork
from sketchloom.app.runner import Progress, Runner
from sketchloom.core.job import Result, design_of
from sketchloom.core.sheets import Design, Figures, Layout, Tighter, figures_of, tighter

__all__ = ["Layouts"]


class Layouts(QObject):
    """Follows the model; never holds the next change up."""

    changed = Signal()
    """Sheets are known anew, or are not to be had."""
    searching_changed = Signal()
    """A search began, or ended."""

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self._model = model
        self._runner, self._searcher = Runner(), Runner()
        self._known: tuple[Result, Result, Figures] | None = None
        self._trouble = ""
        self._share = self._laid = 0.0
        self.make_ahead: Callable[[Layout], object] = lambda layout: None
        """What is drawn of a layout is made on the worker."""
        self._runner.failed.connect(self._on_failed)
        self._runner.progress.connect(self._on_laid)
        self._searcher.failed.connect(lambda _, sentence, __: model.said.emit(sentence))
        self._searcher.progress.connect(self._on_progress)
        self._searcher.busy_changed.connect(lambda _: self.searching_changed.emit())
        model.result_ready.connect(self._lay)
        model.recipe_changed.connect(self._wait)
        model.job_changed.connect(self._searcher.cancel)

    def _wait(self) -> None:
        """While another result is worked out, the old one is not laid."""
        if self._model.stale:
            self._runner.cancel()

    def _lay(self) -> None:
        result = self._model.result
        if result is None or self._model.stale or not result.has("mended") or self._is_known(result):
            return
        picture, recipe, pipeline = self._model.picture, result.recipe, self._model.pipeline

        def work(progress: Progress) -> tuple[Result, Figures | None]:
            full = pipeline.results(picture, recipe, progress, names=("sheets",))
            if full.failure is not None:
                return full, None
            self.make_ahead(full.layout)
            return full, figures_of(full.layout, recipe.sheets.cutter)

        def done(found: tuple[Result, Figures | None]) -> None:
            full, figures = found
            if self._model.result is not result:
                return
            self._known = (result, full, figures) if figures is not None else None
            self._trouble = full.failure.sentence if full.failure is not None else ""
            self.changed.emit()

        self._runner.submit(work, done)

    def _is_known(self, result: Result | None) -> bool:
        return self._known is not None and self._known[0] is result

    def _on_failed(self, _: str, sentence: str, __: str) -> None:
        self._trouble = sentence
        self.changed.emit()

    @property
    def full(self) -> Result | None:
        """The newest result with its sheets; None while they are not known."""
        return self._known[1] if self._known is not None and self._is_known(self._model.result) else None

    @property
    def layout(self) -> Layout | None:
        """Sheets of the newest result; None while they are not known."""
        return None if self.full is None else self.full.layout

    @property
    def figures(self) -> Figures | None:
        """What they take."""
        return self._known[2] if self._known is not None and self.full is not None else None

    @property
    def design(self) -> Design | None:
        """How the design lies in its picture."""
        full = self.full
        return None if full is None else design_of(full.picture, full.finished, full.stack)

    @property
    def trouble(self) -> str:
        """Why there are no sheets of the newest result; empty while they are only not known yet."""
        return "" if self.full is not None else self._trouble

    @property
    def searching(self) -> bool:
        """Whether a tighter layout is looked for."""
        return self._searcher.busy

    def search(self, seconds: float, done: Callable[[Tighter], object]) -> None:
        """Look for a tighter layout for so many seconds; `done` is told what was found, unless all has changed."""
        full, design = self.full, self.design
        if full is None or design is None:
            return
        cuts, settings = full.stack.cuts.cuts, full.recipe.sheets

        def work(progress: Progress) -> Tighter:
            return tighter(cuts, settings, design, seconds, lambda share: progress("sheets", share))

        def found(value: Tighter) -> None:
            if self.full is full:
                done(value)

        self._share = 0.0
        self._searcher.submit(work, found)

    def _on_laid(self, stage: str, share: float) -> None:
        self._laid = share if stage == "sheets" else 0.0

    def _on_progress(self, _: str, share: float) -> None:
        self._share = share

    @property
    def quiet(self) -> tuple[QuietWork, ...]:
        """What goes on, for the strip that tells of quiet work."""
        return (
            QuietWork(self._runner, lambda: f"laying out sheets, {100 * self._laid:.0f} %", self.stop),
            QuietWork(self._searcher, self._words, self._searcher.cancel),
        )

    def _words(self) -> str:
        return f"looking for a tighter layout, {100 * self._share:.0f} %"

    def stop(self) -> None:
        """Call laying out off."""
        self._runner.cancel()
        if self.full is None:
            self._trouble = "Laying out was stopped; it begins again with the next change."
            self.changed.emit()

    def close(self) -> None:
        """End the threads."""
        self._runner.close()
        self._searcher.close()
