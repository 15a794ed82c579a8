"""A line of the logbook."""

import csv
import io
import math
from collections.abc import Iterable
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal, get_args

import msgspec
from PIL import Image

from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import load_picture, reduce_picture
from sketchloom.core.stock import Preset

__all__ = ["RESULTS", "SORTS", "Entry", "Search", "Sort", "check_entry", "csv_of", "small_photo"]

Outcome = Literal["good", "usable", "spoiled", ""]
RESULTS: tuple[Outcome, ...] = get_args(Outcome)
Sort = Literal["at", "job", "stock", "cutter", "planned", "taken", "cost", "result"]
SORTS: tuple[Sort, ...] = get_args(Sort)

_LONGEST_WORDS, _LONGEST_NOTE = 200, 4000
_LONGEST_TIME, _DEAREST, _MOST_USED = 1e7, 1e9, 1e6
_MOST_SNAPSHOT, _MOST_PHOTO = 64_000_000, 4_000_000
_PHOTO_PIXELS = 1_500_000
_QUALITY = 85


class Entry(msgspec.Struct, frozen=True):
    """One stock of one job, cut once."""

    job: str
    stock: str = ""
    cutter: str = ""
    what: str = ""
    """Which layers or sheets."""
    at: int = 0
    """s since 1970"""
    preset: Preset | None = None
    """As it was when it was cut."""
    planned: float = 0.0
    """s"""
    taken: float | None = None
    """s; None where nobody looked."""
    result: Outcome = ""
    note: str = ""
    used: float = 0.0
    """Sheets, or metres of a roll."""
    roll: bool = False
    price: float = 0.0
    """Of one of what is used."""
    recipe: bytes = b""
    """The job's settings as they were, JSON."""
    photo: bytes = b""
    """JPEG"""
    number: int = 0
    """In the logbook; 0 before it is there."""

    @property
    def cost(self) -> float:
        """Of the stock, in whatever money."""
        return self.used * self.price


class Search(msgspec.Struct, frozen=True):
    """Which lines are wanted, and in what order."""

    words: str = ""
    """Each of which stands somewhere in the line."""
    job: str = ""
    stock: str = ""
    cutter: str = ""
    result: Outcome | None = None
    """None for any."""
    sort: Sort = "at"
    falling: bool = True


def check_entry(entry: Entry) -> Entry:
    """Return a line if every value of it can be kept; raises ArgumentError."""
    for what, words, most in (
        ("name of the job", entry.job, _LONGEST_WORDS),
        ("stock", entry.stock, _LONGEST_WORDS),
        ("cutter", entry.cutter, _LONGEST_WORDS),
        ("list of what was cut", entry.what, _LONGEST_NOTE),
        ("note", entry.note, _LONGEST_NOTE),
    ):
        if len(words) > most:
            raise ArgumentError(f"The {what} has {len(words)} letters; the logbook keeps at most {most}.")
    for what, value, limit in (
        ("planned time", entry.planned, _LONGEST_TIME),
        ("time taken", entry.taken or 0.0, _LONGEST_TIME),
        ("price", entry.price, _DEAREST),
        ("use of stock", entry.used, _MOST_USED),
    ):
        if not (math.isfinite(value) and 0 <= value <= limit):
            raise ArgumentError(f"A {what} of {value:g} cannot be logged; type 0 to {limit:g}.")
    if len(entry.recipe) > _MOST_SNAPSHOT or len(entry.photo) > _MOST_PHOTO:
        raise ArgumentError("The snapshot or the photograph is too large for the logbook.")
    return entry


def small_photo(path: Path) -> bytes:
    """Read a photograph, as it lies upright, reduced to what a logbook needs; JPEG. Raises PictureError."""
    picture, _ = reduce_picture(load_picture(path), _PHOTO_PIXELS)
    buffer = io.BytesIO()
    Image.fromarray(picture.rgba[..., :3]).save(buffer, "JPEG", quality=_QUALITY)
    return buffer.getvalue()


_COLUMNS = (
    "date", "job", "what", "stock", "cutter", "preset", "force", "speed_mm_s", "passes", "planned_s", "taken_s",
    "result", "used", "unit", "price", "cost", "note",
)  # fmt: skip


def csv_of(entries: Iterable[Entry]) -> bytes:
    """Write lines as CSV (RFC 4180), with a head, in UTF-8; dates are UTC."""
    text = io.StringIO()
    writer = csv.writer(text)
    writer.writerow(_COLUMNS)
    for one in entries:
        preset = one.preset
        own = ("", "", "", "") if preset is None else (preset.name, preset.force, preset.speed, preset.passes)
        date = datetime.fromtimestamp(one.at, UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        taken = "" if one.taken is None else round(one.taken, 1)
        writer.writerow(
            (date, one.job, one.what, one.stock, one.cutter, *own, round(one.planned, 1), taken, one.result,
             round(one.used, 4), "m" if one.roll else "sheets", one.price, round(one.cost, 4), one.note)
        )  # fmt: skip
    return text.getvalue().encode()
