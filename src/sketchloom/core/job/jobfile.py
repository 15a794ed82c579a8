"""The job file: a recipe with the picture it is for."""

import io
import zipfile
import zlib
from pathlib import Path, PurePosixPath
from typing import TypeVar

import msgspec

from sketchloom.core.errors import JobError
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.picture import DPI
from sketchloom.core.send import write_whole

__all__ = ["Job", "decode_recipe", "encode_recipe", "read_job", "read_recipe", "write_job"]

VERSION = 1
_DATE = (1980, 1, 1, 0, 0, 0)
_MOST_BYTES = 2_000_000_000


class Job(msgspec.Struct, frozen=True):
    """A picture's file, unchanged, and what is done to it."""

    name: str
    picture_name: str
    picture: bytes
    recipe: Recipe = Recipe()
    page: int = 1
    dpi: float = DPI
    """At which a page of a PDF is drawn."""


class _JobJson(msgspec.Struct):
    version: int
    name: str
    picture: str
    recipe: Recipe
    page: int = 1
    dpi: float = DPI


class _RecipeJson(msgspec.Struct):
    version: int
    recipe: Recipe


def encode_recipe(recipe: Recipe) -> bytes:
    """Write a recipe as JSON."""
    return msgspec.json.format(msgspec.json.encode({"version": VERSION, "recipe": recipe}), indent=2) + b"\n"


def decode_recipe(data: bytes, name: str) -> Recipe:
    """Read a recipe from JSON; raises JobError."""
    return _decode(data, _RecipeJson, name).recipe.check()


J = TypeVar("J", _JobJson, _RecipeJson)


def _decode(data: bytes, kind: type[J], name: str) -> J:
    try:
        value = msgspec.json.decode(data, type=kind)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise JobError(f"{name} holds no recipe this program can read ({error}).") from None
    if value.version > VERSION:
        raise JobError(f"{name} was written by a newer Sketch Loom; open it with that.")
    return value


def write_job(path: Path, job: Job, layers_svg: str, preview_png: bytes) -> None:
    """Write a job file, whole or not at all; the same job gives the same bytes.

    Raises
    ------
    WriteError
    """
    picture = f"pictures/{PurePosixPath(job.picture_name.replace(chr(92), '/')).name or 'picture'}"
    head = _JobJson(VERSION, job.name, picture, job.recipe, job.page, job.dpi)
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for name, data, method in (
            ("job.json", msgspec.json.format(msgspec.json.encode(head), indent=2), zipfile.ZIP_DEFLATED),
            (picture, job.picture, zipfile.ZIP_STORED),
            ("preview.png", preview_png, zipfile.ZIP_STORED),
            ("layers.svg", layers_svg.encode(), zipfile.ZIP_DEFLATED),
        ):
            entry = zipfile.ZipInfo(name, _DATE)
            entry.compress_type = method
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, data)
    write_whole(path, buffer.getvalue())


def read_job(path: Path) -> Job:
    """Read a job file.

    Raises
    ------
    JobError
        If it is no job file, or damaged, in one sentence.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            if sum(entry.file_size for entry in archive.infolist()) > _MOST_BYTES:
                raise JobError(f"{path.name} unpacks to more than 2 GB, which no job of this program does.")
            head = _decode(archive.read("job.json"), _JobJson, path.name)
            picture = archive.read(head.picture)
    except FileNotFoundError:
        raise JobError(f"{path.name} is not there; check the name and the folder.") from None
    except OSError as error:
        raise JobError(f"{path.name} cannot be read: {error.strerror or error}.") from None
    except (zipfile.BadZipFile, KeyError, EOFError, NotImplementedError, RuntimeError, zlib.error):
        raise JobError(f"{path.name} is not a Sketch Loom job, or it is damaged.") from None
    return Job(head.name, PurePosixPath(head.picture).name, picture, head.recipe.check(), head.page, head.dpi)


def read_recipe(path: Path) -> Recipe:
    """Take the recipe of a job file or of a JSON file; raises JobError."""
    if path.suffix.lower() == ".loom":
        return read_job(path).recipe
    try:
        data = path.read_bytes()
    except OSError as error:
        raise JobError(f"{path.name} cannot be read: {(error.strerror or str(error)).lower()}.") from None
    return decode_recipe(data, path.name)
