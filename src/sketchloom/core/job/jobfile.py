"""The job file: a recipe with the picture it is for."""

import io
import lzma
import zipfile
import zlib
from pathlib import Path, PurePosixPath
from typing import Any, TypeVar

import msgspec

from sketchloom.core.errors import JobError
from sketchloom.core.job.earlier import brought_up
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.result import Result
from sketchloom.core.job.versions import Version, check_versions
from sketchloom.core.opening import open_plain, read_plain
from sketchloom.core.picture import DPI, LEAST_DPI, MOST_DPI
from sketchloom.core.regions import coloured
from sketchloom.core.send import png_bytes, write_whole

__all__ = [
    "VERSION", "Job", "decode_head", "decode_recipe", "encode_head", "encode_recipe", "job_bytes", "preview_in",
    "preview_of",    "read_job", "read_recipe", "write_job",
]  # fmt: skip

VERSION = 4
_DATE = (1980, 1, 1, 0, 0, 0)
_MOST_RECIPE = 64_000_000
_MOST_PICTURE = 1_000_000_000
"""Bytes that are read of a job's settings, and of its picture."""
_LARGE = 8_000_000
"""Bytes of settings that are no longer laid out for people to read."""
_FREE, _DENSEST = 64_000_000, 25
"""Bytes that any member may unpack to; beyond them, so many times what it takes in the file."""
_MOST_PREVIEW = 8_000_000
_PREVIEW_PIXELS = 300_000
_METHODS = {zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED}
_DAMAGE = (
    zipfile.BadZipFile, KeyError, EOFError, NotImplementedError, RuntimeError, zlib.error, lzma.LZMAError,
    UnicodeError, ValueError, OverflowError,
)  # fmt: skip


class Job(msgspec.Struct, frozen=True):
    """A picture's file, unchanged, and what is done to it."""

    name: str
    picture_name: str
    picture: bytes
    recipe: Recipe = Recipe()
    page: int = 1
    dpi: float = DPI
    """At which a page of a PDF is drawn."""
    versions: tuple[Version, ...] = ()


class _JobJson(msgspec.Struct):
    version: int
    name: str
    picture: str
    recipe: Recipe
    page: int = 1
    dpi: float = DPI
    versions: tuple[Version, ...] = ()


class _RecipeJson(msgspec.Struct):
    version: int
    recipe: Recipe


def encode_recipe(recipe: Recipe) -> bytes:
    """Write a recipe as JSON."""
    return msgspec.json.format(msgspec.json.encode({"version": VERSION, "recipe": recipe}), indent=2) + b"\n"


def decode_recipe(data: bytes, name: str) -> Recipe:
    """Read a recipe from JSON; raises JobError, or ArgumentError for a value that cannot be used."""
    return _decode(data, _RecipeJson, name).recipe.check()


def encode_head(job: Job) -> bytes:
    """Write all of a job but its picture as JSON."""
    return msgspec.json.encode(_head_of(job, job.picture_name))


def _head_of(job: Job, picture: str) -> _JobJson:
    return _JobJson(VERSION, job.name, picture, job.recipe, job.page, job.dpi, job.versions)


def decode_head(data: bytes, picture: bytes, name: str) -> Job:
    """Read a job whose picture lies elsewhere; raises JobError, or ArgumentError for a value that cannot be used."""
    return _job_of(_decode(data, _JobJson, name), picture, name)


J = TypeVar("J", _JobJson, _RecipeJson)


def _decode(data: bytes, kind: type[J], name: str) -> J:
    if len(data) > _MOST_RECIPE:
        raise JobError(f"{name} holds more than {_MOST_RECIPE // 1_000_000} MB of settings, which no recipe does.")
    try:
        raw: Any = msgspec.json.decode(data)
        version = raw.get("version") if isinstance(raw, dict) else None
        if isinstance(version, int) and version > VERSION:
            raise JobError(f"{name} was written by a newer Sketch Loom; open it with that.")
        return msgspec.convert(brought_up(raw), kind)
    except (msgspec.DecodeError, msgspec.ValidationError, UnicodeError) as error:
        raise JobError(f"{name} holds no recipe this program can read ({error}).") from None
    except (RecursionError, TypeError, ValueError, KeyError, AttributeError):
        raise JobError(f"{name} holds no recipe this program can read; it is damaged.") from None


