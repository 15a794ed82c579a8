"""Words as outlines, in the font that ships with the program."""

from functools import cache
from importlib.resources import files
from typing import Any

import numpy as np
from fontTools.pens.basePen import BasePen
from fontTools.ttLib import TTFont

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path

__all__ = ["OutlinePen", "words_path"]

_FONT = "resources/fonts/Inter-Medium.otf"


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
        pen = OutlinePen(glyphs)
        glyphs[name].draw(pen)
        for contour, straight in pen.contours:
            contours.append(contour * (scale, -scale) + (at, baseline))
            flags.append(straight)
        at += glyphs[name].width * scale
    return Path(tuple(contours), tuple(flags))


class OutlinePen(BasePen):
    """Gathers contours as cubic segments; quadratic curves, as TrueType fonts have them, become the same cubic."""

    def __init__(self, glyphs: Any = None) -> None:
        super().__init__(glyphs)
        self.contours: list[tuple[Floats, Bools]] = []
        self._points: list[Any] = []
        self._straight: list[bool] = []

    def _moveTo(self, pt: Any) -> None:  # noqa: N802
        self._points, self._straight = [pt], []

    def _lineTo(self, pt: Any) -> None:  # noqa: N802
        start = self._points[-1]
        if pt != start:
            way = pt[0] - start[0], pt[1] - start[1]
            self._points.extend((start[0] + way[0] * k / 3, start[1] + way[1] * k / 3) for k in (1, 2))
            self._points.append(pt)
            self._straight.append(True)

    def _curveToOne(self, pt1: Any, pt2: Any, pt3: Any) -> None:  # noqa: N802
        self._points.extend((pt1, pt2, pt3))
        self._straight.append(False)

    def _closePath(self) -> None:  # noqa: N802
        self._lineTo(self._points[0])
        self.contours.append((np.array(self._points, float), np.array(self._straight, bool)))
