"""Feed what reads files with whatever a guided search thinks of (needs the extra ``fuzz``).

    .venv/bin/python -m tests.fuzz_loaders [-max_total_time=60]

An error of the program's own is one sentence; anything else that comes out
is a find, as is what takes more than 500 MB or 5 s. The words after the name
go to libFuzzer.
"""

import io
import sys
import tempfile
import zipfile
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["sketchloom.core", "msgspec", "zipfile"]):
    from sketchloom.core.errors import SketchLoomError
    from sketchloom.core.job import Job, Recipe, Version, decode_recipe, encode_recipe, job_bytes, read_job
    from sketchloom.core.job.jobfile import decode_head, encode_head
    from sketchloom.core.logbook import Entry, Logbook
    from sketchloom.core.stock import (
        GENERIC,
        MACHINES,
        PRESETS,
        STOCKS,
        Preset,
        Workshop,
        decode_workshop,
        encode_workshop,
    )

HOME = Path(tempfile.mkdtemp())
FILE = HOME / "fuzzed"


def a_job(data: bytes) -> None:
    """The whole file."""
    FILE.write_bytes(data)
    read_job(FILE)


def a_packed_head(data: bytes) -> None:
    """Settings within a sound file."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as made:
        made.writestr("job.json", data)
        made.writestr("pictures/a.png", b"x")
    FILE.write_bytes(buffer.getvalue())
    read_job(FILE)


def a_logbook(data: bytes) -> None:
    """A file of SQLite, asked all that the window asks."""
    for left in HOME.glob("log.db*"):
        left.unlink()
    (HOME / "log.db").write_bytes(data)
    book = Logbook(HOME / "log.db")
    for ask in (
        book.search, book.names, book.on_hand, lambda: book.last_good("Card", "Laser"), lambda: book.whole(1),
        lambda: book.add([Entry("A")]),
    ):  # fmt: skip
        try:
            ask()
        except SketchLoomError:
            continue


LOADERS = (
    a_job, a_packed_head, a_logbook, lambda data: decode_recipe(data, "a"), lambda data: decode_head(data, b"", "a"),
    lambda data: decode_workshop(data, "a"), lambda data: STOCKS.decode(data, "a"),
    lambda data: MACHINES.decode(data, "a"), lambda data: PRESETS.decode(data, "a"),
)  # fmt: skip


def seeds() -> list[bytes]:
    """A sound file for each loader, behind the number of the loader."""
    recipe = Recipe().with_("finish", width=80.0).with_("layers", stock=GENERIC[3])
    job = Job("A", "a.png", b"picture", recipe, versions=(Version("First", Recipe()),))
    book = Logbook(HOME / "seed.db")
    book.set_on_hand("Card", 2.0)
    book.add([Entry("A", "Card", "Laser", preset=Preset("P"), result="good", recipe=b"{}")])
    shop = Workshop(GENERIC[:3], (), (Preset("P"),), {"unit": "in"})
    sound = (
        job_bytes(job), encode_head(job), (HOME / "seed.db").read_bytes(), encode_recipe(recipe), encode_head(job),
        encode_workshop(shop), STOCKS.encode(GENERIC[:4]), MACHINES.encode(MACHINES.generic), PRESETS.encode(shop[2]),
    )  # fmt: skip
    return [bytes([number]) + data for number, data in enumerate(sound)]


def one(data: bytes) -> None:
    """What libFuzzer calls."""
    if not data:
        return
    try:
        LOADERS[data[0] % len(LOADERS)](data[1:])
    except SketchLoomError as error:
        if "\n" in str(error):
            raise AssertionError(f"not one sentence: {error}") from error


def main() -> None:
    """Search for so long."""
    corpus = HOME / "corpus"
    corpus.mkdir()
    for number, data in enumerate(seeds()):
        (corpus / f"seed-{number}").write_bytes(data)
    words = sys.argv[1:] or ["-max_total_time=60"]
    limits = ["-rss_limit_mb=500", "-timeout=5", "-max_len=60000", f"-artifact_prefix={Path.cwd()}/"]
    atheris.Setup([sys.argv[0], str(corpus), *limits, *words], one)
    atheris.Fuzz()


if __name__ == "__main__":
    main()
