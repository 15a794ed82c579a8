"""`sketch-loom prepare`: a picture put right and saved as PNG."""

import io
from pathlib import Path
from typing import Any

import click
from PIL import Image

from sketchloom.cli.prepared import prepare_options, rows_of
from sketchloom.core.errors import ArgumentError, PictureError
from sketchloom.core.picture import load_picture, prepare
from sketchloom.core.send import write_whole

__all__ = ["prepare_command"]

_FILE = click.Path(path_type=Path)


@click.command("prepare")
@click.argument("picture", type=_FILE)
@click.option("-o", "--out", type=_FILE, required=True, help="PNG to write.")
@click.option("--dpi", type=click.FloatRange(1, 10_000), default=300, show_default=True, help="Said in the PNG.")
@prepare_options
def prepare_command(picture: Path, out: Path, dpi: float, **flags: Any) -> None:
    """Put PICTURE right and save it, clear where the ground was cleared."""
    if picture.resolve() == out.resolve():
        raise ArgumentError("The picture is never written over; give the PNG a name of its own.")
    opened = load_picture(picture)
    rows = rows_of(opened, **flags)
    done = prepare(opened, rows)
    if done.unplaced:
        names = ", ".join(type(rows[i]).__name__ for i in done.unplaced)
        raise PictureError(f"{picture.name}: no place was found for {names}; give the corners or the box in pixels.")
    buffer = io.BytesIO()
    Image.fromarray(done.picture.rgba).save(buffer, "PNG", dpi=(dpi, dpi))
    write_whole(out, buffer.getvalue())
