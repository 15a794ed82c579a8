"""Inks: each known by a key that no stage renumbers, in one palette."""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import msgspec

__all__ = ["Colour", "Ink", "Palette", "colour_of", "hex_of", "is_key", "keys_of"]

Colour = tuple[int, int, int]
"""sRGB, 0 to 255."""

_KEY = re.compile(r"#[0-9a-f]{6}(-[1-9][0-9]{0,5})?")


def hex_of(colour: Colour) -> str:
    """Write a colour as ``#rrggbb``."""
    return "#{:02x}{:02x}{:02x}".format(*colour)


def colour_of(code: str) -> Colour:
    """Read ``#rrggbb``, with or without the mark; raises ValueError."""
    digits = code.removeprefix("#")
    if not re.fullmatch(r"[0-9a-fA-F]{6}", digits):
        raise ValueError(code)
    red, green, blue = bytes.fromhex(digits)
    return red, green, blue


def is_key(text: str) -> bool:
    """Whether a text is written as an ink's key is: ``#rrggbb``, or ``#rrggbb-2`` where two share a colour."""
    return _KEY.fullmatch(text) is not None


def keys_of(colours: Iterable[Colour], taken: Iterable[str] = ()) -> tuple[str, ...]:
    """Give each colour a key; one that occurs again gets a number.

    Parameters
    ----------
    colours : iterable of Colour
        As found, the first ones first.
    taken : iterable of str
        Keys that are given away already.
    """
    used, out = set(taken), []
    for colour in colours:
        key, number = hex_of(colour), 2
        while key in used:
            key, number = f"{hex_of(colour)}-{number}", number + 1
        used.add(key)
        out.append(key)
    return tuple(out)


class Ink(msgspec.Struct, frozen=True):
    """One ink of a picture."""

    key: str
    """What settings, layers and files know it by: its found colour, and a number where two share one."""
    name: str
    found: Colour
    """As it is in the picture."""
    shown: Colour
    """In which it is shown and sent."""
    role: Literal["cut", "ground"] = "cut"
    """Whether it is cut, or was sent to the ground."""

    @property
    def hex(self) -> str:
        """The colour shown, as ``#rrggbb``."""
        return hex_of(self.shown)


@dataclass(frozen=True)
class Palette:
    """All inks of a picture, bottom first; looked up by key, never by place."""

    inks: tuple[Ink, ...] = ()

    def __iter__(self) -> Iterator[Ink]:
        return iter(self.inks)

    def __len__(self) -> int:
        return len(self.inks)

    def __contains__(self, key: object) -> bool:
        return key in self._by_key

    def __getitem__(self, key: str) -> Ink:
        """Give the ink of a key; raises KeyError."""
        return self._by_key[key]

    def get(self, key: str) -> Ink | None:
        """Give the ink of a key, or None."""
        return self._by_key.get(key)

    @property
    def cut(self) -> tuple[Ink, ...]:
        """Inks that are cut."""
        return tuple(ink for ink in self.inks if ink.role == "cut")

    @property
    def grounded(self) -> tuple[Ink, ...]:
        """Inks that were sent to the ground."""
        return tuple(ink for ink in self.inks if ink.role == "ground")

    @cached_property
    def _by_key(self) -> dict[str, Ink]:
        return {ink.key: ink for ink in self.inks}
