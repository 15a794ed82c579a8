"""The tools of Prepare: one entry each, with how it is made and what row it draws."""

from collections.abc import Callable
from typing import Any, NamedTuple

import msgspec

from sketchloom.app.canvas.tools import (
    AxisTool,
    BrushTool,
    CornersTool,
    OutlineTool,
    PickTool,
    RectangleTool,
    Tool,
)
from sketchloom.app.steps.prepare.desk import PrepareDesk
from sketchloom.app.theme import theme
from sketchloom.core.palette import hex_of
from sketchloom.core.picture import (
    ClearBox,
    ClearOutline,
    Crop,
    MirrorHalf,
    Paint,
    Picture,
    Point,
    Row,
    Straighten,
    find_page,
    source_points,
)

__all__ = ["DRAWINGS", "Drawing"]


class Drawing(NamedTuple):
    """One tool.

    Attributes
    ----------
    make : callable
        Takes the step, the row it works on (or None) and the picture that
        row works on; gives the tool.
    row : callable
        Takes the step, what was drawn and the old row (or None); gives the row.
    stays : {'', 'strokes', 'gesture'}
        Whether it stays in hand: each stroke a change, or all one gesture.
    brush : bool
        Whether it has a width.
    looks_at : {'input', 'result', 'all'}
        What of the row is shown meanwhile.
    """

    make: Callable[[PrepareDesk, Row | None, Picture], Tool]
    row: Callable[[PrepareDesk, Any, Any], Row]
    stays: str = ""
    brush: bool = False
    looks_at: str = "input"


def _corners(step: PrepareDesk, row: Row | None, here: Picture) -> Tool:
    if isinstance(row, Straighten) and row.corners:
        return CornersTool(row.corners)
    x0, y0, x1, y1 = (share * side for share in (0.1, 0.9) for side in (here.width, here.height))
    tool = CornersTool(tuple(source_points(here, [(x0, y0), (x1, y0), (x1, y1), (x0, y1)])))

    def found(corners: Any) -> None:
        if corners is not None:
            tool.offer(tuple(source_points(here, corners)))

    step.model.side.enqueue(lambda _: find_page(here.rgba), found, "prepare")
    return tool


def _axis(step: PrepareDesk, row: Row | None, here: Picture) -> Tool:
    if isinstance(row, MirrorHalf):
        return AxisTool(row.first, row.last, row.keep)
    middle = here.width / 2
    places: list[Point] = source_points(here, [(middle, 0), (middle, here.height), (middle / 2, here.height / 2)])
    return AxisTool(*places)


def _rectangle(help_text: str) -> Callable[[PrepareDesk, Row | None, Picture], Tool]:
    return lambda step, row, here: RectangleTool(help_text)


def _brush(help_text: str, token: str, ghost: bool) -> Callable[[PrepareDesk, Row | None, Picture], Tool]:
    return lambda step, row, here: BrushTool(help_text, step.brush, getattr(theme.tokens, token), ghost=ghost)


def _painter(step: PrepareDesk, row: Row | None, here: Picture) -> Tool:
    return BrushTool("Paint what is missing; each stroke can be undone.", step.brush, hex_of(step.colour_for(row)))


def _boxed(step: PrepareDesk, value: Any, old: ClearBox | None) -> Row:
    made = {"first": value[0], "last": value[1]}
    return msgspec.structs.replace(old, **made) if old else ClearBox(**made)


def _stroked(field: str) -> Callable[[PrepareDesk, Any, Any], Row]:
    return lambda step, value, old: msgspec.structs.replace(old, **{field: (*getattr(old, field), value)})


def _painted(rub: bool) -> Callable[[PrepareDesk, Any, Any], Row]:
    def row(step: PrepareDesk, value: Any, old: Row | None) -> Row:
        if isinstance(old, Paint):
            return msgspec.structs.replace(old, strokes=(*old.strokes, value))
        return Paint(strokes=(value,), colour=None if rub else step.colour_for(None))

    return row


DRAWINGS: dict[str, Drawing] = {
    "crop": Drawing(
        _rectangle("Drag a rectangle; what lies outside goes."),
        lambda step, value, old: Crop(first=value[0], last=value[1]),
    ),
    "box": Drawing(_rectangle("Drag a box round the subject, wholly round it; the rest is cleared."), _boxed),
    "corners": Drawing(
        _corners, lambda step, value, old: msgspec.structs.replace(old or Straighten(), corners=value), "gesture"
    ),
    "axis": Drawing(
        _axis, lambda step, value, old: MirrorHalf(first=value[0], last=value[1], keep=value[2]), "gesture"
    ),
    "edges": Drawing(
        lambda step, row, here: OutlineTool(step.model.side, here),
        lambda step, value, old: ClearOutline(points=value),
    ),
    "line": Drawing(lambda step, row, here: OutlineTool(), lambda step, value, old: ClearOutline(points=value)),
    "pick": Drawing(
        lambda step, row, here: PickTool(),
        lambda step, value, old: msgspec.structs.replace(old, at=value, colour=None),
    ),
    "keep": Drawing(
        _brush("Paint over what belongs to the subject.", "moss", True), _stroked("keep"), "strokes", True, "result"
    ),
    "drop": Drawing(
        _brush("Paint over what does not belong to it.", "madder", True), _stroked("drop"), "strokes", True, "result"
    ),
    "rub": Drawing(
        _brush("Paint over what is to go; each stroke can be undone.", "linen", False),
        _painted(True),
        "strokes",
        True,
        "all",
    ),
    "paint": Drawing(_painter, _painted(False), "strokes", True, "all"),
}
"""A tool that is added has its entry here."""
