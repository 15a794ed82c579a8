"""Words as outlines, in the font that ships with the program."""

from functools import cache
from importlib.resources import files
from typing import Any

import numpy as np
from fontTools.pens.recordingPen import RecordingPen
from fontTools.ttLib import TTFont

from sketchloom.core.curves import Path

__all__ = ["words_path"]

_FONT = "app/resources/fonts/Inter-Medium.otf"


@cache
def _font() -> Any:
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
        pen = RecordingPen()
        glyphs[name].draw(pen)
        for contour, straight in _contours(pen.value):
            contours.append(contour * (scale, -scale) + (at, baseline))
            flags.append(straight)
        at += glyphs[name].width * scale
    return Path(tuple(contours), tuple(flags))


def _contours(verbs: list[tuple[str, Any]]) -> list[tuple[np.ndarray, np.ndarray]]:
    out = []
    points: list[tuple[float, float]] = []
    straight: list[bool] = []

    def line_to(end: tuple[float, float]) -> None:
        start = points[-1]
        if end != start:
            way = end[0] - start[0], end[1] - start[1]
            points.extend((start[0] + way[0] * k / 3, start[1] + way[1] * k / 3) for k in (1, 2))
            points.append(end)
            straight.append(True)

    for verb, places in verbs:
        if verb == "moveTo":
            points, straight = [places[0]], []
        elif verb == "lineTo":
            line_to(places[0])
        elif verb == "curveTo":
            points.extend(places)
            straight.append(False)
        elif verb == "closePath" and points:
            line_to(points[0])
            out.append((np.array(points, float), np.array(straight, bool)))
    return out
