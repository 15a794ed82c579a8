"""Sheets beside the work: laid once the layers stand, and searched for tighter ones when that is asked for."""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QObject, Signal

from sketchloom.app.held import Held
from sketchloom.app.job_model import JobModel
from sketchloom.app.quiet import QuietWork
from sketchloom.app.runner import Progress, Runner
from sketchloom.core.arrays import Floats
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job import Job, Pipeline, Recipe, Result, guest_of, work_of
from sketchloom.core.picture import load_picture
from sketchloom.core.sheets import (
    Figures,
    Guest,
    Layout,
    Ready,
    Tighter,
    Work,
    figures_of,
    lay_out,
    schedule_of,
    tighter,
    timing_of,
)
from sketchloom.core.stock import PLAIN_KNIFE, Cutter

__all__ = ["Layouts", "Played"]


class Played(NamedTuple):
    """How far the tool is."""

    sheet: int
    run: int
    share: float
    """Of the run, by time."""


class _Known(NamedTuple):
    """Sheets of a result."""

    of: Result
    full: Result
    work: Work
    layout: Layout
    figures: Figures
    left_out: tuple[str, ...]
    schedules: tuple[Floats, ...]
    """When the tool is down on each outline of each sheet, and when it goes up, s from the start of all."""


def _schedules(layout: Layout, cutter: Cutter | None) -> tuple[Floats, ...]:
    out, now = list[Floats](), 0.0
    for sheet in layout.sheets:
        paths = [run.path for run in sheet.runs]
        out.append(now + schedule_of(paths, cutter or PLAIN_KNIFE))
        now += timing_of(paths, cutter or PLAIN_KNIFE).time
    return tuple(out)


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
        self._known: _Known | None = None
        self._guests: dict[int, tuple[tuple[Job, Ready], Guest | None]] = {}
        """The work of other open jobs, by the job that is held."""
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
        model.jobs_changed.connect(self._lay_with_others)

    def _wait(self) -> None:
        """While another result is worked out, the old one is not laid."""
        if self._model.stale:
            self._runner.cancel()

    def _lay(self) -> None:
        result = self._model.result
        if result is None or self._model.stale or not result.has("mended") or self._is_known(result):
            return
        self._trouble = ""
        picture, recipe, pipeline = self._model.picture, result.recipe, self._model.pipeline
        others = [(id(held), held.now) for held in self.others] if recipe.sheets.shared else []

        def work(progress: Progress) -> _Known | str:
            own = ("sheets",) if not others else ("ready",)
            full = pipeline.results(picture, recipe, progress, names=own)
            if full.failure is not None:
                return full.failure.sentence
            guests = [self._guest(*one, recipe.sheets.ready, pipeline, progress) for one in others]
            work = work_of(full, [guest for guest in guests if guest is not None])
            settings = recipe.sheets
            layout = lay_out(work, settings, lambda done: progress("sheets", done)) if others else full.layout
            self.make_ahead(layout)
            missing = [job.name for (_, job), guest in zip(others, guests, strict=True) if guest is None]
            figures, schedules = figures_of(layout, settings.cutter), _schedules(layout, settings.cutter)
            return _Known(result, full, work, layout, figures, tuple(missing), schedules)

        def done(found: _Known | str) -> None:
            if self._model.result is not result:
                return
            self._known = found if isinstance(found, _Known) else None
            self._trouble = found if isinstance(found, str) else ""
            self.changed.emit()

        self._runner.submit(work, done)

    def _guest(self, place: int, job: Job, ready: Ready, pipeline: Pipeline, progress: Progress) -> Guest | None:
        """Give the work of another open job, on the worker; None where it has none."""
        if place not in self._guests or self._guests[place][0] != (job, ready):
            guest = None
            try:
                picture = load_picture(job.picture, job.picture_name, job.page, job.dpi)
            except SketchLoomError:
                pass
            else:
                found = pipeline.results(picture, job.recipe, progress, names=("mended",))
                guest = None if found.failure is not None else guest_of(job.name, found, ready)
            self._guests[place] = (job, ready), guest
        return self._guests[place][1]

    @property
    def others(self) -> list[Held]:
        """Jobs that are open beside the one in hand."""
        return [held for held in self._model.held if held is not self._model.current]

    def _lay_with_others(self) -> None:
        """Lay anew when other jobs are open, or fewer, if their work goes on the same sheets."""
        self._guests = {id(held): self._guests[id(held)] for held in self._model.held if id(held) in self._guests}
        if self._model.recipe.sheets.shared:
            self._known = None
            self._lay()
        self.changed.emit()

    def _is_known(self, result: Result | None) -> bool:
        return self._known is not None and self._known.of is result

    def _on_failed(self, _: str, sentence: str, __: str) -> None:
        self._trouble = sentence
        self.changed.emit()

    @property
    def full(self) -> Result | None:
        """The newest result with its sheets; None while they are not known."""
        return self._now.full if self._now is not None else None

    @property
    def _now(self) -> _Known | None:
        return self._known if self._is_known(self._model.result) else None

    @property
    def layout(self) -> Layout | None:
        """Sheets of the newest result; None while they are not known."""
        return self._now.layout if self._now is not None else None

    @property
    def figures(self) -> Figures | None:
        """What they take."""
        return self._now.figures if self._now is not None else None

    @property
    def laid(self) -> tuple[Recipe, Layout, Figures] | None:
        """What the newest result was made by, its sheets, and what they take; None while they are not known."""
        now = self._now
        return (now.full.recipe, now.layout, now.figures) if now is not None else None

    @property
    def duration(self) -> float:
        """Seconds that all sheets take."""
        return self._now.figures.timing.time if self._now is not None else 0.0

    def played(self, seconds: float) -> Played | None:
        """Tell where the tool is after so many seconds."""
        schedules = self._now.schedules if self._now is not None else ()
        for sheet, times in enumerate(schedules):
            if len(times) and (seconds <= times[-1, 1] or sheet == len(schedules) - 1):
                run = min(int(np.searchsorted(times[:, 1], seconds)), len(times) - 1)
                down, up = times[run].tolist()
                return Played(sheet, run, min(1.0, max(0.0, (seconds - down) / max(up - down, 1e-9))))
        return None

    @property
    def work(self) -> Work | None:
        """What is laid: the job's own, and that of others where it shares their sheets."""
        return self._now.work if self._now is not None else None

    @property
    def left_out(self) -> tuple[str, ...]:
        """Names of open jobs that have nothing to lay, as their result failed."""
        return self._now.left_out if self._now is not None else ()

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
        now = self._now
        if now is None:
            return

        def search(progress: Progress) -> Tighter:
            return tighter(now.work, now.full.recipe.sheets, seconds, lambda share: progress("sheets", share))

        def found(value: Tighter) -> None:
            if self._now is now:
                done(value)

        self._share = 0.0
        self._searcher.submit(search, found)

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
