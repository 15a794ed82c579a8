"""`sketch-loom sheets`: one picture or job in, its layers laid on sheets out."""

import json
import math
from pathlib import Path
from typing import Any

import click

from sketchloom.cli.opened import check_names, open_source
from sketchloom.cli.prepare_flags import check_placed, prepare_options
from sketchloom.cli.settings_flags import check_road, settings_options
from sketchloom.cli.settings_for import settings_for
from sketchloom.cli.sheets_flags import sheets_options, with_sheets
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import (
    Job,
    Pipeline,
    guest_of,
    job_bytes,
    preview_of,
    sheet_names,
    sheet_report,
    work_of,
)
from sketchloom.core.send import (
    SVG,
    make_folder,
    names_of,
    page_of_layers,
    page_of_sheet,
    settle_all,
    write_all,
    written,
)
from sketchloom.core.sheets import Guest, Layout, Ready, SheetSettings, Tighter, Work, lay_out, tighter, why_not

__all__ = ["sheets_command"]

_FILE = click.Path(path_type=Path)


@click.command("sheets")
@click.argument("source", type=_FILE, metavar="PICTURE|JOB.loom")
@click.option("-o", "--out", type=_FILE, required=True, metavar="FOLDER", help="Folder for one SVG a sheet.")
@click.option("--tighter", "seconds", type=click.FloatRange(0.1, 36_000), metavar="SECONDS", help="Search on so long.")
@click.option(
    "--with",
    "others",
    type=_FILE,
    multiple=True,
    metavar="JOB.loom",
    help="Lay this job's work on the same sheets too, where stock and colour are the same; may be given again.",
)
@sheets_options
@click.option("--report", type=_FILE, metavar="FILE.json", help="Write here what lies where, and what it takes.")
@click.option(
    "--recipe", type=_FILE, metavar="JOB.loom|FILE.json", help="Take the recipe of a job; options go before it."
)
@click.option("--save-job", type=_FILE, metavar="JOB.loom", help="Save picture and settings as a job.")
@click.option("--dpi", type=click.FloatRange(1, 10_000), help="At which a PDF is drawn. [default: 300]")
@settings_options
@prepare_options
def sheets_command(
    source: Path,
    out: Path,
    others: tuple[Path, ...],
    report: Path | None,
    recipe: Path | None,
    save_job: Path | None,
    seconds: float | None,
    dpi: float | None,
    page_number: int | None,
    **flags: Any,
) -> None:
    """Lay the layers of PICTURE or JOB.loom on sheets: one SVG a sheet, to scale.

    Layers of one stock and one colour share sheets. Flags of trace set the
    layers; those given here go before a job's own.
    """
    settle_all()
    if seconds is not None and not math.isfinite(seconds):
        raise ArgumentError("A search goes on for 0.1 to 36000 seconds; type a number of them.")
    for path, ending in ((save_job, ".loom"), (report, ".json")):
        if path and path.suffix.lower() != ending:
            raise ArgumentError(f"{path.name}: let its name end with {ending}, so that it is found again.")
    check_names([source, *others], [path for path in (report, save_job) if path])
    opened = open_source(source, page_number, dpi)
    pipeline = Pipeline()
    settings = with_sheets(settings_for(opened, recipe, flags, pipeline), flags).check()
    result = pipeline.run(opened.picture, settings, names=("palette", "sheets"))
    check_placed(opened.file_name, settings.prepare, result.prepared)
    check_road(result, flags)
    work = work_of(result, [_guest(path, settings.sheets.ready, pipeline) for path in others])
    layout = lay_out(work, settings.sheets) if others else result.layout
    forbidden = why_not(layout, settings.sheets.cutter)
    if forbidden:
        raise ArgumentError(forbidden)
    if seconds is not None:
        found = tighter(work, settings.sheets, seconds)
        click.echo(_told(found), err=True)
        if found.gains:
            settings = settings.with_("sheets", placements=found.placements).check()
            layout = lay_out(work, settings.sheets)
    files = _sheet_files(work, layout, settings.sheets, out, report)
    if save_job:
        job = Job(opened.name, opened.file_name, opened.data, settings, opened.page, opened.dpi)
        files[save_job] = job_bytes(job, SVG.write(page_of_layers(result.stack.cuts)), preview_of(result))
    make_folder(out)
    write_all(files)


def _guest(path: Path, ready: Ready, pipeline: Pipeline) -> Guest:
    """Give the work of another job."""
    if path.suffix.lower() != ".loom":
        raise ArgumentError(f"{path.name}: work of other jobs is laid with it, and this is none; give a .loom file.")
    opened = open_source(path, None, None)
    return guest_of(
        opened.name, pipeline.run(opened.picture, opened.recipe.check(), names=("palette", "mended")), ready
    )


def _told(found: Tighter) -> str:
    if not found.gains:
        return f"No tighter layout was found in {found.tried} tries."
    gains = (
        f"{gain.group.name}: {gain.sheets} sheet{'s' * (gain.sheets > 1)} fewer" if gain.sheets
        else f"{gain.group.name}: {gain.length:.1f} mm less"
        for gain in found.gains
    )  # fmt: skip
    return f"Tighter after {found.tried} tries: {'; '.join(gains)}."


def _sheet_files(
    work: Work, layout: Layout, settings: SheetSettings, out: Path, report: Path | None
) -> dict[Path, bytes]:
    names, ids = sheet_names(layout), names_of(work.every)
    files = {
        out / f"{name}.svg": written(SVG, page_of_sheet(sheet, ids))
        for name, sheet in zip(names, layout.sheets, strict=True)
    }
    if report:
        told = sheet_report(layout, work, settings.cutter, {name: f"{name}.svg" for name in names})
        files[report] = (json.dumps(told, indent=2, ensure_ascii=False) + "\n").encode()
    return files
