"""The test cut: half an inch of what goes wrong, for the stock and the cutter in hand."""

import math

import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import OutlinePen, Path
from sketchloom.core.cut import Cut
from sketchloom.core.palette import Ink, colour_of
from sketchloom.core.send.page import Page, page_of_sheet
from sketchloom.core.sheets import Design, SheetSettings, Work, lay_out, readied
from sketchloom.core.stock import Cutter, Stock
from sketchloom.core.units import MM_PER_INCH

__all__ = ["figure", "page_of_test_cut"]

_SIDE = MM_PER_INCH / 2
_MARGIN, _SLACK = 2.0, 0.1
"""mm round the figure, and so that it fits for sure."""
_RADIUS = 3.6
_MOST = 2.0
"""mm of the neck and the dots, so that a tool finds its way between them."""
_LONG = 100_000.0
_TURN = math.pi / 4
_NAME = "Test cut"


def figure(stock: Stock | None) -> Path:
    """Draw the figure in a square of half an inch from the origin, mm.

    A trowel: its round grip hangs on the blade by a neck as narrow as the
    stock is said to hold; the blade ends in a sharp corner between two
    curves. In the grip is a small hole, beside it a small dot, each as small
    as the stock allows.

    Parameters
    ----------
    stock : Stock or None
        Gives the width of the neck and the dot (its narrowest piece) and of
        the hole (its narrowest gap).
    """
    neck = min(max(stock.least_piece if stock is not None else 0.8, 0.2), _MOST)
    hole = min(max(stock.least_gap if stock is not None else 0.6, 0.2), _MOST)
    dot = max(neck, 0.8)
    pen = OutlinePen()
    middle, aside = np.array([_RADIUS, _RADIUS]), math.asin(neck / 2 / _RADIUS)
    across = np.array([-1.0, 1.0]) / math.sqrt(2)
    _arc(pen, middle, _RADIUS, _TURN + aside, _TURN - aside + 2 * math.pi)
    root = 8.65 * np.ones(2)  # of the blade, on the diagonal
    pen.lineTo(tuple(root - across * neck / 2))
    pen.lineTo((9.9, 7.4))
    pen.curveTo((12.0, 8.5), (12.3, 10.5), (_SIDE, _SIDE))
    pen.curveTo((10.5, 12.3), (8.5, 12.0), (7.4, 9.9))
    pen.lineTo(tuple(root + across * neck / 2))
    pen.closePath()
    _arc(pen, middle, hole / 2, 2 * math.pi, 0.0)
    pen.closePath()
    _arc(pen, np.array([_SIDE - dot / 2, dot / 2]), dot / 2, 0.0, 2 * math.pi)
    pen.closePath()
    return pen.path.reversed()  # outlines go the way of all others


def _arc(pen: OutlinePen, middle: Floats, radius: float, start: float, end: float) -> None:
    """An arc as eight cubics.

    Controls lie 4/3 tan(turn / 4) of the radius along the tangents (Riskus 2006, "Approximation of a cubic Bezier
    curve by circular arcs and vice versa").
    """
    steps = 8
    turn = (end - start) / steps
    reach = 4 / 3 * math.tan(turn / 4) * radius

    def at(angle: float) -> Floats:
        return middle + radius * np.array([math.cos(angle), math.sin(angle)])

    def along(angle: float) -> Floats:
        return np.array([-reach * math.sin(angle), reach * math.cos(angle)])

    pen.moveTo(tuple(at(start)))
    for step in range(steps):
        one, other = start + step * turn, start + (step + 1) * turn
        pen.curveTo(tuple(at(one) + along(one)), tuple(at(other) - along(other)), tuple(at(other)))


def page_of_test_cut(stock: Stock | None, settings: SheetSettings) -> Page:
    """Lay the figure on a sheet of its own, made ready as those of the job: kerf, overcut, blade's lead, mirrored.

    Parameters
    ----------
    stock : Stock or None
    settings : SheetSettings
        Of the job.
    """
    colour = (stock.colour if stock is not None else "") or "#2a6f6b"
    ink = Ink("test-cut", _NAME, colour_of(colour), colour_of(colour))
    cut = Cut(key="test-cut", name=_NAME, ink=ink, path=figure(stock), stock=stock)
    cutter: Cutter | None = settings.cutter
    if cutter is not None:  # what matters is how it cuts, not how large its bed is
        cutter = msgspec.structs.replace(cutter, width=_LONG, usable_width=_LONG, height=None, usable_height=None)
    own = msgspec.structs.replace(settings.ready, hole=None, marks="none", weeding="none", weeding_lines=False, tabs=0)
    cuts, _ = readied((cut,), own)
    left, top, right, bottom = cuts[0].path.bounds
    width, height = (round(side + 2 * _MARGIN + _SLACK, 1) for side in (right - left, bottom - top))
    plain = SheetSettings(
        cutter=cutter, size=(width, height), border=_MARGIN, flip=settings.flip, turn="none", seam="none", ready=own
    )
    here = Design(lambda places: np.array(places, float).reshape(-1, 2), lambda points: points, 1.0)
    (sheet,) = lay_out(Work(cuts, here), plain).sheets
    return page_of_sheet(sheet, {cut.key: cut.key}, _NAME)
