"""Checks beside the work: findings once the layers stand, then which of their fixes hold, one after the other."""

from collections.abc import Callable, Sequence

from PySide6.QtCore import QObject, Signal

from sketchloom.app.job_model import JobModel
from sketchloom.app.quiet import QuietWork
from sketchloom.app.runner import Progress, Runner
from sketchloom.core.inspect import Finding, mend_all
from sketchloom.core.job import Checked, Recipe, Result, all_sure, set_aside, with_fixes

__all__ = ["Checks"]

_MOST_TRIED = 60
"""Findings, worst first, whose fixes are tried unasked; those of the others when they are looked at."""


class Checks(QObject):
    """Follows the model; never holds the next change up."""

    changed = Signal()
    """Findings, or their fixes, are known anew."""
    _tried = Signal(object, int, object)

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self._model = model
        self._runner = Runner()
        self._result: Result | None = None
        self._full: Result | None = None
        """The same with what its check gave."""
        self._checked: Checked | None = None
        self._sure: dict[int, Finding] = {}
        self._trouble = ""
        self._doing = "checking"
        self._of = 0
        self._share = 0.0
        self._runner.progress.connect(self._on_progress)
        self._runner.failed.connect(self._on_failed)
        self._tried.connect(self._on_tried)
        model.result_ready.connect(self._check)
        model.recipe_changed.connect(self._wait)

    @property
    def checked(self) -> Checked | None:
        """What was found in the newest result; None while it is not known."""
        return self._checked if self._result is not None and self._result is self._model.result else None

    @property
    def result(self) -> Result | None:
        """The result that was checked, with all that its findings need."""
        return self._full if self.checked is not None else None

    @property
    def busy(self) -> bool:
        """Whether a check, or a trial of fixes, goes on."""
        return self._runner.busy

    @property
    def quiet(self) -> QuietWork:
        """What goes on, for the strip that tells of quiet work."""
        return QuietWork(self._runner, self._words, self.stop)

    def _words(self) -> str:
        return f"{self._doing}, {round(self._share * self._of)} of {self._of}" if self._of else self._doing

    def _on_progress(self, _: str, share: float) -> None:
        self._share = share

    def _begin(self, doing: str, of: int = 0) -> None:
        self._doing, self._of, self._share = doing, of, 0.0

    def stop(self) -> None:
        """Call the check, or the trials, off."""
        self._runner.cancel()
        if self.checked is None:
            self._trouble = "The check was stopped; it begins again with the next change."
            self.changed.emit()

    def finding(self, place: int) -> Finding:
        """Give a finding by its place; with the fixes that hold once they were tried."""
        assert self._checked is not None
        return self._sure.get(place, self._checked.findings[place])

    def is_sure(self, place: int) -> bool:
        """Whether the fixes of a finding were tried."""
        return place in self._sure

    @property
    def trouble(self) -> str:
        """Why nothing can be said of the newest result; empty while it is only not known yet."""
        result = self._model.result
        failed = result is not None and result.failure is not None and result.recipe == self._model.recipe
        return (
            result.failure.sentence if failed and result is not None and result.failure is not None else self._trouble
        )

    def _wait(self) -> None:
        """While another result is worked out, nothing is tried on the old one."""
        if self._model.stale:
            self._runner.cancel()

    def _check(self) -> None:
        result = self._model.result
        if result is None or self._model.stale or not result.has("mended") or self._result is result:
            return
        picture, recipe, pipeline = self._model.picture, result.recipe, self._model.pipeline

        def done(full: Result) -> None:
            if self._model.result is not result:
                return
            self._sure = {}
            self._result, self._full = result, full
            self._checked = full.checked if full.failure is None else None
            self._trouble = full.failure.sentence if full.failure is not None else ""
            self.changed.emit()
            if self._checked is not None:
                places = [place for place in range(len(full.checked.findings)) if place not in full.checked.aside]
                self.try_fixes(places[:_MOST_TRIED])

        self._begin("checking")
        self._runner.submit(lambda progress: pipeline.results(picture, recipe, progress, names=("checked",)), done)

    def try_fixes(self, places: Sequence[int]) -> None:
        """Try the fixes of some findings, beside the work."""
        result, picture, pipeline = self.result, self._model.picture, self._model.pipeline
        left = [place for place in places if place not in self._sure]
        if result is None or picture is None or not left:
            return

        def work(progress: Progress) -> None:
            findings = [result.checked.findings[place] for place in left]
            tried = all_sure(pipeline, picture, result, findings, lambda share: progress("checked", share))
            for place, finding in zip(left, tried, strict=True):
                self._tried.emit(result, place, finding)

        self._begin("trying what mends it", len(left))
        self._runner.submit(work, lambda _: None)

    def _on_tried(self, result: Result, place: int, finding: Finding) -> None:
        if result is self.result:
            self._sure[place] = finding
            self.changed.emit()

    def mend(self, place: int, number: int = 0) -> None:
        """Do a fix of one finding, as one change."""
        result = self.result
        if result is None:
            return
        finding = self.finding(place)
        fix = finding.fixes[number]
        self._model.change_recipe(f"Mend: {fix.words.lower()}", with_fixes(result, self._model.recipe, (fix,)))

    def mend_many(self, name: str, wanted: Callable[[Finding], bool]) -> None:
        """Do all fixes of outlines that hold together, of findings that are wanted, as one change."""
        result = self.result
        if result is None:
            return
        checked, recipe = result.checked, self._model.recipe
        chosen = [found for found in checked.open if wanted(found)]

        def work(progress: Progress) -> Recipe:
            done = mend_all(checked.subject, checked.findings, chosen, lambda share: progress("checked", share))
            return with_fixes(result, recipe, done.fixes)

        def done(mended: Recipe) -> None:
            if self._model.recipe == recipe and mended != recipe:
                self._model.change_recipe(name, mended)
            elif mended == recipe:
                self._model.said.emit("None of these can be mended without making something as bad; look at each.")

        self._begin("mending", len(chosen))
        self._runner.cancel()  # of trials: what was asked for goes before
        self._runner.enqueue(work, done, "checked")

    def leave(self, place: int, word: str) -> None:
        """Leave a finding so, with a word why."""
        result = self.result
        if result is not None:
            recipe = set_aside(result, self._model.recipe, self.finding(place), word)
            self._model.change_recipe("Leave a finding so", recipe)

    def _on_failed(self, stage: str, sentence: str, details: str) -> None:
        self._trouble = sentence
        self.changed.emit()

    def close(self) -> None:
        """End the thread."""
        self._runner.close()
