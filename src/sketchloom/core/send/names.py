"""Names of layers for files: of letters that every system takes."""

import re
from collections.abc import Iterable

from sketchloom.core.cut import Cut

__all__ = ["file_stem", "names_of", "plain_name"]

_LONGEST = 80
"""Letters of a file's name before what is put behind it; systems take 255 bytes."""


def names_of(cuts: Iterable[Cut]) -> dict[str, str]:
    """Names of cuts by their key, of letters that every system takes: what comes or goes beside one changes none."""
    out: dict[str, str] = {}
    for cut in cuts:
        words = dict.fromkeys(plain_name(text) for text in (cut.key, cut.name))
        name = "layer-" + ("-".join(word for word in words if word) or "ink")
        count = sum(other == name or other.startswith(name + "--") for other in out.values())
        out[cut.key] = f"{name}--{count + 1}" if count else name
    return out


def plain_name(text: str) -> str:
    """A text as letters, figures and hyphens; empty where it has none."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower().replace("+", " copy ")).strip("-")


def file_stem(text: str) -> str:
    """A job's name as its files begin with it."""
    return plain_name(text)[:_LONGEST].strip("-") or "layers"
