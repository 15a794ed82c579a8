"""Print and cut: a prepared picture at its size in print, and the line to cut round it."""

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import cv2
import numpy as np
import shapely

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.curves import Path
from sketchloom.core.cut import Cut, CutStack, grown, on_page, refitted, solid
from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.job.pipeline import Pipeline, Progress, silent
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.picture import MOST_PIXELS, Picture, resize_picture
from sketchloom.core.send import SVG, Item, Page, PngWriter, page_of_layers, written
from sketchloom.core.sheets import Marks, marks_round
from sketchloom.core.units import DECIMALS, MM_PER_INCH

__all__ = ["CUT_NAME", "PrintAndCut", "PrintSettings", "print_and_cut"]

CUT_NAME = "Cut outline"
_MARKS_NAME = "Registration marks"
_BLACK = "#000000"
_LINE = 0.5
"""mm, width of printed marks."""
_FARTHEST = 50.0
"""mm of an offset at most."""
_SLACK = 0.002
"""mm by which what was rounded may lie beside the page."""


class PrintSettings(NamedTuple):
    """How a picture is printed and cut."""

    dpi: float = 300.0
    offset: float = 0.0
    """mm by which the cut line lies outside what is printed; below 0 inside."""
    marks: Marks = "none"
    """To register by: printed, and drawn in the file of the cut line."""


class PrintAndCut(NamedTuple):
    """Two files of one size, so that they lie on each other."""

    png: bytes
    svg: bytes


def print_and_cut(
    picture: Picture,
    width_mm: float,
    settings: PrintSettings,
    pipeline: Pipeline,
    progress: Progress = silent,
) -> PrintAndCut:
    """Make the picture to print and the outline to cut.

    The outline goes round all that is not clear; holes stay in the print and
    are not cut. Where nothing is clear it is the picture's frame. The page
    grows by whole pixels for an offset or marks that do not lie on it.

    Parameters
    ----------
    picture : Picture
        Prepared.
    width_mm : float
        Of the whole picture.
    settings : PrintSettings
    pipeline : Pipeline
        Traces the outline.
    progress : callable

    Raises
    ------
    ArgumentError
        If the PNG would have more than `MOST_PIXELS`, or an offset is too large.
    NothingToCutError
        If all is clear, or an offset leaves nothing.
    WriteError
        If a file does not read back as it was meant.
    """
    offset = settings.offset
    if not (math.isfinite(offset) and abs(offset) <= _FARTHEST):
        raise ArgumentError(f"An offset of {offset:g} mm cannot be cut; type up to {_FARTHEST:g} mm, in or out.")
    scale = settings.dpi / MM_PER_INCH
    width = max(1, round(width_mm * scale))
    height = max(1, round(width * picture.height / picture.width))
    _check_pixels(width, height)
    if not picture.rgba[..., 3].max() > 127:
        raise NothingToCutError("Nothing is left to print: the whole picture is clear; undo the last clearing.")
    progress("send", 0.0)
    outline, size = _outline(picture, width_mm, pipeline, progress)
    if settings.offset:
        outline = outline.with_path(_offset(outline, settings.offset))
    marks = marks_round([outline], settings.marks)
    page = _grown_page([outline.path, *([marks] if marks is not None else [])], size, (width, height), scale)
    _check_pixels(*page.pixels)
    left, top = page.pixels_before
    printed = np.zeros((*page.pixels[::-1], 4), np.uint8)
    printed[top : top + height, left : left + width] = resize_picture(picture, (width, height)).rgba
    drawn = (_marks_item(on_page(marks, page.moved)),) if marks is not None else ()
    cut = page_of_layers(CutStack((outline.with_path(on_page(outline.path, page.moved)),), page.size))
    png = written(PngWriter(settings.dpi, printed), Page("Print", page.size, drawn))
    return PrintAndCut(png, written(SVG, replace(cut, items=(*cut.items, *drawn))))


class _GrownPage(NamedTuple):
    """A page that holds more than the picture."""

    size: tuple[float, float]  # mm
    moved: Floats  # mm by which all on it was moved
    pixels: tuple[int, int]
    pixels_before: tuple[int, int]  # left of the picture, and above it


def _grown_page(paths: Sequence[Path], size: tuple[float, float], pixels: tuple[int, int], scale: float) -> _GrownPage:
    """Grow a page by whole pixels until it holds paths, each with room for a line's width."""
    boxes = np.array([path.bounds for path in paths])
    low, high = boxes[:, :2].min(0) - _LINE, boxes[:, 2:].max(0) + _LINE
    if (low >= -_LINE - _SLACK).all() and (high <= np.array(size) + _LINE + _SLACK).all():
        return _GrownPage(size, np.zeros(2), pixels, (0, 0))
    before = np.ceil(np.maximum(0.0, -low) * scale).astype(int)
    after = np.ceil(np.maximum(0.0, high - size) * scale).astype(int)
    width, height = np.round((before + after) / scale + size, DECIMALS).tolist()
    across, down = (before + after + pixels).tolist()
    return _GrownPage(
        (width, height), np.round(before / scale, DECIMALS), (across, down), (int(before[0]), int(before[1]))
    )


def _check_pixels(width: int, height: int) -> None:
    if width * height > MOST_PIXELS:
        raise ArgumentError(f"{width} x {height} pixels are too many to save; take fewer dpi or a smaller size.")


def _outline(
    picture: Picture, width_mm: float, pipeline: Pipeline, progress: Progress
) -> tuple[Cut, tuple[float, float]]:
    """Trace what is not clear, mm; and the size of the picture's page."""
    shape = np.zeros_like(picture.rgba)
    shape[..., 3] = _filled(picture.rgba[..., 3])
    solid = Picture(shape, to_source=picture.source_of)
    recipe = Recipe().with_("separate", mode="flat", ground="keep" if solid.opaque else "auto")
    recipe = recipe.with_("finish", page="picture", width=width_mm)
    stack = pipeline.run(solid, recipe, progress).stack.cuts
    return replace(stack.cuts[0], name=CUT_NAME), stack.size


def _offset(outline: Cut, by: float) -> Path:
    """The outline led outward, or inward below 0, with round corners."""
    shape = grown(shapely.union_all(outline.polygons.shapes), by)
    if shape.is_empty:
        raise NothingToCutError(f"Nothing is left of the outline {-by:g} mm further in; take a smaller offset.")
    return refitted(solid(shape), [outline.flat])


def _marks_item(marks: Path) -> Item:
    return Item("registration-marks", _MARKS_NAME, "draw", _BLACK, marks, (_LINE,) * len(marks.contours))


def _filled(alpha: Bytes) -> Bytes:
    """Fill what no clear pixel joins to the border; soft edges outside stay."""
    clear = np.pad((alpha <= 127).astype(np.uint8), 1, constant_values=1)
    _, parts = cv2.connectedComponents(clear, connectivity=4)
    outside = cv2.dilate((parts == parts[0, 0]).astype(np.uint8), np.ones((3, 3), np.uint8))[1:-1, 1:-1] > 0
    return np.where(outside, alpha, 255).astype(np.uint8)
