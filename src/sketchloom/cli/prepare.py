"""`sketch-loom prepare`: a picture put right and saved as PNG."""

from pathlib import Path
from typing import Any

import click

from sketchloom.cli.opened import check_names, open_source
from sketchloom.cli.prepare_flags import PREPARE_FLAGS, check_placed, prepare_options, rows_of
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, PrintSettings, print_and_cut, read_recipe
from sketchloom.core.picture import prepare
from sketchloom.core.scale import check_size
from sketchloom.core.send import png_bytes, settle_all, write_all
from sketchloom.core.units import MM_PER_INCH, parse_length

__all__ = ["prepare_command"]

_FILE = click.Path(path_type=Path)


@click.command("prepare")
@click.argument("picture", type=_FILE, metavar="PICTURE|JOB.loom")
@click.option("-o", "--out", type=_FILE, required=True, help="PNG to write.")
@click.option(
    "--dpi",
    type=click.FloatRange(1, 10_000),
    default=300,
    show_default=True,
    help="Dots an inch of the PNG, and at which a PDF is drawn.",
)
@click.option("--width", metavar="LENGTH", help="Make the PNG this wide at --dpi. [default: pixels as they are]")
@click.option("--cut", type=_FILE, metavar="OUT.svg", help="Also write the line to cut round what is not clear.")
@click.option("--cut-offset", metavar="LENGTH", help="Of the cut line from the print; -1mm cuts inside. [default: 0]")
@click.option(
    "--marks",
    type=click.Choice(["none", "corners", "crosses", "holes"]),
    default="none",
    help="To register by, printed and in the file of the cut line. [default: none]",
)
@click.option("--recipe", type=_FILE, metavar="JOB.loom|FILE.json", help="Do the rows of a job first.")
@prepare_options
def prepare_command(
    picture: Path,
    out: Path,
    dpi: float,
    width: str | None,
    cut: Path | None,
    cut_offset: str | None,
    marks: Any,
    recipe: Path | None,
    page_number: int | None,
    **flags: Any,
) -> None:
    """Put PICTURE right and save it, clear where the ground was cleared.

    The rows of a job, or of --recipe, come first; those of the flags after them.
    """
    settle_all()
    check_names([picture], [out, *([cut] if cut else [])])
    for path, ending in ((out, ".png"), (cut, ".svg")):
        if path is not None and path.suffix.lower() != ending:
            raise ArgumentError(f"{path.name} would be a {ending[1:].upper()} file; let its name end with {ending}.")
    width_mm = check_size(parse_length(width)) if width else None
    opened = open_source(picture, page_number, dpi)
    before = read_recipe(recipe).prepare if recipe else opened.recipe.prepare
    px_per_mm = opened.picture.width / width_mm if width_mm else dpi / MM_PER_INCH
    rows = (*before, *rows_of(opened.picture, lambda: px_per_mm, **{name: flags[name] for name in PREPARE_FLAGS}))
    done = prepare(opened.picture, rows)
    check_placed(opened.file_name, rows, done)
    files = {}
    printing = PrintSettings(dpi, parse_length(cut_offset) if cut_offset else 0.0, marks)
    if width_mm or cut or printing != PrintSettings(dpi):
        both = print_and_cut(done.picture, width_mm or done.picture.width / dpi * MM_PER_INCH, printing, Pipeline(0))
        files[out] = both.png
        if cut:
            files[cut] = both.svg
    else:
        files[out] = png_bytes(done.picture.rgba, dpi)
    write_all(files)
