"""Words as outlines, in the font that ships with the program."""

from functools import cache
from importlib.resources import files
from typing import Any

from sketchloom.core.curves import OutlinePen, Path

__all__ = ["words_path", "words_width", "wrapped"]

_FONT = "resources/fonts/Inter-Medium.otf"


@cache
def _font() -> Any:
    from fontTools.ttLib import TTFont  # not needed to start

    with (files("sketchloom") / _FONT).open("rb") as file:
        font = TTFont(file, lazy=False)
    return font, font.getGlyphSet(), font.getBestCmap(), font["head"].unitsPerEm


def words_path(words: str, left: float, baseline: float, size: float) -> Path:
    """Outlines of words; y runs down. Letters that the font does not have are left out.

    Parameters
    ----------
    words : str
    left, baseline : float
        Where they begin.
    size : float
        Of the em square.
    """
    _, glyphs, names, em = _font()
    contours, flags = [], []
    at, scale = left, size / em
    for letter in words:
        name = names.get(ord(letter))
        if name is None:
            continue
        pen = OutlinePen(glyphs)
        glyphs[name].draw(pen)
        for contour, straight in pen.contours:
            contours.append(contour * (scale, -scale) + (at, baseline))
            flags.append(straight)
        at += glyphs[name].width * scale
    return Path(tuple(contours), tuple(flags))


def words_width(words: str, size: float) -> float:
    """How wide words are, by their advance widths; in the unit of the size of their em square."""
    _, glyphs, names, em = _font()
    return float(sum(glyphs[names[ord(letter)]].width for letter in words if ord(letter) in names) * size / em)


def wrapped(words: str, width: float, size: float, most: int) -> list[str]:
    """Words in at most some lines of a width; what finds no room is left out, and three dots say so."""
    lines = [""]
    for word in words.split():
        longer = f"{lines[-1]} {word}".strip()
        if words_width(longer, size) <= width or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    cut = len(lines) > most
    lines = lines[:most]
    for place, line in enumerate(lines):
        last = cut and place == most - 1
        while line and words_width(line + "…" * last, size) > width:
            line, last = line[:-1].rstrip(), True
        lines[place] = line + "…" * last
    return lines
