"""What makes work ready for the knife before it is laid: kerf, hanging holes, and marks to lay layers by.

A tool that takes a width k away is led k/2 beside the outline, so that a part
keeps its size (common practice); the outline grows by k/2, its holes shrink.
"""

import math
from collections.abc import Sequence
from typing import Any, Literal

import msgspec
import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_contour
from sketchloom.core.cut import Cut, Request, grown, refitted, refitted_together
from sketchloom.core.errors import ArgumentError
from sketchloom.core.units import DECIMALS

__all__ = ["Marks", "Ready", "Weeding", "check_ready", "marks_round", "readied"]

Marks = Literal["none", "corners", "crosses", "holes"]
Weeding = Literal["none", "pieces", "sheet"]

_WITHIN = 0.003
"""mm that an outline led aside may leave where it is meant."""
_TOGETHER = 0.05
"""mm of gap over which layers are one for a hanging hole."""
_MARK, _AWAY = 6.0, 4.0
"""mm: size of a mark, and how far it lies from the design."""
_WIDEST = 20.0
_FINEST_TAB = 0.2
_MOST_TABS = 100
_KAPPA = 4 / 3 * (math.sqrt(2) - 1)


class Ready(msgspec.Struct, frozen=True):
    """How sheets are made ready for the knife."""

    kerf: float = 0.0
    """mm that the tool takes away and the outline allows for."""
    blade_offset: float = 0.0
    """mm by which the point of a blade that swivels trails its axis, if files shall lead the axis."""
    hole: tuple[float, float] | None = None
    """A hanging hole: diameter, and distance from the edge above it, mm."""
    marks: Marks = "none"
    """At the same place on every layer that is laid in register."""
    weeding: Weeding = "none"
    """Boxes round pieces, or one round all on a sheet."""
    weeding_margin: float = 5.0
    """mm between a box and what is in it."""
    weeding_lines: bool = False
    """Whether large waste is cut into parts."""
    overcut: float | None = None
    """mm that the tool runs on where an outline closes; None takes that of the cutter."""
    tabs: int = 0
    """That hold a piece in the sheet."""
    tab_width: float = 3.0
    """mm"""


def check_ready(ready: Ready) -> None:
    """Raise ArgumentError for a value that cannot be used."""
    diameter, away = ready.hole or (1.0, 0.0)
    for what, value, least in (
        ("kerf", ready.kerf, 0.0),
        ("blade's offset", ready.blade_offset, 0.0),
        ("hanging hole", diameter, 0.2),
        ("distance of a hanging hole", away, 0.0),
        ("margin of a weeding box", ready.weeding_margin, 0.5),
        ("overcut", ready.overcut or 0.0, 0.0),
        ("tab", ready.tab_width, _FINEST_TAB),
    ):
        if not (math.isfinite(value) and least <= value <= _WIDEST * (10 if "hole" in what else 1)):
            raise ArgumentError(f"A {what} of {value:g} mm cannot be used; type {least:g} mm or more, but not as much.")
    if ready.kerf and ready.blade_offset:
        raise ArgumentError("A blade that swivels takes nothing away: give its offset or a kerf, not both.")
    if not 0 <= ready.tabs <= _MOST_TABS:
        raise ArgumentError(f"{ready.tabs} tabs cannot be made; type 0 to {_MOST_TABS}.")


def readied(cuts: tuple[Cut, ...], ready: Ready) -> tuple[tuple[Cut, ...], Path | None]:
    """Give the cuts of a design with a hanging hole and the kerf in their outlines, and the marks that each gets.

    Raises
    ------
    ArgumentError
        If a hanging hole finds no room.
    """
    if not ready.kerf and ready.hole is None and ready.marks == "none":
        return cuts, None
    solid = [cut for cut in cuts if cut.kind == "cut" and cut.path.contours]
    made = {cut.key: cut for cut in cuts}
    if ready.hole is not None and solid:
        disc = _hanging(solid, *ready.hole)
        for cut in solid:
            whole = shapely.union_all(cut.polygons.shapes)
            if shapely.intersects(whole, disc):
                made[cut.key] = cut.with_path(refitted(shapely.difference(whole, disc), [cut.flat], within=_WITHIN))
    if ready.kerf:
        asked = [Request(_led_aside(made[cut.key], ready.kerf / 2), (), _WITHIN, n) for n, cut in enumerate(solid)]
        for cut, request in zip(solid, asked, strict=True):
            made[cut.key] = made[cut.key].with_path(refitted_together([request])[0])
    return tuple(made.values()), marks_round(solid, ready.marks) if solid else None


def _led_aside(cut: Cut, by: float) -> Any:
    return grown(shapely.union_all(cut.polygons.shapes), by, "mitred")


def _hanging(cuts: Sequence[Cut], diameter: float, away: float) -> Any:
    """Where the hanging hole is: above the middle of the area, as high as its distance to all edges lets it."""
    whole = shapely.union_all([grown(shapely.union_all(cut.polygons.shapes), _TOGETHER) for cut in cuts])
    room = grown(grown(whole, -_TOGETHER), -(diameter / 2 + away))
    middle = whole.centroid.x
    _, top, _, bottom = whole.bounds
    line = shapely.intersection(shapely.linestrings([(middle, top - 1), (middle, bottom + 1)]), room)
    if line.is_empty:
        raise ArgumentError(
            f"There is no room for a hole of {diameter:g} mm above the middle of the design; take a smaller one."
        )
    return shapely.Point(middle, line.bounds[1]).buffer(diameter / 2, 64)


def marks_round(cuts: Sequence[Cut], kind: Marks) -> Path | None:
    """Give marks at the four corners of a design, outside it, mm; None where there are to be none."""
    if kind == "none":
        return None
    boxes = np.array([cut.path.bounds for cut in cuts])
    low, high = boxes[:, :2].min(0) - _AWAY, boxes[:, 2:].max(0) + _AWAY
    contours: list[Floats] = []
    straight: list[Bools] = []
    for corner, way in (
        (low, (-1, -1)), ((high[0], low[1]), (1, -1)), (high, (1, 1)), ((low[0], high[1]), (-1, 1)),
    ):  # fmt: skip
        for points in _mark(kind, np.array(corner, float), np.array(way, float)):
            contours.append(np.round(points, DECIMALS) + 0.0)
            straight.append(np.full(len(points) // 3, kind != "holes"))
    is_open = () if kind == "holes" else (True,) * len(contours)
    return Path(tuple(contours), tuple(straight), is_open)


def _mark(kind: Marks, corner: Floats, way: Floats) -> list[Floats]:
    """One mark as cubics: a corner whose arms run along the design, a cross, or a circle, outside of a point."""
    if kind == "corners":
        return [straight_contour(np.array([corner - way * (_MARK, 0), corner, corner - way * (0, _MARK)]))]
    middle = corner + way * _MARK / 2
    if kind == "crosses":
        sides = np.array([[_MARK / 2, 0], [0, _MARK / 2]])
        return [straight_contour(np.array([middle - side, middle + side])) for side in sides]
    turn = np.arange(5) * math.pi / 2
    radius = _MARK / 4
    nodes = middle + radius * np.column_stack([np.cos(turn), np.sin(turn)])
    tangent = radius * _KAPPA * np.column_stack([-np.sin(turn), np.cos(turn)])
    control = np.stack([nodes[:-1], nodes[:-1] + tangent[:-1], nodes[1:] - tangent[1:], nodes[1:]], 1)
    return [np.vstack([control[:, :3].reshape(-1, 2), control[:1, 0]])]
