"""The one object with state: the job, its history, and the newest results."""

import io
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import msgspec
from PIL import Image
from PySide6.QtCore import QObject, Signal

from sketchloom.app.held import PREVIEW_FROM, Drawings, Held, Opened, drawings_of, open_held, read_held
from sketchloom.app.runner import Progress, Runner
from sketchloom.core.inspect import SourceMeasures
from sketchloom.core.job import History, Job, Pipeline, Recipe, Result, print_and_cut, write_job
from sketchloom.core.picture import Crop, Picture, Row
from sketchloom.core.regions import coloured
from sketchloom.core.send import check_svg, layer_files, svg_text, write_all

__all__ = ["STEP_OF_STAGE", "JobModel"]

_STAGES_OF_STEP = {
    "source": ("open",),
    "prepare": ("prepare",),
    "separate": ("picture", "tones", "ground", "inks", "tidy"),
    "trace": ("map", "edges", "trace"),
    "layers": ("finish", "layers"),
    "send": ("send",),
}
STEP_OF_STAGE = {stage: step for step, stages in _STAGES_OF_STEP.items() for stage in stages}


class JobModel(QObject):
    """Knows no widget; the window listens to it."""

    job_changed = Signal()
    recipe_changed = Signal()
    result_ready = Signal()
    progress = Signal(str, float)
    """Step and share done."""
    failed = Signal(str, str, str)
    """Step, sentence, details."""
    busy_changed = Signal(bool)
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
        self._pipeline = Pipeline()
        self.held: list[Held] = []
        self.current: Held | None = None
        self.picture: Picture | None = None
        self.shown: Picture | None = None
        self.measures: SourceMeasures | None = None
        self.drawings: Drawings = ()
        self.result: Result | None = None
        self.sent: str = ""
        self._gesture: int | None = None
        self._result_recipe: Recipe | None = None
        self._no_history = History(Recipe())

    @property
    def job(self) -> Job | None:
        """The job in hand, as it was opened or saved."""
        return self.current.job if self.current else None

    @property
    def path(self) -> Path | None:
        """Where the job in hand was read or saved."""
        return self.current.path if self.current else None

    @property
    def _history(self) -> History:
        return self.current.history if self.current else self._no_history

    @property
    def recipe(self) -> Recipe:
        """The recipe in force."""
        return self._history.recipe

    @property
    def stale(self) -> bool:
        """Whether the newest result is not yet that of the recipe in force."""
        return self.result is None or self.result.scale < 1 or self._result_recipe != self.recipe

    @property
    def dirty(self) -> bool:
        """Whether there is work in any open job that no job file holds."""
        return any(held.dirty for held in self.held)

    @property
    def undo_name(self) -> str | None:
        """What undo takes back."""
        return self._history.undo_name

    @property
    def redo_name(self) -> str | None:
        """What redo does again."""
        return self._history.redo_name

    def open(self, *paths: Path) -> None:
        """Open pictures and jobs; the first comes in hand, the job in hand is laid aside."""

        def work(progress: Progress) -> tuple[Opened, list[Held], list[str]]:
            found, troubles = read_held(paths, progress)
            return open_held(found[0], self._pipeline, progress), found, troubles

        self.runner.submit(work, lambda value: self._opened(*value))

    def open_job(self, job: Job) -> None:
        """Open a job that is no file: the demo, or a pasted picture."""
        self._take(Held(job, None))

    def take(self, place: int) -> None:
        """Take one of the open jobs in hand; the one in hand is laid aside as it is."""
        self._take(self.held[place])

    def put_away(self, place: int) -> None:
        """Close one of the open jobs that is not in hand."""
        if self.held[place] is not self.current:
            del self.held[place]
            self.job_changed.emit()

    def take_page(self, page: int, dpi: float) -> None:
        """Take another page of the file, or draw it at other dots an inch; changes and their history stay."""
        if self.current is None or (page, dpi) == (self.current.job.page, self.current.job.dpi):
            return
        turned = Held(msgspec.structs.replace(self.current.job, page=page, dpi=dpi), self.current.path)
        turned.history, turned.saved = self.current.history, self.current.saved
        here = self.current
        self._take(turned, lambda: self.held.remove(here))

    def drawings_apart(self) -> None:
        """Make a job of each drawing on the page, beside the job in hand."""
        if self.current is None:
            return
        job = self.current.now
        for number, (first, last) in enumerate(self.drawings, 1):
            rows = (*job.recipe.prepare, Crop(first=first, last=last))
            recipe = msgspec.structs.replace(job.recipe, prepare=rows)
            self.held.append(Held(msgspec.structs.replace(job, name=f"{job.name} {number}", recipe=recipe), None))
        self.job_changed.emit()

    def _take(self, held: Held, then: Callable[[], None] = lambda: None) -> None:
        def done(opened: Opened) -> None:
            then()
            self._opened(opened, [held], [])

        self.runner.submit(lambda progress: open_held(held, self._pipeline, progress), done)

    def _opened(self, opened: Opened, found: Sequence[Held], troubles: Sequence[str]) -> None:
        self.held += [held for held in found if held not in self.held]
        self.current = opened.held
        self.picture, self.shown = opened.picture, opened.shown
        self.measures, self.drawings = opened.measures, opened.drawings
        self._gesture = None
        self.sent = ""
        self.result, self._result_recipe = opened.result, opened.held.history.recipe
        self.job_changed.emit()
        self.recipe_changed.emit()
        self.result_ready.emit()
        notes = [note for note in (opened.picture.note, *troubles) if note]
        if notes:
            self.said.emit(" ".join(notes))

    def change(self, name: str, stage: str, gesture: int | None = None, **changes: Any) -> None:
        """Make a change of one stage's settings, named for undo.

        While a gesture goes on, only fast previews run; `rest` asks for the
        full result.
        """
        if self.job is None or not self._history.push(name, self.recipe.with_(stage, **changes), gesture):
            return
        self._gesture = gesture
        self._changed()

    def change_rows(self, name: str, rows: tuple[Row, ...], gesture: int | None = None) -> None:
        """Change the rows of Prepare."""
        recipe = msgspec.structs.replace(self.recipe, prepare=rows)
        if self.job is not None and self._history.push(name, recipe, gesture):
            self._gesture = gesture
            self._changed()

    def rest(self) -> None:
        """End a gesture: the full result is wanted now."""
        if self._gesture is not None:
            self._gesture = None
            self._run()

    def undo(self) -> None:
        """Take the last change back."""
        if self._history.undo():
            self._gesture = None
            self._changed()

    def redo(self) -> None:
        """Make it again."""
        if self._history.redo():
            self._gesture = None
            self._changed()

    def cancel(self) -> None:
        """Call off the work in hand."""
        self.runner.cancel()

    def _changed(self) -> None:
        self.recipe_changed.emit()
        self._run()

    def _run(self) -> None:
        held, picture = self.current, self.picture
        if picture is None or held is None:
            return
        job, recipe, before, found = held.now, self.recipe, self.result, self.drawings
        if self._gesture is None or picture.width * picture.height < PREVIEW_FROM:

            def work(progress: Progress) -> tuple[Result, Drawings]:
                result = self._pipeline.run(picture, recipe, progress)
                same = before is not None and result.prepared.picture is before.prepared.picture
                return result, found if same else drawings_of(result, job)

            def done(value: tuple[Result, Drawings]) -> None:
                if picture is self.picture:
                    self.drawings = value[1]
                self._show(picture, value[0], recipe)

            self.runner.submit(work, done)
            return
        self.runner.submit(
            lambda progress: self._pipeline.run(picture, recipe, progress, preview=True),
            lambda result: self._show(picture, result, recipe),
            keep=True,
        )

    def _show(self, picture: Picture, result: Result, recipe: Recipe) -> None:
        if picture is not self.picture:  # of a job that was left
            return
        self.result, self._result_recipe = result, recipe
        self.result_ready.emit()

    def save_print(self, path: Path, dpi: float) -> None:
        """Write the prepared picture as PNG at some dots an inch, and beside it the line to cut round it."""
        picture, recipe = self.picture, self.recipe
        if picture is None:
            return

        def work(progress: Progress) -> list[str]:
            result = self._pipeline.run(picture, recipe, progress)
            prepared = result.prepared.picture
            width_mm = prepared.width / result.finished.px_per_mm
            both = print_and_cut(prepared, width_mm, dpi, self._pipeline, progress)
            cut = path.with_name(f"{path.stem}-cut.svg")
            write_all({path: both.png, cut: both.svg.encode()})
            return [path.name, cut.name]

        self.runner.submit(
            work, lambda names: self.said.emit(f"Saved {names[0]} to print and {names[1]} to cut in {path.parent}.")
        )

    def send(self, path: Path, each: bool) -> None:
        """Write the layers as SVG, all in one file, or one file a layer beside it."""
        picture, recipe = self.picture, self.recipe
        if picture is None:
            return

        def work(progress: Progress) -> list[str]:
            result = self._pipeline.run(picture, recipe, progress)
            progress("send", 0.0)
            stack = result.stack
            files: dict[Path, bytes] = {}
            if each:
                for layer, (ending, text) in zip((*stack.layers, *stack.strokes), layer_files(stack), strict=True):
                    check_svg(text, stack, (layer,))
                    files[path.with_name(f"{path.stem}-{ending}.svg")] = text.encode()
            else:
                text = svg_text(stack)
                check_svg(text, stack)
                files[path] = text.encode()
            write_all(files)
            return [file.name for file in files]

        def done(names: list[str]) -> None:
            what = names[0] if len(names) == 1 else f"{len(names)} files"
            self.sent = f"{what} in {path.parent}"
            self.said.emit(f"Saved {what} in {path.parent}.")
            self.result_ready.emit()

        self.runner.submit(work, done, keep=True)

    def save(self, path: Path) -> None:
        """Write the job file."""
        picture, held = self.picture, self.current
        if picture is None or held is None:
            return
        job, recipe = held.now, self.recipe

        def work(progress: Progress) -> None:
            result = self._pipeline.run(picture, recipe, progress)
            progress("send", 0.0)
            preview = io.BytesIO()
            Image.fromarray(coloured(result.regions, 300_000)).save(preview, "PNG")
            write_job(path, job, svg_text(result.stack), preview.getvalue())

        def done(_: None) -> None:
            held.path, held.saved = path, job
            self.said.emit(f"Saved the job as {path.name} in {path.parent}.")
            self.job_changed.emit()

        self.runner.submit(work, done, keep=True)

    def _on_failed(self, stage: str, sentence: str, details: str) -> None:
        self.failed.emit(STEP_OF_STAGE.get(stage, "source"), sentence, details)

    def close(self) -> None:
        """End the threads."""
        self.side.close()
        self.runner.close()
