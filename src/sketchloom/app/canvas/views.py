"""What the canvas shows: views, each with its own tab, extent, unit and way to be drawn."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QSizeF
from PySide6.QtGui import QPainter, QTransform

__all__ = ["WORK", "View"]

WORK = "work"
"""The room of all views that show the picture; zoom and pan are one for all of a room."""


@dataclass(frozen=True)
class View:
    """Something that the canvas can show; the canvas's own, or a step's.

    Attributes
    ----------
    key : str
        Its name in settings, tools and commands.
    tab : str
        What its tab says; empty where it has none.
    extent : callable
        Gives its size in its own units: px of the picture, or mm of sheets.
    unit : callable
        Gives how many of its units are a millimetre, or None while that is not known.
    paint : callable
        Draws it, given a painter, the transform from its units to the painter's, and whether nodes show.
    hit : callable
        Gives the key of the layer that lies at a point in its units, or nothing.
    fresh : callable or None
        Says all about how it is drawn but for its place, given whether nodes show; such a view is
        held as a picture while it is moved and zoomed.
    room : str
        Views of one room lie over one another; tools and marks of the picture belong to ``WORK``.
    """

    key: str
    tab: str
    extent: Callable[[], QSizeF]
    unit: Callable[[], float | None]
    paint: Callable[[QPainter, QTransform, bool], None]
    hit: Callable[[QPointF], str]
    fresh: Callable[[bool], Hashable] | None = None
    room: str = WORK
