"""Open jobs kept beside the window as they change, and those that an earlier run left behind."""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QImage

from sketchloom.app.held import Held
from sketchloom.app.job_model import JobModel
from sketchloom.app.runner import Progress, Runner
from sketchloom.app.small import image_of
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job import Job, Kept, LeftBehind, clear_old, left_behind
from sketchloom.core.picture import load_picture, reduce_picture

__all__ = ["Keeper"]

_EVERY = 400
"""Milliseconds after a change in which others join it; then all that changed is kept."""
_SMALL_PIXELS = 64 * 64
_LARGEST_SHOWN = 30_000_000
"""Bytes of a picture that is drawn small where it is offered."""


class _Now(NamedTuple):
    """A job as it is to be kept."""

    job: Job
    path: Path | None
    source: Path | None
    changed: bool


class Keeper(QObject):
    """Keeps open jobs, never later than a second after a change, on a thread of its own.

    Parameters
    ----------
    model : JobModel
    """

    found = Signal(object)
    """Jobs that were left behind, newest first."""
    pictured = Signal(object, object)
    """A folder of one of them, and its picture, small."""
    kept = Signal(object)
    """Jobs as they were written just now."""
    said = Signal(str)

    def __init__(self, model: JobModel) -> None:
        super().__init__()
        self._model = model
        self._runner = Runner()
        self._runner.failed.connect(lambda stage, sentence, _: self._tell(sentence, stage == "keep"))
        self._told = False
        self._kept: dict[Held, Kept] = {}
        """On the worker alone."""
        self._last: dict[Held, _Now] = {}
        """What was handed to the worker last."""
        self._soon = QTimer(self, interval=_EVERY, singleShot=True)
        self._soon.timeout.connect(self.keep)
        for signal in (model.job_changed, model.job_saved, model.jobs_changed, model.recipe_changed):
            signal.connect(self._later)

    def _later(self) -> None:
        if not self._soon.isActive():
            self._soon.start()

    def _tell(self, sentence: str, once: bool) -> None:
        """Say what failed; that jobs cannot be kept but once, as it would come with every change."""
        if not (once and self._told):
            self._told = self._told or once
            self.said.emit(sentence)

    def keep(self) -> None:
        """Hand what has changed to the worker."""
        self._soon.stop()
        now = {held: _Now(held.now, held.path, held.source, held.dirty) for held in self._model.held}
        gone = [held for held in self._last if held not in now]
        fresh = {held: one for held, one in now.items() if self._last.get(held) != one}
        self._last = now
        if gone or fresh:
            self._runner.enqueue(lambda _: self._write(fresh, gone), self._written, "keep", must=True)

    def _write(self, fresh: dict[Held, _Now], gone: list[Held]) -> tuple[Job, ...]:
        """On the worker: write what changed, drop what was closed."""
        for held in gone:
            if held in self._kept:
                self._kept.pop(held).drop()
        for held, one in fresh.items():
            if held not in self._kept:
                self._kept[held] = Kept()
            self._kept[held].write(*one)
        return tuple(one.job for one in fresh.values())

    def _written(self, jobs: tuple[Job, ...]) -> None:
        if jobs:
            self._told = False  # the disk takes it again
            self.kept.emit(jobs)

    def look(self) -> None:
        """Find what an earlier run left behind, beside the window."""

        def work(_: Progress) -> tuple[tuple[LeftBehind, ...], tuple[str, ...]]:
            clear_old()
            return left_behind()

        def done(value: tuple[tuple[LeftBehind, ...], tuple[str, ...]]) -> None:
            left, troubles = value
            self.found.emit(left)
            if troubles:
                self.said.emit(" ".join(troubles))
            for one in left:
                self._runner.enqueue(lambda _, one=one: _small(one), self._pictured(one), "open")

        self._runner.enqueue(work, done, "open")

    def _pictured(self, one: LeftBehind) -> Callable[[QImage | None], None]:
        def done(image: QImage | None) -> None:
            if image is not None:
                self.pictured.emit(one.folder, image)

        return done

    def bring_back(self, left: LeftBehind) -> None:
        """Open a job that was left behind, as it was."""

        def work(_: Progress) -> tuple[Held, Kept]:
            kept = Kept(left.folder)
            try:
                return Held(left.read(), left.path, left.source, fresh=left.changed), kept
            except SketchLoomError:
                kept.let_go()
                raise

        def done(value: tuple[Held, Kept]) -> None:
            held, kept = value
            self._kept[held] = kept
            self._last[held] = _Now(held.now, held.path, held.source, held.dirty)
            self._model.open_held(held)

        self._runner.enqueue(work, done, "open", failed=self.look)  # it is offered again

    def close(self) -> None:
        """Let all go: what was open was closed by the maker, or saved."""
        self._soon.stop()
        gone = list(self._last)
        self._last = {}
        self._runner.enqueue(lambda _: self._write({}, gone), lambda _: None, "keep", must=True)
        self._runner.close()


def _small(left: LeftBehind) -> QImage | None:
    """On the worker: its picture, small; None where it cannot be drawn, or not soon."""
    try:
        job = left.read()
        if len(job.picture) > _LARGEST_SHOWN:
            return None
        picture, _ = reduce_picture(load_picture(job.picture, job.picture_name, job.page, job.dpi), _SMALL_PIXELS)
    except SketchLoomError:
        return None
    return image_of(picture.rgba)
