"""A glance at a file that was opened before: a small picture, its size, and when it was changed."""

from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

from sketchloom.core.arrays import Bytes
from sketchloom.core.errors import SketchLoomError
from sketchloom.core.job.jobfile import preview_in, read_job
from sketchloom.core.picture import load_picture, reduce_picture

__all__ = ["Glance", "glance"]

_SMALL_PIXELS = 96 * 96
_LARGEST = 30_000_000
"""Bytes of a file that is looked into; a larger one is only named."""


class Glance(NamedTuple):
    """What is seen of a file at a glance."""

    there: bool
    at: float
    """When it was changed last, s since 1970; 0 where it is not there."""
    rgba: Bytes | None
    """(H, W, 4), at most 96 by 96 px in all; None where it cannot be drawn, or not soon."""
    pixels: tuple[int, int] | None
    """Of its picture."""
    width: float | None
    """Finished, mm, of a job that tells it."""


def glance(path: Path) -> Glance:
    """Look at a picture or a job; what cannot be seen is None, and nothing is raised."""
    try:
        stat = path.stat()
        if not path.is_file():
            return Glance(False, 0.0, None, None, None)
    except (OSError, ValueError):
        return Glance(False, 0.0, None, None, None)
    if stat.st_size > _LARGEST:
        return Glance(True, stat.st_mtime, None, None, None)
    rgba = pixels = width = None
    with suppress(SketchLoomError, MemoryError):
        if path.suffix.lower() == ".loom":
            job = read_job(path)
            width = job.recipe.finish.width
            shown = preview_in(path)
            of = (shown, "preview.png") if shown else (job.picture, job.picture_name, job.page, job.dpi)
            picture = load_picture(*of)
        else:
            picture = load_picture(path)
            pixels = picture.width, picture.height
        rgba = reduce_picture(picture, _SMALL_PIXELS)[0].rgba
    return Glance(True, stat.st_mtime, rgba, pixels, width)
