"""Print and cut: a prepared picture at its size in print, and the line to cut round it."""

from dataclasses import replace
from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.errors import ArgumentError, NothingToCutError
from sketchloom.core.job.pipeline import Pipeline, Progress, silent
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.picture import MOST_PIXELS, Picture, resize_picture
from sketchloom.core.send import SVG, files_of, png_bytes
from sketchloom.core.units import MM_PER_INCH

__all__ = ["CUT_NAME", "PrintAndCut", "print_and_cut"]

CUT_NAME = "Cut outline"


class PrintAndCut(NamedTuple):
    """Two files of one size, so that they lie on each other."""

    png: bytes
    svg: bytes


def print_and_cut(
    picture: Picture, width_mm: float, dpi: float, pipeline: Pipeline, progress: Progress = silent
) -> PrintAndCut:
    """Make the picture to print and the outline to cut.

    The outline goes round all that is not clear; holes stay in the print and
    are not cut. Where nothing is clear it is the picture's frame.

    Parameters
    ----------
    picture : Picture
        Prepared.
    width_mm : float
        Of the whole picture.
    dpi : float
        Dots an inch of the PNG.
    pipeline : Pipeline
        Traces the outline.
    progress : callable

    Raises
    ------
    ArgumentError
        If the PNG would have more than `MOST_PIXELS`.
    NothingToCutError
        If all is clear.
    """
    width = max(1, round(width_mm / MM_PER_INCH * dpi))
    height = max(1, round(width * picture.height / picture.width))
    if width * height > MOST_PIXELS:
        raise ArgumentError(f"{width} x {height} pixels are too many to save; take fewer dpi or a smaller size.")
    if not picture.rgba[..., 3].max() > 127:
        raise NothingToCutError("Nothing is left to print: the whole picture is clear; undo the last clearing.")
    progress("send", 0.0)
    printed = resize_picture(picture, (width, height))
    shape = np.zeros_like(picture.rgba)
    shape[..., 3] = _filled(picture.rgba[..., 3])
    solid = Picture(shape, to_source=picture.source_of)
    recipe = Recipe().with_("separate", mode="flat", ground="keep" if solid.opaque else "auto")
    recipe = recipe.with_("finish", page="picture", width=width_mm)
    stack = pipeline.run(solid, recipe, progress).stack
    stack = replace(stack, layers=tuple(replace(layer, name=CUT_NAME) for layer in stack.layers))
    return PrintAndCut(png_bytes(printed.rgba, dpi), files_of(SVG, stack.cuts, each=False)[""])


def _filled(alpha: Bytes) -> Bytes:
    """Fill what no clear pixel joins to the border; soft edges outside stay."""
    clear = np.pad((alpha <= 127).astype(np.uint8), 1, constant_values=1)
    _, parts = cv2.connectedComponents(clear, connectivity=4)
    outside = cv2.dilate((parts == parts[0, 0]).astype(np.uint8), np.ones((3, 3), np.uint8))[1:-1, 1:-1] > 0
    return np.where(outside, alpha, 255).astype(np.uint8)
