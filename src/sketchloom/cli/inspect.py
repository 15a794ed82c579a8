"""`sketch-loom inspect`: what a picture is good for."""

from pathlib import Path

import click
import msgspec

from sketchloom.cli.opened import check_names, open_source
from sketchloom.core.job import Pipeline, measure_opened
from sketchloom.core.scale import check_size
from sketchloom.core.send import settle_all, write_whole
from sketchloom.core.survey import report_at
from sketchloom.core.units import parse_length

__all__ = ["inspect_command"]

_FILE = click.Path(path_type=Path)


@click.command("inspect")
@click.argument("picture", type=_FILE, metavar="PICTURE|JOB.loom")
@click.option("--width", metavar="LENGTH", help="Finished width. [default: 96 px to the inch]")
@click.option("--page-number", type=click.IntRange(1), metavar="N", help="Page of a PDF. [default: 1]")
@click.option("--report", type=_FILE, metavar="FILE.json", help="Write the report here instead of printing it.")
def inspect_command(picture: Path, width: str | None, page_number: int | None, report: Path | None) -> None:
    """Say what PICTURE, or the picture of a job, is good for, as JSON."""
    settle_all()
    check_names([picture], [report] if report else [])
    opened = open_source(picture, page_number, None)
    width_mm = check_size(parse_length(width)) if width else opened.recipe.finish.width
    found = report_at(measure_opened(opened.picture, Pipeline(0)), width_mm)
    text = msgspec.json.format(msgspec.json.encode(found), indent=2) + b"\n"
    if report:
        write_whole(report, text)
        click.echo(found.verdict)
    else:
        click.echo(text.decode(), nl=False)
