"""What is compared: a version, a job that is open, or a job of a file, worked out beside the window."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from PySide6.QtGui import QColor, QTransform

from sketchloom.app.canvas.shapes import Shapes, painter_paths
from sketchloom.app.held import Held
from sketchloom.app.job_model import JobModel
from sketchloom.app.runner import Progress, StageFailedError
from sketchloom.core.job import Job, JobFigures, Pipeline, figures_of_job, read_job
from sketchloom.core.picture import Picture, load_picture

__all__ = ["Choice", "Side", "choices", "file_choice", "worked_out"]


class Choice(NamedTuple):
    """Something that can be compared."""

    words: str
    key: str
    job: Callable[[], Job]
    """Gives it as it is now; may read a file, and then raises JobError."""
    picture: Callable[[], Picture | None]
    """Its picture where that is loaded."""
    go: Callable[[], object] | None
    """Goes on with it; None for what is in hand."""


@dataclass(frozen=True, eq=False)
class Side:
    """Something to compare, worked out.

    Attributes
    ----------
    size : (float, float)
        mm
    layers : list of (QColor, Shapes)
        Bottom first, mm.
    figures : JobFigures
    """

    size: tuple[float, float]
    layers: list[tuple[QColor, Shapes]]
    figures: JobFigures


def choices(model: JobModel) -> list[Choice]:
    """All that can be compared of what is open: the job in hand now, its versions, the other jobs."""
    here = model.current
    if here is None:
        return []
    loaded = lambda: model.picture if model.current is here else None  # noqa: E731
    out = [Choice(f"{here.job.name}, as it stands", "now", lambda: here.now, loaded, None)]
    for version in reversed(model.versions):
        name = version.name
        job, go = lambda name=name: _version(here, name), lambda name=name: model.take_version(name)
        out.append(Choice(f"Version “{name}”", f"version {name}", job, loaded, go))
    for held in model.held:
        if held is not here:
            job, go = lambda held=held: held.now, lambda held=held: model.take(held)
            out.append(Choice(held.job.name, f"job {id(held)}", job, lambda: None, go))
    return out


def file_choice(path: Path, model: JobModel) -> Choice:
    """A job of a file, which is read but not opened."""
    return Choice(path.name, f"file {path}", lambda: read_job(path), lambda: None, lambda: model.open(path))


def _version(held: Held, name: str) -> Job:
    now, version = held.now, held.history.version(name)
    return now if version is None else Job(now.name, now.picture_name, now.picture, version.recipe, now.page, now.dpi)


def worked_out(choice: Choice, names: tuple[str, ...], pipeline: Pipeline, progress: Progress) -> Side:
    """On a worker: work out what is compared, as far as some stages; raises SketchLoomError where it cannot be."""
    job, picture = choice.job(), choice.picture()
    if picture is None:
        picture = load_picture(job.picture, job.picture_name, job.page, job.dpi)
    result = pipeline.results(picture, job.recipe, progress, names=names)
    if result.failure is not None:
        raise StageFailedError(result.failure)
    figures, still = figures_of_job(result), QTransform()
    layers = [(QColor(layer.colour), painter_paths(layer.path, still)) for layer in result.stack.sent]
    return Side(result.stack.size, layers, figures)
