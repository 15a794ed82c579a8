"""Jobs that are open: the one in hand and those laid aside."""

import time
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import NamedTuple

import msgspec

from sketchloom.app.runner import Progress
from sketchloom.core.errors import PictureError, SketchLoomError
from sketchloom.core.job import (
    History,
    Job,
    Pipeline,
    Recipe,
    Result,
    are_layers,
    job_of_layers,
    measure_opened,
    read_job,
)
from sketchloom.core.opening import read_plain
from sketchloom.core.picture import Crop, Picture, Point, find_drawings, load_picture, reduce_picture
from sketchloom.core.survey import SourceMeasures

__all__ = ["PREVIEW_FROM", "SHOWN_PIXELS", "Held", "Opened", "drawings_of", "open_held", "read_held", "title_of"]

SHOWN_PIXELS = 12_000_000
PREVIEW_FROM = 500_000

_UNTOUCHED = Recipe()

Drawings = tuple[tuple[Point, Point], ...]


@dataclass(eq=False)
class Held:
    """A job that is open, with its history.

    Attributes
    ----------
    job : Job
        As it was opened or saved.
    path : Path or None
        Of the job file.
    source : Path or None
        The file that was opened: a picture, or a job.
    fresh : bool
        Whether it is on no disk at all, such as a pasted picture.
    """

    job: Job
    path: Path | None
    source: Path | None = None
    fresh: bool = False
    history: History = field(init=False)
    saved: Job | None = field(init=False)
    since: float = field(init=False)
    """When its recipe was changed last, s since 1970; of a job file, when that was."""

    def __post_init__(self) -> None:
        self.since = time.time()
        if self.path is not None and not self.fresh:
            with suppress(OSError):
                self.since = self.path.stat().st_mtime
        self.history = History(self.job.recipe, self.job.versions)
        self.saved = None if self.fresh else self.job

    @property
    def now(self) -> Job:
        """The job with the recipe in force, and the versions that are kept."""
        return msgspec.structs.replace(self.job, recipe=self.history.recipe, versions=self.history.versions)

    @property
    def dirty(self) -> bool:
        """Whether there is work in it that no job file holds."""
        return self.now != self.saved


class Opened(NamedTuple):
    """A job with its picture and first result."""

    held: Held
    picture: Picture
    shown: Picture
    result: Result
    measures: SourceMeasures
    drawings: Drawings


def title_of(stem: str) -> str:
    """Make a job's name of a file's."""
    words = " ".join(stem.replace("_", " ").replace("-", " ").split())
    return words[:1].upper() + words[1:] or "Picture"


def read_held(paths: Sequence[Path], progress: Progress, begin: Recipe = _UNTOUCHED) -> tuple[list[Held], list[str]]:
    """Read pictures and jobs; those that cannot be read give a sentence each instead.

    Drawings of one size on clear ground are layers of one job. `begin` is what is done to a picture at first.

    Raises
    ------
    SketchLoomError
        If none can be read.
    """
    found: list[Held] = []
    troubles: list[str] = []
    seen: list[tuple[str, Picture]] = []  # of drawings on clear ground
    for place, path in enumerate(paths):
        progress("open", place / len(paths))
        try:
            if path.suffix.lower() == ".loom":
                found.append(Held(read_job(path), path, path))
            else:
                if len(paths) > 1:  # a single one is read when it is shown
                    picture = load_picture(path)
                    if not picture.opaque:
                        seen.append((title_of(path.stem), picture))
                found.append(
                    Held(Job(title_of(path.stem), path.name, read_plain(path, PictureError), begin), None, path)
                )
        except SketchLoomError as error:
            if len(paths) == 1:
                raise
            troubles.append(str(error))
    if not found:
        raise SketchLoomError(troubles[0])
    if len(seen) == len(paths) and are_layers([picture for _, picture in seen]):
        name = title_of(paths[0].parent.name or "Layers")
        laid = job_of_layers(name, seen)
        notes = [f"Laid together as {len(seen)} layers, the first at the bottom.", laid.note]
        return [Held(laid.job, None, paths[0], fresh=True)], [note for note in notes if note]
    return found, troubles


def open_held(held: Held, pipeline: Pipeline, progress: Progress) -> Opened:
    """Load a job's picture, run its recipe as far as it goes, and look at the picture.

    Raises
    ------
    SketchLoomError, Cancelled
    """
    job = held.now
    progress("open", 0.0)
    picture = load_picture(job.picture, job.picture_name, job.page, job.dpi)
    progress("open", 0.5)
    shown, _ = reduce_picture(picture, SHOWN_PIXELS)
    measures = measure_opened(picture, pipeline, progress)
    result = pipeline.results(picture, job.recipe, progress)
    if picture.width * picture.height >= PREVIEW_FROM:  # so that the first drag is as quick as the next
        pipeline.results(picture, job.recipe, progress, preview=True)
    return Opened(held, picture, shown, result, measures, drawings_of(result, job))


def drawings_of(result: Result, job: Job) -> Drawings:
    """Find the drawings on a page as it lies prepared; none once one is taken."""
    if any(isinstance(row, Crop) and row.on for row in job.recipe.prepare) or not result.has("prepare"):
        return ()
    return find_drawings(result.prepared.picture)
