"""Flags of the Prepare rows, for every command that takes a picture."""

from collections.abc import Callable
from typing import Any

import click

from sketchloom.core.errors import ArgumentError
from sketchloom.core.picture import Calm, ClearBox, ClearColour, Crop, EvenLight, Picture, Row, Straighten
from sketchloom.core.units import PX_PER_MM_UNSET, parse_length

__all__ = ["prepare_options", "rows_of"]


def prepare_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Add the flags; places are px of the opened picture, upright."""
    for option in reversed(
        (
            click.option("--straighten", metavar="auto|X,Y,X,Y,X,Y,X,Y", help="Lay a page straight, by its corners."),
            click.option("--even-light", is_flag=True, help="Even the light on the paper."),
            click.option("--calm", metavar="LENGTH", help="Smooth noise up to this size, not edges."),
            click.option("--crop", metavar="X,Y,W,H", help="Keep a rectangle."),
            click.option(
                "--clear", metavar="colour|box:X,Y,W,H", help="Clear the ground by its colour, or round a box."
            ),
        )
    ):
        command = option(command)
    return command


def rows_of(
    picture: Picture,
    straighten: str | None,
    even_light: bool,
    calm: str | None,
    crop: str | None,
    clear: str | None,
    width_mm: float | None = None,
) -> tuple[Row, ...]:
    """Make the rows of the flags, in the order of Prepare; raises ArgumentError."""
    longer = max(picture.width, picture.height)
    rows: list[Row] = []
    if straighten == "auto":
        rows.append(Straighten())
    elif straighten:
        x = [value / longer for value in _numbers(straighten, 8, "--straighten")]
        rows.append(Straighten(corners=((x[0], x[1]), (x[2], x[3]), (x[4], x[5]), (x[6], x[7]))))
    if even_light:
        rows.append(EvenLight())
    if calm:
        px_per_mm = picture.width / width_mm if width_mm else PX_PER_MM_UNSET
        rows.append(Calm(radius=parse_length(calm, "mm") * px_per_mm / longer))
    if crop:
        rows.append(Crop(**_rectangle(crop, "--crop", longer)))
    if clear == "colour":
        rows.append(ClearColour())
    elif clear and clear.startswith("box:"):
        rows.append(ClearBox(**_rectangle(clear[4:], "--clear box", longer)))
    elif clear:
        raise ArgumentError(f"“{clear}” clears nothing; type colour, or box:X,Y,W,H in pixels.")
    return tuple(rows)


def _numbers(text: str, count: int, flag: str) -> list[float]:
    try:
        values = [float(part) for part in text.split(",")]
    except ValueError:
        values = []
    if len(values) != count or not all(abs(value) < 1e7 for value in values):
        raise ArgumentError(f"{flag} takes {count} numbers of pixels parted by commas, not “{text}”.")
    return values


def _rectangle(text: str, flag: str, longer: int) -> dict[str, tuple[float, float]]:
    left, top, width, height = _numbers(text, 4, flag)
    if width < 1 or height < 1:
        raise ArgumentError(f"{flag} needs a width and a height of at least a pixel.")
    return {"first": (left / longer, top / longer), "last": ((left + width) / longer, (top + height) / longer)}
