"""One recipe over many pictures: what is done with each, and under which names it is written."""

import csv
import io
import os
import time
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import NamedTuple

from sketchloom.core.errors import PictureError, SketchLoomError
from sketchloom.core.inspect import readiness
from sketchloom.core.job.pipeline import Pipeline
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.sending import SendSettings, writer_of
from sketchloom.core.opening import read_plain
from sketchloom.core.picture import load_picture
from sketchloom.core.send import make_folder, page_of_layers, write_all, written

__all__ = [
    "ENDINGS", "BatchSettings", "Made", "Row", "Task", "csv_of_rows", "do_task", "finished", "is_done", "make",
    "rows_kept", "tasks_of",
]  # fmt: skip

ENDINGS = (".png", ".jpg", ".jpeg", ".webp", ".heic", ".heif", ".tif", ".tiff", ".bmp", ".gif", ".pdf")
"""By which a file in a folder is taken for a picture."""
_MOST_CAUSES = 200


class BatchSettings(NamedTuple):
    """What is done with each picture."""

    recipe: Recipe
    formats: tuple[str, ...] = ("svg",)
    check: bool = False
    recipe_at: float = 0.0
    """When the recipe was changed last, s since 1970."""


class Task(NamedTuple):
    """A picture, and the files that it becomes."""

    picture: Path
    told: str
    """As it is told: from where it was found."""
    targets: tuple[Path, ...]


class Row(NamedTuple):
    """What became of a picture."""

    picture: str
    result: str
    """``done``, ``not ready`` (something spoils the cut), ``kept`` (it was done before) or ``failed``."""
    pieces: int | None = None
    findings: int | None = None
    seconds: float = 0.0
    files: tuple[str, ...] = ()
    sentence: str = ""


def tasks_of(sources: Sequence[Path], out: Path, formats: Sequence[str]) -> list[Task]:
    """List what is to be done, in the order in which it was named; in folders by name.

    A folder is gone through with all below it, which is mirrored in `out`;
    links to folders are not followed. Two pictures that would be written
    under one name keep their ending in it, and then get a number.

    Parameters
    ----------
    sources : sequence of Path
        Files, whatever they are called, and folders, of which files that look like pictures by their name.
    out : Path
    formats : sequence of str
    """
    found = list(_found(sources))
    stems: dict[str, int] = {}
    for place, _ in found:
        key = str(place.with_suffix("")).casefold()
        stems[key] = stems.get(key, 0) + 1
    places = Counter(place for place, _ in found)
    taken: set[str] = set()
    tasks = []
    for place, path in found:
        alone = stems[str(place.with_suffix("")).casefold()] == 1
        name = stem = str(place.with_suffix("")) if alone else str(place)
        number = 1
        while name.casefold() in taken:
            number += 1
            name = f"{stem}--{number}"
        taken.add(name.casefold())
        told = str(place if places[place] == 1 else path)  # of two folders with one name in both
        tasks.append(Task(path, told, tuple(out / f"{name}.{form}" for form in formats)))
    return tasks


def _found(sources: Sequence[Path]) -> Iterable[tuple[Path, Path]]:
    """Pictures, each with its place below what was named."""
    for source in sources:
        if not source.is_dir():
            yield Path(source.name or "picture"), source
            continue
        for folder, below, names in os.walk(source):
            below.sort()
            for name in sorted(names):
                if Path(name).suffix.lower() in ENDINGS:
                    path = Path(folder) / name
                    yield path.relative_to(source), path


def is_done(task: Task, settings: BatchSettings) -> bool:
    """Whether all its files are there and none is older than its picture or the recipe."""
    try:
        newest = max(task.picture.stat().st_mtime, settings.recipe_at)
        return bool(task.targets) and all(target.stat().st_mtime >= newest for target in task.targets)
    except (OSError, ValueError):
        return False


def rows_kept(tasks: Sequence[Task], settings: BatchSettings, out: Path) -> tuple[list[Row], list[Task]]:
    """Rows of what was done before, and what is left to do."""
    kept = [task for task in tasks if is_done(task, settings)]
    rows = [Row(task.told, "kept", files=tuple(str(path.relative_to(out)) for path in task.targets)) for task in kept]
    return rows, [task for task in tasks if task not in kept]


class Made(NamedTuple):
    """What a picture became, before any of it is written."""

    result: str
    sentence: str = ""
    pieces: int | None = None
    findings: int | None = None
    files: tuple[bytes, ...] = ()
    """In the order of the formats."""


def make(read: Callable[[], bytes], name: str, settings: BatchSettings) -> Made:
    """Make the files of a picture; whatever happens there is told, nothing is raised.

    Parameters
    ----------
    read : callable
        Gives the bytes of its file; may raise SketchLoomError.
    name : str
        Of its file.
    settings : BatchSettings
    """
    try:
        return _made(read, name, settings)
    except SketchLoomError as error:
        return Made("failed", str(error))
    except MemoryError:
        return Made("failed", "This needs more memory than a picture of a batch gets; take it by itself.")
    except Exception as error:  # a hundred others wait: what happened stands in the row
        cause = " ".join(f"{type(error).__name__}: {error}".split())[:_MOST_CAUSES]
        return Made("failed", f"Something went wrong with it ({cause}); please report it.")


def _made(read: Callable[[], bytes], name: str, settings: BatchSettings) -> Made:
    picture = load_picture(read(), name)
    names = ("palette", "mended", *(("checked",) if settings.check else ()))
    result = Pipeline(0).run(picture, settings.recipe, names=names)
    page = page_of_layers(result.stack.cuts, None, Path(name).stem)
    send = SendSettings(settings.formats)
    files = tuple(written(writer_of(form, send), page) for form in settings.formats)
    pieces = sum(layer.pieces for layer in result.stack.sent)
    if not settings.check:
        return Made("done", "", pieces, None, files)
    checked = result.checked
    told = "done" if checked.ready else "not ready"
    return Made(told, readiness(checked.open), pieces, len(checked.open), files)


def finished(task: Task, made: Made, out: Path, begun: float) -> Row:
    """Write what was made, all of it or none, and give the row; `begun` by `time.perf_counter`."""
    if made.result != "failed":
        try:
            for folder in {target.parent for target in task.targets}:
                make_folder(folder)
            write_all(dict(zip(task.targets, made.files, strict=True)))
        except SketchLoomError as error:
            made = Made("failed", str(error))
    files = tuple(str(target.relative_to(out)) for target in task.targets) if made.result != "failed" else ()
    seconds = time.perf_counter() - begun
    return Row(task.told, made.result, made.pieces, made.findings, seconds, files, made.sentence)


def do_task(task: Task, settings: BatchSettings, out: Path) -> Row:
    """Do one; whatever happens there is a row, and all of its files or none.

    Parameters
    ----------
    task : Task
    settings : BatchSettings
    out : Path
        Against which files are told.
    """
    begun = time.perf_counter()
    made = make(lambda: read_plain(task.picture, PictureError), task.picture.name, settings)
    return finished(task, made, out, begun)


def csv_of_rows(rows: Sequence[Row]) -> bytes:
    """Write rows as CSV with a head, in UTF-8."""
    buffer = io.StringIO(newline="")
    table = csv.writer(buffer)
    table.writerow(Row._fields)
    for row in rows:
        pieces, findings = ("" if number is None else number for number in (row.pieces, row.findings))
        table.writerow(
            [row.picture, row.result, pieces, findings, f"{row.seconds:.2f}", ";".join(row.files), row.sentence]
        )
    return buffer.getvalue().encode("utf-8", "replace")
