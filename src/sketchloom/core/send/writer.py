"""What every format's writer does: write cuts, and read them back."""

import re
from collections.abc import Iterable
from typing import Protocol

from sketchloom.core.cut import Cut, CutStack

__all__ = ["Part", "Writer", "files_of", "names_of"]

Part = tuple[Cut, ...]


class Writer(Protocol):
    """One format.

    Attributes
    ----------
    ending : str
        Of its files, with the dot.
    name : str
        What the window and messages call it.
    """

    ending: str
    name: str

    def write(self, stack: CutStack, layers: Part | None = None) -> bytes:
        """Write layers, all by default, bottom first."""

    def check(self, data: bytes, stack: CutStack, layers: Part | None = None) -> None:
        """Read a file back with a reader that is not ours and compare every path; raises WriteError."""


def names_of(cuts: Iterable[Cut]) -> dict[str, str]:
    """Names of cuts by their key, of letters that every system takes: what comes or goes beside one changes none."""
    out: dict[str, str] = {}
    for cut in cuts:
        words = dict.fromkeys(_plain(text) for text in (cut.key, cut.name))
        name = "layer-" + ("-".join(word for word in words if word) or "ink")
        count = sum(other == name or other.startswith(name + "--") for other in out.values())
        out[cut.key] = f"{name}--{count + 1}" if count else name
    return out


def _plain(text: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", text.lower().replace("+", " copy ")).strip("-")


def files_of(writer: Writer, stack: CutStack, each: bool) -> dict[str, bytes]:
    """Write one file for all layers, or one for each, all on the same page; each is read back.

    Parameters
    ----------
    writer : Writer
    stack : CutStack
    each : bool

    Returns
    -------
    dict of str to bytes
        By what is put behind the file's name: nothing, or a hyphen and the layer's name.

    Raises
    ------
    WriteError
        If a file does not read back as it was meant.
    """
    parts: dict[str, Part | None] = {"": None}
    if each:
        names = names_of(stack.cuts)
        parts = {f"-{names[cut.key]}": (cut,) for cut in stack.cuts}
    files = {name: writer.write(stack, part) for name, part in parts.items()}
    for name, data in files.items():
        writer.check(data, stack, parts[name])
    return files
