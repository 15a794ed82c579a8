"""Cuts on their page."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut.cut import Cut
from sketchloom.core.units import DECIMALS, FINEST

__all__ = ["CutStack", "fitted_page", "on_page"]

_SLACK = 1.5 * 10.0**-DECIMALS
"""mm by which what was rounded may lie beside the page."""
Size = tuple[float, float]


@dataclass(frozen=True, eq=False)
class CutStack:
    """Cuts, bottom first, and the page they lie on.

    Attributes
    ----------
    cuts : tuple of Cut
    size : (float, float)
        Width and height of the page, mm.
    moved : (float, float)
        By which all was moved, mm, so that it lies on the page.
    """

    cuts: tuple[Cut, ...]
    size: Size
    moved: Size = (0.0, 0.0)

    def cut(self, key: str) -> Cut | None:
        """Give a cut by its key, or None."""
        return next((cut for cut in self.cuts if cut.key == key), None)

    def fitted(self) -> "CutStack":
        """Give the page that holds what lies on it."""
        by, size = fitted_page((cut.path for cut in self.cuts), self.size)
        if not by.any() and size == self.size:
            return self
        cuts = tuple(replace(cut, path=on_page(cut.path, by)) for cut in self.cuts)
        return replace(self, cuts=cuts, size=size, moved=(self.moved[0] + float(by[0]), self.moved[1] + float(by[1])))


def fitted_page(paths: Iterable[Path], size: Size, margin: float = 0.0) -> tuple[Floats, Size]:
    """Tell by how much all must move, mm, and how large the page must be, so that it holds some paths and a margin.

    A page never becomes smaller; what lies on it already stays where it is.
    """
    boxes = np.array([path.bounds for path in paths if path.contours]).reshape(-1, 4)
    low, high = boxes[:, :2].min(0, initial=0.0), boxes[:, 2:].max(0, initial=0.0)
    low = np.where(low < -_SLACK, low, 0.0) - margin
    high = np.where(high > np.array(size) + _SLACK, high, size) + margin
    by = _rounded_up(-low)
    width, height = _rounded_up(high + by).tolist()
    return by, (width, height)


def on_page(path: Path, by: Floats) -> Path:
    """Move a path, and round it to what files are written with; controls of straight segments stay on their chords."""
    if not by.any():
        return path
    moved = path.moved(by)
    contours = []
    for contour, straight in zip(moved.contours, moved.straight, strict=True):
        points = np.round(contour, FINEST) + 0.0
        index = 3 * np.arange(len(straight))[:, None] + np.arange(4)
        control = straight_thirds(points[index], straight)
        contours.append(np.vstack([control[:, :3].reshape(-1, 2), points[-1:]]))
    return Path(tuple(contours), moved.straight, moved.open, moved.meant)


def _rounded_up(lengths: Floats) -> Floats:
    """To what pages are written with; what lies on one must not stick out by a micrometre."""
    return np.round(np.ceil(np.round(lengths * 10**DECIMALS, 3)) / 10**DECIMALS, DECIMALS) + 0.0
