"""A whole workshop as one file: stocks, cutters, presets, and the settings of the program."""

from typing import Any, NamedTuple

import msgspec

from sketchloom.core.errors import JobError
from sketchloom.core.stock.cutter import MACHINES, Cutter
from sketchloom.core.stock.preset import PRESETS, Preset
from sketchloom.core.stock.shelf import STOCKS
from sketchloom.core.stock.stock import Stock

__all__ = ["Workshop", "decode_workshop", "encode_workshop"]

_VERSION = 1
_MOST_BYTES = 8_000_000
_KINDS = (STOCKS, MACHINES, PRESETS)


class Workshop(NamedTuple):
    """What a maker has, and how the program is set."""

    stocks: tuple[Stock, ...]
    cutters: tuple[Cutter, ...]
    presets: tuple[Preset, ...]
    settings: dict[str, Any]
    """As the window names them; empty where the file has none."""


def encode_workshop(workshop: Workshop) -> bytes:
    """Write it as JSON."""
    return msgspec.json.format(msgspec.json.encode({"version": _VERSION, **workshop._asdict()}), indent=2) + b"\n"


def decode_workshop(data: bytes, name: str) -> Workshop:
    """Read it from JSON; what it does not hold is empty, so that a file of one shelf is read too.

    Raises
    ------
    JobError
        If it is no such file, in one sentence.
    ArgumentError
        If a value cannot be used, or two things share a name.
    """
    if len(data) > _MOST_BYTES:
        raise JobError(f"{name} holds more than any workshop does.")
    try:
        raw = msgspec.json.decode(data, type=dict[str, msgspec.Raw])
        version = msgspec.json.decode(raw.get("version", b"0"), type=int)
        settings = msgspec.json.decode(raw.get("settings", b"{}"), type=dict[str, Any])
    except (msgspec.DecodeError, msgspec.ValidationError, UnicodeError, RecursionError) as error:
        raise JobError(f"{name} is no file of a workshop that this program can read ({error}).") from None
    if version > _VERSION:
        raise JobError(f"{name} was written by a newer Sketch Loom; open it with that.")
    if not any(kind.many in raw for kind in _KINDS) and not settings:
        raise JobError(f"{name} holds no stocks, cutters, presets or settings.")
    found = [
        kind.decode(b'{"version": 1, "%s": %s}' % (kind.many.encode(), bytes(raw[kind.many])), name)
        if kind.many in raw
        else ()
        for kind in _KINDS
    ]
    return Workshop(found[0], found[1], found[2], settings)  # type: ignore[arg-type]
