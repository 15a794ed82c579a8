"""The one object with state: the job, its history, and the newest results."""

import io
from pathlib import Path
from typing import Any, NamedTuple

import msgspec
from PIL import Image
from PySide6.QtCore import QObject, Signal

from sketchloom.app.runner import Progress, Runner
from sketchloom.core.inspect import SourceReport, inspect_source
from sketchloom.core.job import History, Job, Pipeline, Recipe, Result, read_job, write_job
from sketchloom.core.picture import Picture, Row, load_picture, reduce_picture
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
SHOWN_PIXELS = 12_000_000
_PREVIEW_FROM = 500_000


class _Opened(NamedTuple):
    job: Job
    path: Path | None
    picture: Picture
    shown: Picture
    result: Result
    report: SourceReport


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
        self._pipeline = Pipeline()
        self._history = History(Recipe())
        self._saved: Recipe | None = None
        self._gesture: int | None = None
        self.job: Job | None = None
        self.path: Path | None = None
        self.picture: Picture | None = None
        self.shown: Picture | None = None
        self.report: SourceReport | None = None
        self.result: Result | None = None
        self.sent: str = ""
        self._result_recipe: Recipe | None = None

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
        """Whether there is work that no job file holds."""
        return self.job is not None and self._saved != self.recipe

    @property
    def undo_name(self) -> str | None:
        """What undo takes back."""
        return self._history.undo_name

    @property
    def redo_name(self) -> str | None:
        """What redo does again."""
        return self._history.redo_name

    def open(self, path: Path) -> None:
        """Open a picture or a job; the job in hand stays until the new one is there."""

        def work(progress: Progress) -> _Opened:
            progress("open", 0.0)
            if path.suffix.lower() == ".loom":
                return self._load(read_job(path), path, progress)
            picture = load_picture(path)
            job = Job(_title(path.stem), path.name, path.read_bytes())
            return self._load(job, None, progress, picture)

        self.runner.submit(work, self._opened)

    def open_job(self, job: Job) -> None:
        """Open a job that ships with the program."""
        self.runner.submit(lambda progress: self._load(job, None, progress), self._opened)

    def _load(self, job: Job, path: Path | None, progress: Progress, picture: Picture | None = None) -> _Opened:
        picture = picture or load_picture(job.picture, job.picture_name)
        progress("open", 0.5)
        shown, _ = reduce_picture(picture, SHOWN_PIXELS)
        result = self._pipeline.run(picture, job.recipe, progress)
        if picture.width * picture.height >= _PREVIEW_FROM:  # so that the first drag is as quick as the next
            self._pipeline.run(picture, job.recipe, progress, preview=True)
        width = result.stack.size[0] * picture.width / (result.picture.width or 1)
        return _Opened(job, path, picture, shown, result, inspect_source(picture, width))

    def _opened(self, opened: _Opened) -> None:
        self.job, self.path, self.picture, self.shown = opened.job, opened.path, opened.picture, opened.shown
        self._history = History(opened.job.recipe)
        self._saved = opened.job.recipe
        self._gesture = None
        self.report = opened.report
        self.sent = ""
        self.result, self._result_recipe = opened.result, opened.job.recipe
        self.job_changed.emit()
        self.recipe_changed.emit()
        self.result_ready.emit()
        if opened.picture.note:
            self.said.emit(opened.picture.note)

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
        picture, recipe = self.picture, self.recipe
        if picture is None:
            return
        if self._gesture is None or picture.width * picture.height < _PREVIEW_FROM:
            self.runner.submit(
                lambda progress: self._pipeline.run(picture, recipe, progress),
                lambda result: self._show(picture, result, recipe),
            )
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
                for layer, (ending, text) in zip(stack.layers, layer_files(stack), strict=True):
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
        picture, recipe, job = self.picture, self.recipe, self.job
        if picture is None or job is None:
            return
        job = msgspec.structs.replace(job, recipe=recipe)

        def work(progress: Progress) -> None:
            result = self._pipeline.run(picture, recipe, progress)
            progress("send", 0.0)
            preview = io.BytesIO()
            Image.fromarray(coloured(result.regions, 300_000)).save(preview, "PNG")
            write_job(path, job, svg_text(result.stack), preview.getvalue())

        def done(_: None) -> None:
            self.path, self._saved = path, recipe
            self.said.emit(f"Saved the job as {path.name} in {path.parent}.")
            self.job_changed.emit()

        self.runner.submit(work, done, keep=True)

    def _on_failed(self, stage: str, sentence: str, details: str) -> None:
        self.failed.emit(STEP_OF_STAGE.get(stage, "source"), sentence, details)


def _title(stem: str) -> str:
    words = stem.replace("_", " ").replace("-", " ").split()
    return (" ".join(words)[:1].upper() + " ".join(words)[1:]) or "Picture"