def write_job(path: Path, job: Job, layers_svg: bytes | None = None, preview_png: bytes | None = None) -> None:
    """Write a job file, whole or not at all; see `job_bytes`.

    Raises
    ------
    WriteError
    """
    write_whole(path, job_bytes(job, layers_svg, preview_png))


def job_bytes(job: Job, layers_svg: bytes | None = None, preview_png: bytes | None = None) -> bytes:
    """Make the bytes of a job file; the same job gives the same.

    Parameters
    ----------
    job : Job
    layers_svg, preview_png : optional
        What the recipe makes of the picture, for who looks into the file; a
        job needs neither.
    """
    picture = f"pictures/{PurePosixPath(job.picture_name.replace(chr(92), '/')).name or 'picture'}"
    head = msgspec.json.encode(_head_of(job, picture))
    if len(head) <= _LARGE:
        head = msgspec.json.format(head, indent=2)
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        for name, data, method in (
            ("job.json", head, zipfile.ZIP_DEFLATED),
            (picture, job.picture, zipfile.ZIP_STORED),
            ("preview.png", preview_png, zipfile.ZIP_STORED),
            ("layers.svg", layers_svg, zipfile.ZIP_DEFLATED),
        ):
            if data is None:
                continue
            entry = zipfile.ZipInfo(name, _DATE)
            entry.compress_type = method
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, data)
    return buffer.getvalue()


def read_job(path: Path) -> Job:
    """Read a job file; no more of it than a job can hold.

    Raises
    ------
    JobError
        If it is no job file, or damaged, in one sentence.
    """
    try:
        with open_plain(path, JobError) as file, zipfile.ZipFile(file) as archive:
            head = _decode(_member(archive, "job.json", _MOST_RECIPE, path.name), _JobJson, path.name)
            picture = _member(archive, head.picture, _MOST_PICTURE, path.name)
    except (*_DAMAGE, OSError):
        raise JobError(f"{path.name} is not a Sketch Loom job, or it is damaged.") from None
    return _job_of(head, picture, path.name)


def preview_in(path: Path) -> bytes | None:
    """Give the small picture that a job file carries; None where it has none, or cannot be read."""
    try:
        with open_plain(path, JobError) as file, zipfile.ZipFile(file) as archive:
            return _member(archive, "preview.png", _MOST_PREVIEW, path.name)
    except (*_DAMAGE, OSError, JobError):
        return None


def _job_of(head: _JobJson, picture: bytes, of: str) -> Job:
    if not LEAST_DPI <= head.dpi <= MOST_DPI or head.page < 1:
        raise JobError(f"{of} draws its page at a size that cannot be used; open its picture anew.")
    name = PurePosixPath(head.picture).name
    versions = check_versions(head.versions)
    return Job(_printable(head.name), name, picture, head.recipe.check(), head.page, head.dpi, versions)


def _printable(name: str) -> str:
    return "".join(letter for letter in name if letter.isprintable())[:200] or "Job"


def _member(archive: zipfile.ZipFile, name: str, most: int, of: str) -> bytes:
    """Read a member, stored or deflated, and no more of it than is stated, whatever the archive says of it."""
    entry = archive.getinfo(name)
    if entry.compress_type not in _METHODS:
        raise JobError(f"{of} is packed in a way that no job of this program is.")
    if entry.file_size > max(_FREE, _DENSEST * entry.compress_size):
        raise JobError(f"{of} is packed far more densely than any picture is; it is damaged, or made to do harm.")
    with archive.open(entry) as member:
        data = member.read(min(most, entry.file_size) + 1)
    if len(data) > most:
        raise JobError(f"{of} unpacks to more than {most // 1_000_000} MB, which no job of this program does.")
    return data


def read_recipe(path: Path) -> Recipe:
    """Take the recipe of a job file or of a JSON file; raises JobError."""
    if path.suffix.lower() == ".loom":
        return read_job(path).recipe
    return decode_recipe(read_plain(path, JobError, _MOST_RECIPE), path.name)


def preview_of(result: Result) -> bytes:
    """Draw the small picture that a job file carries; PNG."""
    return png_bytes(coloured(result.regions, result.palette, _PREVIEW_PIXELS), DPI)
