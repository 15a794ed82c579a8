"""The stage of Sheets: all that is sent, laid on sheets."""

from collections.abc import Sequence

import numpy as np

from sketchloom.core.job.stages.check import on_page_of
from sketchloom.core.job.stages.stage import Ask, stage
from sketchloom.core.layers import Finished, LayerStack, OnPage
from sketchloom.core.picture import Picture, Point, source_points
from sketchloom.core.progress import Tick
from sketchloom.core.sheets import Design, Layout, Ready, SheetSettings, Work, lay_out, readied

__all__ = ["design_of"]

_DECIMALS = 9
"""Of source coordinates."""
_STEP = 1e-3
"""Of source coordinates, over which the scale of a design is taken."""


def design_of(picture: Picture, finished: Finished, stack: LayerStack) -> Design:
    """How a design lies in its picture; the scale is that in the middle of it."""
    on_page: OnPage = on_page_of(picture, finished, stack)
    middle = picture.source_of @ np.array([picture.width / 2, picture.height / 2, 1.0])
    x, y = (middle[:2] / middle[2]).tolist()
    ends = np.array(on_page([(x - _STEP / 2, y), (x + _STEP / 2, y)]))

    def back(points: Sequence[Point]) -> list[Point]:
        at = (np.array(points, float).reshape(-1, 2) - np.array(stack.moved)) * finished.px_per_mm + finished.origin
        return source_points(picture, at, _DECIMALS)

    return Design(on_page, back, float(np.hypot(*(ends[1] - ends[0]))) / _STEP)


@stage("ready", "sheets", ("mended", "finish", "picture"), lambda recipe: recipe.sheets.ready)
def ready(ask: Ask, settings: Ready, tick: Tick) -> Work:
    """Make all that is sent ready for the knife; hidden layers are not."""
    stack: LayerStack = ask("mended").stack
    cuts, marks = readied(stack.cuts.cuts, settings)
    return Work(cuts, design_of(ask("picture"), ask("finish"), stack), marks=marks)


@stage("sheets", "sheets", ("ready",), lambda recipe: recipe.sheets)
def sheets(ask: Ask, settings: SheetSettings, tick: Tick) -> Layout:
    """Lay it on sheets. Other open jobs are not known here."""
    return lay_out(ask("ready"), settings, tick)
