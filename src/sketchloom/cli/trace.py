"""`sketch-loom trace`: one picture or job in, layered files out."""

import json
from pathlib import Path
from typing import Any

import click

from sketchloom.cli.opened import Opened, check_names, open_source
from sketchloom.cli.prepare_flags import check_placed, prepare_options
from sketchloom.cli.settings_flags import check_road, settings_options
from sketchloom.cli.settings_for import settings_for
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import (
    Job,
    Pipeline,
    Recipe,
    Result,
    are_layers,
    encode_recipe,
    job_bytes,
    job_of_layers,
    preview_of,
    report_of,
)
from sketchloom.core.paper import assembly_file
from sketchloom.core.picture import DPI, load_picture
from sketchloom.core.send import (
    SVG,
    WRITERS,
    files_of,
    page_of_layers,
    settle_all,
    write_all,
)

__all__ = ["trace"]

_FILE = click.Path(path_type=Path)


@click.command()
@click.argument("pictures", type=_FILE, nargs=-1, required=True, metavar="PICTURE...|JOB.loom")
@click.option("-o", "--out", type=_FILE, help=f"File to write; its ending says the format: {', '.join(WRITERS)}.")
@settings_options
@click.option("--each", is_flag=True, help="Also write one file a layer, beside OUT.")
@click.option("--assembly", type=_FILE, metavar="FILE.svg|FILE.png", help="Draw the layers lifted apart, numbered.")
@click.option("--report", type=_FILE, metavar="FILE.json", help="Write the figures here.")
@click.option(
    "--recipe",
    type=_FILE,
    metavar="JOB.loom|FILE.json",
    help="Take the recipe of a job; options given here go before it.",
)
@click.option(
    "--save-job", type=_FILE, metavar="JOB.loom", help="Save picture and settings as a job; OUT can be left out."
)
@click.option("--save-recipe", type=_FILE, metavar="FILE.json", help="Save the settings; OUT can be left out.")
@click.option("--dpi", type=click.FloatRange(1, 10_000), help="At which a PDF is drawn. [default: 300]")
@prepare_options
def trace(
    pictures: tuple[Path, ...],
    out: Path | None,
    recipe: Path | None,
    each: bool,
    assembly: Path | None,
    report: Path | None,
    save_job: Path | None,
    save_recipe: Path | None,
    dpi: float | None,
    page_number: int | None,
    **flags: Any,
) -> None:
    """Trace PICTURE (PNG, JPEG, WebP, HEIC, TIFF, BMP, GIF or PDF) to a layered SVG.

    A JOB.loom in its place brings picture and settings: options given here
    go before its own, and changes of Prepare come after its own. Several
    pictures of one size, each on clear ground, are taken as layers of one
    drawing, the first at the bottom.
    """
    settle_all()
    _check_targets(pictures, out, report, save_job, save_recipe, each, assembly)
    opened = _open(pictures, page_number, dpi)
    pipeline = Pipeline(cache_bytes=0)
    settings = settings_for(opened, recipe, flags, pipeline)
    names = ("kind", "palette", "choices", "mended", "order", "slip", "narrowest") if report else ("palette", "mended")
    result = pipeline.run(opened.picture, settings, names=names)
    check_placed(opened.file_name, settings.prepare, result.prepared)
    check_road(result, flags)
    _write(opened, settings, result, out, each, report, save_job, save_recipe, assembly)


def _check_targets(
    pictures: tuple[Path, ...],
    out: Path | None,
    report: Path | None,
    save_job: Path | None,
    save_recipe: Path | None,
    each: bool,
    assembly: Path | None,
) -> None:
    """Refuse names that cannot be meant; raises ArgumentError."""
    if not (out or save_job or save_recipe or report or assembly):
        raise ArgumentError("Nothing would be written: give -o OUT.svg, --save-job, --save-recipe or --report.")
    if each and not out:
        raise ArgumentError("--each writes its files beside OUT: give -o OUT.svg too.")
    if out and out.suffix.lower() not in WRITERS:
        raise ArgumentError(f"{out.name}: layers are written as {', '.join(WRITERS)}; let its name end so.")
    for path, ending in ((save_job, ".loom"), (save_recipe, ".json"), (report, ".json")):
        if path and path.suffix.lower() != ending:
            raise ArgumentError(f"{path.name}: let its name end with {ending}, so that it is found again.")
    if assembly and assembly.suffix.lower() not in (".svg", ".png"):
        raise ArgumentError(f"{assembly.name}: the assembly picture is written as .svg or .png; let its name end so.")
    check_names([*pictures], [path for path in (out, report, save_job, save_recipe, assembly) if path])


def _open(pictures: tuple[Path, ...], page: int | None, dpi: float | None) -> Opened:
    """Open one picture or job, or lay several pictures together; raises SketchLoomError."""
    if len(pictures) == 1:
        return open_source(pictures[0], page, dpi)
    if any(path.suffix.lower() == ".loom" for path in pictures):
        raise ArgumentError("A job is traced by itself; give one JOB.loom, or pictures.")
    opened = [load_picture(path, page=page or 1, dpi=dpi or DPI) for path in pictures]
    if not are_layers(opened):
        raise ArgumentError("Several pictures are traced together only if they are of one size, each on clear ground.")
    laid = job_of_layers("Layers", [(path.stem, picture) for path, picture in zip(pictures, opened, strict=True)])
    if laid.note:
        click.echo(laid.note, err=True)
    picture = load_picture(laid.job.picture, laid.job.picture_name)
    return Opened(picture, laid.job.recipe, laid.job.name, laid.job.picture_name, laid.job.picture, 1, DPI)


def _write(
    opened: Opened,
    settings: Recipe,
    result: Result,
    out: Path | None,
    each: bool,
    report: Path | None,
    save_job: Path | None,
    save_recipe: Path | None,
    assembly: Path | None,
) -> None:
    stack = result.stack
    files: dict[Path, bytes] = {}
    if out:
        writer = WRITERS[out.suffix.lower()]
        for apart in (False, True) if each else (False,):
            for name, data in files_of(writer, stack.cuts, apart).items():
                files[out.with_name(f"{out.stem}{name}{out.suffix}")] = data
    if assembly:
        files[assembly] = assembly_file(stack, settings.look.behind, assembly.suffix.lower())
    if report:
        files[report] = (json.dumps(report_of(result), indent=2, ensure_ascii=False) + "\n").encode()
    if save_recipe:
        files[save_recipe] = encode_recipe(settings)
    if save_job:
        job = Job(opened.name, opened.file_name, opened.data, settings, opened.page, opened.dpi)
        files[save_job] = job_bytes(job, SVG.write(page_of_layers(stack.cuts)), preview_of(result))
    write_all(files)
