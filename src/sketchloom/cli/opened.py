"""What a command is given to work on: a picture, or a job that brings picture and recipe."""

from pathlib import Path
from typing import NamedTuple

from sketchloom.core.errors import ArgumentError, PictureError
from sketchloom.core.job import Recipe, read_job
from sketchloom.core.opening import read_plain
from sketchloom.core.picture import DPI, Picture, load_picture

__all__ = ["Opened", "check_names", "open_source"]


class Opened(NamedTuple):
    """A picture, and the recipe it comes with."""

    picture: Picture
    recipe: Recipe
    name: str  # of the job
    file_name: str  # of the picture's file
    data: bytes  # of the picture's file
    page: int
    dpi: float


def open_source(path: Path, page: int | None, dpi: float | None) -> Opened:
    """Open a picture or a job.

    Parameters
    ----------
    path : Path
        Of a picture, or of a .loom job.
    page : int, optional
        Of a PDF; None takes a job's own, or the first.
    dpi : float, optional
        At which a page is drawn; None takes a job's own, or `DPI`.

    Raises
    ------
    PictureError, JobError
    """
    if path.suffix.lower() == ".loom":
        job = read_job(path)
        page, dpi = page or job.page, dpi or job.dpi
        picture = load_picture(job.picture, job.picture_name, page, dpi)
        return Opened(picture, job.recipe, job.name, job.picture_name, job.picture, page, dpi)
    page, dpi = page or 1, dpi or DPI
    data = read_plain(path, PictureError)
    picture = load_picture(data, path.name, page, dpi)
    name = path.name.encode("utf-8", "replace").decode()
    return Opened(picture, Recipe(), _title(name), name, data, page, dpi)


def _title(name: str) -> str:
    stem = "".join(letter for letter in Path(name).stem if letter.isprintable())
    return " ".join(stem.replace("_", " ").replace("-", " ").split()) or "Picture"


def check_names(read: list[Path], written: list[Path]) -> None:
    """Refuse to write over what is read, or twice to one file; raises ArgumentError."""
    try:
        sources, targets = {path.resolve() for path in read}, [path.resolve() for path in written]
    except (ValueError, OSError, RuntimeError):  # the last for links that lead in a circle
        raise ArgumentError("There is no file of such a name; check it.") from None
    if sources & {*targets}:
        raise ArgumentError("What is opened is never written over; give each file a name of its own.")
    if len({*targets}) < len(targets):
        raise ArgumentError("Two files would be one; give each a name of its own.")
