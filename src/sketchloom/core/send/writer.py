"""What every format's writer does: write layers, and read them back."""

import re
from typing import Protocol

from sketchloom.core.layers import Layer, LayerStack, StrokeLayer

__all__ = ["Part", "Writer", "files_of", "name_of_layer"]

Part = tuple[Layer | StrokeLayer, ...]


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

    def write(self, stack: LayerStack, layers: Part | None = None) -> bytes:
        """Write layers, all by default, bottom first."""

    def check(self, data: bytes, stack: LayerStack, layers: Part | None = None) -> None:
        """Read a file back with a reader that is not ours and compare every path; raises WriteError."""


def name_of_layer(stack: LayerStack, layer: Layer | StrokeLayer) -> str:
    """A name for a layer within its stack that no other has, of letters that every system takes."""
    place = next(place for place, other in enumerate(stack.every) if other is layer)
    return f"layer-{place + 1}-" + (re.sub(r"[^a-z0-9]+", "-", layer.name.lower()).strip("-") or "ink")


def files_of(writer: Writer, stack: LayerStack, each: bool) -> dict[str, bytes]:
    """Write one file for all layers, or one for each, all on the same page; each is read back.

    Parameters
    ----------
    writer : Writer
    stack : LayerStack
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
        parts = {f"-{name_of_layer(stack, layer)}": (layer,) for layer in stack.every}
    files = {name: writer.write(stack, part) for name, part in parts.items()}
    for name, data in files.items():
        writer.check(data, stack, parts[name])
    return files
