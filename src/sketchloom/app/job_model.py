"""The one object with state: the job, its history, and the newest results."""

import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import msgspec
from PySide6.QtCore import QBuffer, QIODevice, QObject, QTimer, Signal
from PySide6.QtGui import QImage

from sketchloom.app.held import PREVIEW_FROM, Drawings, Held, Opened, drawings_of, open_held, read_held
from sketchloom.app.job_files import JobFiles
from sketchloom.app.job_history import JobHistory
from sketchloom.app.runner import Progress, Runner
from sketchloom.app.shelf import OwnShelf
from sketchloom.core.job import (
    STEP_OF_STAGE,
    Job,
    Pipeline,
    Recipe,
    Result,
    is_work_by_hand,
)
from sketchloom.core.picture import Crop, Picture
from sketchloom.core.stock import MACHINES, PRESETS, STOCKS
from sketchloom.core.survey import SourceMeasures

__all__ = ["JobModel"]

_REST = 500
"""Milliseconds after which a gesture that stands still has ended."""
_LARGE = 4_000_000
"""px; of a larger picture pieces are shown reduced at first."""


class JobModel(JobHistory, JobFiles, QObject):
    """Knows no widget; the window listens to it."""

    job_changed = Signal(bool)
    """Another job is in hand, or another page of it; whether it was opened just now."""
    job_saved = Signal()
    """The job in hand was written to a file."""
    jobs_changed = Signal()
    """Others are open, or fewer, beside the job in hand."""
    recipe_changed = Signal()
    result_ready = Signal()
    progress = Signal(str, float)
    """Step and share done."""
    failed = Signal(str, str, str)
    """Step, sentence, details."""
    busy_changed = Signal(bool)
    regions_ready = Signal(object, object, object)
    """Recipe, label map and palette, while the rest of the result is still worked out."""
    said = Signal(str)
    """A sentence worth a moment of notice."""

    def __init__(self) -> None:
        super().__init__()
        self.runner = Runner()
        self.runner.progress.connect(lambda stage, done: self.progress.emit(STEP_OF_STAGE.get(stage, "source"), done))
        self.runner.failed.connect(self._on_failed)
        self.runner.busy_changed.connect(self.busy_changed)
        self.runner.cancelled.connect(lambda: self.said.emit("Stopped; the last result stays."))
        self.side = Runner()
        """For small work beside the pipeline: a tool's."""
        self.side.failed.connect(self._on_failed)
        self.shelf, self.machines, self.presets = OwnShelf(STOCKS), OwnShelf(MACHINES), OwnShelf(PRESETS)
        """What the maker has: stocks, cutters and presets; changes of them are undone like all others."""
        for shelf in (self.shelf, self.machines, self.presets):
            shelf.said.connect(self.said)
            shelf.kept.connect(lambda name, before, after, shelf=shelf: self._on_shelf(shelf, name, before, after))
        self.pipeline = Pipeline()
        self.ahead: list[Callable[[Result, Picture], None]] = []
        """What is made of a result, and of the opened picture as it is shown, on the worker, before it is told."""
        self.held: list[Held] = []
        self.current: Held | None = None
        self.picture: Picture | None = None
        self.shown: Picture | None = None
        self.measures: SourceMeasures | None = None
        self.drawings: Drawings = ()
        self.result: Result | None = None
        """The newest; where it failed, with what the one before it had from there on."""
        self.sent: str = ""
        self.begin: Callable[[], Recipe] = Recipe
        """What is done to a new picture at first."""
        self._gesture: int | None = None
        self._resting = QTimer(self, interval=_REST, singleShot=True)
        self._resting.timeout.connect(self.rest)

    @property
    def job(self) -> Job | None:
        """The job in hand, as it was opened or saved."""
        return self.current.job if self.current else None

    @property
    def path(self) -> Path | None:
        """Where the job in hand was read or saved."""
        return self.current.path if self.current else None

    @property
    def stale(self) -> bool:
        """Whether the newest result is not yet a full and good one of the recipe in force."""
        result = self.result
        return result is None or result.preview or result.failure is not None or result.recipe != self.recipe

    @property
    def dirty(self) -> bool:
        """Whether there is work in any open job that no job file holds."""
        return any(held.dirty for held in self.held)

    def open(self, *paths: Path) -> None:
        """Open pictures and jobs; the first comes in hand, the job in hand is laid aside."""
        begin = self.begin()

        def work(progress: Progress) -> tuple[Opened, list[Held], list[str]]:
            found, troubles = read_held(paths, progress, begin)
            return self._open(found[0], progress), found, troubles

        self.runner.enqueue(work, lambda value: self._opened(*value), "open")

    def open_job(self, job: Job, fresh: bool = False) -> None:
        """Open a job that is no file: the demo, or a pasted picture, which is on no disk at all."""
        self._take(Held(job, None, fresh=fresh))

    def open_image(self, image: QImage) -> None:
        """Open a picture that was pasted."""
        begin = self.begin()

        def work(progress: Progress) -> tuple[Opened, Held]:
            store = QBuffer()
            store.open(QIODevice.OpenModeFlag.WriteOnly)
            image.save(store, "PNG")
            held = Held(Job("Pasted picture", "pasted.png", bytes(store.data()), begin), None, fresh=True)
            return self._open(held, progress), held

        self.runner.enqueue(work, lambda value: self._opened(value[0], [value[1]], []), "open")

    def take(self, held: Held) -> None:
        """Take one of the open jobs in hand; the one in hand is laid aside as it is."""
        if held in self.held and held is not self.current:
            self._take(held)

    def open_held(self, held: Held) -> None:
        """Open a job that was left behind."""
        self._take(held)

    def duplicate(self) -> None:
        """Open a variant of the job in hand beside it, which goes its own way from here."""
        if self.current is not None:
            now, names = self.current.now, {held.job.name for held in self.held}
            number = next(number for number in range(2, len(names) + 3) if f"{now.name} {number}" not in names)
            self._take(Held(msgspec.structs.replace(now, name=f"{now.name} {number}"), None, fresh=True))

    def put_away(self, held: Held) -> None:
        """Close one of the open jobs that is not in hand."""
        if held in self.held and held is not self.current:
            self.held.remove(held)
            self.jobs_changed.emit()

    def take_page(self, page: int, dpi: float) -> None:
        """Take another page of the file, or draw it at other dots an inch; changes and their history stay."""
        here = self.current
        if here is None or (page, dpi) == (here.job.page, here.job.dpi):
            return
        turned = Held(msgspec.structs.replace(here.job, page=page, dpi=dpi), here.path, here.source)
        turned.history, turned.saved = here.history, here.saved

        def replace() -> None:
            """Of the pages of one job only the newest stays open."""
            self.held = [held for held in self.held if held.history is not turned.history]

        self._take(turned, replace)

    def drawings_apart(self) -> None:
        """Make a job of each drawing on the page, beside the job in hand."""
        if self.current is None:
            return
        job = self.current.now
        for number, (first, last) in enumerate(self.drawings, 1):
            rows = (*job.recipe.prepare, Crop(first=first, last=last))
            recipe = msgspec.structs.replace(job.recipe, prepare=rows)
            self.held.append(Held(msgspec.structs.replace(job, name=f"{job.name} {number}", recipe=recipe), None))
        self.jobs_changed.emit()

    def _take(self, held: Held, then: Callable[[], None] = lambda: None) -> None:
        def done(opened: Opened) -> None:
            then()
            self._opened(opened, [held], [])

        self.runner.enqueue(lambda progress: self._open(held, progress), done, "open")

    def _open(self, held: Held, progress: Progress) -> Opened:
        """Load a job and run it, on the worker."""
        opened = open_held(held, self.pipeline, progress)
        self._make_ahead(opened.result, opened.shown)
        return opened

    def _make_ahead(self, result: Result, shown: Picture) -> None:
        for make in self.ahead:
            make(result, shown)

    def _opened(self, opened: Opened, found: Sequence[Held], troubles: Sequence[str]) -> None:
        new = opened.held not in self.held
        self.held += [held for held in found if held not in self.held]
        self.current = opened.held
        self.picture, self.shown = opened.picture, opened.shown
        self.measures, self.drawings = opened.measures, opened.drawings
        self._end_gesture()
        self.sent = ""
        self.result = opened.result
        self.job_changed.emit(new)
        self.recipe_changed.emit()
        self.result_ready.emit()
        self._tell_failure(opened.result)
        notes = [note for note in (opened.picture.note, *troubles) if note]
        if notes:
            self.said.emit(" ".join(notes))

    def _on_shelf(self, shelf: OwnShelf, name: str, before: tuple[Any, ...], after: tuple[Any, ...]) -> None:
        if self.current is not None:
            self._history.push_beside(name, lambda: shelf.put(before), lambda: shelf.put(after))
            self.recipe_changed.emit()

    def rest(self) -> None:
        """End a gesture: the full result is wanted now."""
        if self._gesture is not None:
            self._end_gesture()
            self._run()

    def _end_gesture(self) -> None:
        self._gesture = None
        self._resting.stop()

    def cancel(self) -> None:
        """Call off the work in hand."""
        self.runner.cancel()

    def _changed(self, gesture: int | None) -> None:
        if self.current is not None:
            self.current.since = time.time()
        self._gesture = gesture
        if gesture is None:
            self._resting.stop()
        else:
            self._resting.start()
        self.recipe_changed.emit()
        self._run()

    def _run(self) -> None:
        held, picture = self.current, self.picture
        if picture is None or held is None:
            return
        job, recipe, before, found, shown = held.now, self.recipe, self.result, self.drawings, self.shown or picture
        if self._gesture is None or picture.width * picture.height < PREVIEW_FROM:

            def work(progress: Progress) -> tuple[Result, Drawings]:
                if before is not None and is_work_by_hand(before.recipe, recipe):
                    self._tell_regions(picture, recipe, progress)
                result = self.pipeline.results(picture, recipe, progress)
                self._make_ahead(result, shown)
                same = (
                    before is not None
                    and before.has("prepare")
                    and result.has("prepare")
                    and result.prepared.picture is before.prepared.picture
                )
                return result, found if same else drawings_of(result, job)

            def done(value: tuple[Result, Drawings]) -> None:
                if picture is self.picture:
                    self.drawings = value[1]
                self._show(picture, value[0])

            self.runner.submit(work, done)
            return
        self.runner.submit(
            lambda progress: self.pipeline.results(picture, recipe, progress, preview=True),
            lambda result: self._show(picture, result) if result.failure is None else None,
            keep=True,
        )

    def _tell_regions(self, picture: Picture, recipe: Recipe, progress: Progress) -> None:
        """Tell how pieces lie after work by hand, on the worker, before their edges are traced."""
        large = picture.width * picture.height > _LARGE
        quick = self.pipeline.results(picture, recipe, progress, preview=large, names=("palette", "worked"))
        if quick.failure is None:
            self.regions_ready.emit(recipe, quick.of("worked").regions, quick.palette)

    def _show(self, picture: Picture, result: Result) -> None:
        if picture is not self.picture:  # of a job that was left
            return
        self.result = result.over(self.result) if result.failure is not None else result
        self.result_ready.emit()
        self._tell_failure(result)

    def _tell_failure(self, result: Result) -> None:
        if result.failure is not None:
            self._on_failed(result.failure.stage, result.failure.sentence, result.failure.details)

    def _on_failed(self, stage: str, sentence: str, details: str) -> None:
        self.failed.emit(STEP_OF_STAGE.get(stage, "source"), sentence, details)

    def close(self) -> None:
        """End the threads; files that were asked for are written first."""
        self._resting.stop()
        self.side.close()
        self.runner.close()
