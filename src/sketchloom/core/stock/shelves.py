"""Shelves: what a maker has, a kind of thing a file, as JSON in the user's folder."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Generic, TypeVar

import msgspec
import platformdirs

from sketchloom.core.errors import ArgumentError, JobError
from sketchloom.core.opening import read_plain

__all__ = ["MOST_THINGS", "ShelfKind"]

_MOST_BYTES = 2_000_000
MOST_THINGS = 1000
"""On a shelf."""
_VERSION = 1

T = TypeVar("T", bound=msgspec.Struct)


@dataclass(frozen=True)
class ShelfKind(Generic[T]):
    """A shelf of one kind of thing, each known by its name.

    Attributes
    ----------
    one, many : str
        What the thing is called, one of it and several; the file is called after them.
    kind : type
        A struct with a ``name``.
    generic : tuple
        What a maker has who has kept nothing yet.
    check : callable
        Gives a thing back if every value of it can be used; raises ArgumentError.
    """

    one: str
    many: str
    kind: type[T]
    generic: tuple[T, ...]
    check: Callable[[T], T]

    @property
    def path(self) -> Path:
        """Where the user's shelf lies."""
        return platformdirs.user_data_path("sketch-loom", appauthor=False) / f"{self.many}.json"

    def encode(self, things: tuple[T, ...]) -> bytes:
        """Write things as JSON."""
        return msgspec.json.format(msgspec.json.encode({"version": _VERSION, self.many: things}), indent=2) + b"\n"

    def decode(self, data: bytes, name: str) -> tuple[T, ...]:
        """Read things from JSON.

        Raises
        ------
        JobError
            If it holds none, in one sentence.
        ArgumentError
            If a value cannot be used, or two share a name.
        """
        if len(data) > _MOST_BYTES:
            raise JobError(f"{name} holds more than any list of {self.many} does.")
        fields: list[Any] = [("version", int), (self.many, tuple[self.kind, ...])]  # type: ignore[name-defined]
        try:
            found: Any = msgspec.json.decode(data, type=msgspec.defstruct("Shelf", fields))
        except (msgspec.DecodeError, msgspec.ValidationError, UnicodeError, RecursionError) as error:
            raise JobError(f"{name} holds no {self.many} that this program can read ({error}).") from None
        if found.version > _VERSION:
            raise JobError(f"{name} was written by a newer Sketch Loom; open it with that.")
        things: tuple[T, ...] = getattr(found, self.many)
        if len(things) > MOST_THINGS:
            raise JobError(f"{name} holds {len(things)} {self.many}; at most {MOST_THINGS} can be kept.")
        names = [getattr(self.check(thing), "name").casefold() for thing in things]  # noqa: B009
        if len(set(names)) < len(names):
            raise ArgumentError(f"Two {self.many} of {name} have one name; give each its own.")
        return things

    def read(self, path: Path | None = None) -> tuple[T, ...]:
        """Read the user's shelf, or a file; a user who has none yet has the generic one. Raises as `decode`."""
        own = path is None
        path = path or self.path
        if own and not path.exists():
            return self.generic
        return self.decode(read_plain(path, JobError, _MOST_BYTES), path.name)

    def write(self, things: tuple[T, ...], path: Path | None = None) -> None:
        """Keep things, whole or not at all; raises OSError."""
        path = path or self.path
        path.parent.mkdir(parents=True, exist_ok=True)
        new = path.with_suffix(".new")
        new.write_bytes(self.encode(things))
        new.replace(path)
