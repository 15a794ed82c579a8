"""`sketch-loom inspect`: what a picture is good for."""

from pathlib import Path

import click
import msgspec

from sketchloom.core.inspect import inspect_source
from sketchloom.core.picture import load_picture
from sketchloom.core.send import write_whole
from sketchloom.core.units import parse_length

__all__ = ["inspect_command"]

_FILE = click.Path(path_type=Path)


@click.command("inspect")
@click.argument("picture", type=_FILE)
@click.option("--width", metavar="LENGTH", help="Finished width. [default: 96 px to the inch]")
@click.option("--page-number", type=click.IntRange(1), default=1, metavar="N", help="Page of a PDF. [default: 1]")
@click.option("--report", type=_FILE, metavar="FILE.json", help="Write the report here instead of printing it.")
def inspect_command(picture: Path, width: str | None, page_number: int, report: Path | None) -> None:
    """Say what PICTURE is good for, as JSON."""
    found = inspect_source(load_picture(picture, page=page_number), parse_length(width) if width else None)
    text = msgspec.json.format(msgspec.json.encode(found), indent=2) + b"\n"
    if report:
        write_whole(report, text)
        click.echo(found.verdict)
    else:
        click.echo(text.decode(), nl=False)
