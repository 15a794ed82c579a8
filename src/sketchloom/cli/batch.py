"""`sketch-loom batch`: one recipe over many pictures."""

from collections import Counter
from pathlib import Path

import click

from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import (
    FORMATS,
    BatchSettings,
    Recipe,
    Row,
    csv_of_rows,
    read_recipe,
    rows_kept,
    rows_of_batch,
    rows_on_cluster,
    tasks_of,
    usual_jobs,
)
from sketchloom.core.send import make_folder, settle_all, write_whole

__all__ = ["batch_command"]

_FILE = click.Path(path_type=Path)
_SOME_NOT = 1


@click.command("batch")
@click.argument("sources", type=_FILE, nargs=-1, required=True, metavar="PICTURES|FOLDERS...")
@click.option("-o", "--out", type=_FILE, required=True, metavar="FOLDER", help="Folder for the files.")
@click.option("--recipe", type=_FILE, metavar="JOB.loom|FILE.json", help="What is done with each. [default: as trace]")
@click.option("--formats", default="svg", metavar="LIST", help=f"Of {', '.join(FORMATS)}, with commas. [default: svg]")
@click.option("--check", is_flag=True, help="Also say whether each can be cut.")
@click.option("--jobs", type=click.IntRange(1, 256), metavar="N", help="Processes. [default: one a core]")
@click.option("--resume", is_flag=True, help="Only what is missing, or older than its picture or the recipe.")
@click.option("--scheduler", metavar="ADDRESS", help="Of a Dask scheduler whose workers do it; needs [cluster].")
@click.option("--report", type=_FILE, metavar="FILE.csv", help="Write a row a picture here.")
def batch_command(
    sources: tuple[Path, ...],
    out: Path,
    recipe: Path | None,
    formats: str,
    check: bool,
    jobs: int | None,
    resume: bool,
    scheduler: str | None,
    report: Path | None,
) -> int:
    """Do the same with PICTURES, and with all pictures in FOLDERS and below, each into one file of all its layers.

    Goes on after a picture that cannot be read. Ends with 0 if all was done,
    1 if some was not, 2 if nothing could start.
    """
    settle_all()
    if report and report.suffix.lower() != ".csv":
        raise ArgumentError(f"{report.name}: let its name end with .csv, so that it is found again.")
    asked = tuple(dict.fromkeys(word.strip().lower().removeprefix(".") for word in formats.split(",") if word.strip()))
    unknown = [form for form in asked if form not in FORMATS]
    if unknown or not asked:
        raise ArgumentError(f"“{(unknown or [''])[0][:20]}” is no format; there are {', '.join(FORMATS)}.")
    settings = BatchSettings(
        read_recipe(recipe) if recipe else Recipe(), asked, check, recipe.stat().st_mtime if recipe else 0.0
    )
    tasks = tasks_of(sources, out, asked)
    if not tasks:
        raise ArgumentError("There is no picture in what was named: no file whose name ends as one of a picture does.")
    inside = {path.resolve() for source in sources for path in [source] if path.is_dir()}
    if out.resolve() in inside:
        raise ArgumentError("Files would lie among the pictures; choose another folder to write to.")
    make_folder(out)
    rows, todo = rows_kept(tasks, settings, out) if resume else ([], tasks)
    jobs = min(jobs or usual_jobs(), len(todo) or 1)
    doing = rows_on_cluster(todo, settings, out, scheduler) if scheduler else rows_of_batch(todo, settings, out, jobs)
    told = click.get_text_stream("stderr")
    with click.progressbar(length=len(todo), label="Pictures", file=told, hidden=not told.isatty()) as bar:
        for row in doing:
            rows.append(row)
            click.echo(_line(row))
            bar.update(1)
    order = {task.told: number for number, task in enumerate(tasks)}
    rows.sort(key=lambda row: order[row.picture])
    if report:
        write_whole(report, csv_of_rows(rows))
    counts = Counter(row.result for row in rows)
    click.echo(", ".join(f"{many} {result}" for result, many in counts.items()) + ".")
    return _SOME_NOT if counts["failed"] or counts["not ready"] else 0


def _line(row: Row) -> str:
    pieces = "" if row.pieces is None else f", {row.pieces} piece{'s' * (row.pieces != 1)}"
    said = f": {row.sentence}" if row.sentence else ""
    line = f"{row.picture}: {row.result}{pieces}, {row.seconds:.1f} s{said}"
    return "".join(sign if sign.isprintable() else "?" for sign in line).encode("utf-8", "replace").decode()
