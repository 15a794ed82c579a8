"""`sketch-loom prepare`: a picture put right and saved as PNG."""

from pathlib import Path
from typing import Any

import click

from sketchloom.cli.prepared import PREPARE_FLAGS, check_placed, open_page, prepare_options, rows_of
from sketchloom.core.errors import ArgumentError
from sketchloom.core.job import Pipeline, print_and_cut, read_recipe
from sketchloom.core.picture import prepare
from sketchloom.core.send import png_bytes, write_all
from sketchloom.core.units import MM_PER_INCH, parse_length

__all__ = ["prepare_command"]

_FILE = click.Path(path_type=Path)


@click.command("prepare")
@click.argument("picture", type=_FILE)
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
@click.option("--recipe", type=_FILE, metavar="JOB.loom|FILE.json", help="Do the rows of a job first.")
@prepare_options
def prepare_command(
    picture: Path,
    out: Path,
    dpi: float,
    width: str | None,
    cut: Path | None,
    recipe: Path | None,
    page_number: int,
    **flags: Any,
) -> None:
    """Put PICTURE right and save it, clear where the ground was cleared."""
    targets = [out.resolve(), *([cut.resolve()] if cut else [])]
    if picture.resolve() in targets or len(set(targets)) < len(targets):
        raise ArgumentError("The picture is never written over; give each file a name of its own.")
    width_mm = parse_length(width) if width else None
    opened = open_page(picture, page_number, dpi)
    px_per_mm = opened.width / width_mm if width_mm else dpi / MM_PER_INCH
    rows = (*(read_recipe(recipe).prepare if recipe else ()), *rows_of(opened, px_per_mm, **_only(flags)))
    done = prepare(opened, rows)
    check_placed(picture.name, rows, done)
    files = {}
    if width_mm or cut:
        both = print_and_cut(done.picture, width_mm or done.picture.width / dpi * MM_PER_INCH, dpi, Pipeline(0))
        files[out] = both.png
        if cut:
            files[cut] = both.svg.encode()
    else:
        files[out] = png_bytes(done.picture.rgba, dpi)
    write_all(files)


def _only(flags: dict[str, Any]) -> dict[str, Any]:
    return {name: flags[name] for name in PREPARE_FLAGS}
