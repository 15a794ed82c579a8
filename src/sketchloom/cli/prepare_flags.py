"""Flags of the Prepare rows, for every command that takes a picture."""

from collections.abc import Callable
from typing import Any

import click

from sketchloom.core.errors import ArgumentError, PictureError
from sketchloom.core.picture import (
    Calm,
    ClearBox,
    ClearColour,
    ClearPale,
    Crop,
    EvenLight,
    Picture,
    Prepared,
    Row,
    Sharpen,
    Straighten,
    check_row,
    parts_of,
)
from sketchloom.core.units import parse_length

__all__ = ["PREPARE_FLAGS", "check_placed", "prepare_options", "rows_of"]

PREPARE_FLAGS = ("straighten", "even_light", "calm", "sharpen", "crop", "clear", "clear_pale")


def prepare_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Add the flags; places are px of the opened picture, upright."""
    for option in reversed(
        (
            click.option("--straighten", metavar="auto|X,Y,X,Y,X,Y,X,Y", help="Lay a page straight, by its corners."),
            click.option("--even-light", is_flag=True, help="Even the light on the paper."),
            click.option("--calm", metavar="LENGTH", help="Smooth noise up to this size, not edges. [unit: mm]"),
            click.option(
                "--sharpen", metavar="auto|LENGTH", help="Undo a blur, as wide as measured or as said. [unit: mm]"
            ),
            click.option("--crop", metavar="X,Y,W,H", help="Keep a rectangle."),
            click.option(
                "--clear", metavar="colour|box:X,Y,W,H", help="Clear the ground by its colour, or round a box."
            ),
            click.option(
                "--clear-pale", type=float, metavar="SHARE", help="Clear what is paler than this share of the lightest."
            ),
            click.option(
                "--page-number",
                type=click.IntRange(1),
                metavar="N",
                help="Page of a PDF, or picture of a file that holds several. [default: 1]",
            ),
        )
    ):
        command = option(command)
    return command


def rows_of(
    picture: Picture,
    px_per_mm: Callable[[], float],
    straighten: str | None,
    even_light: bool,
    calm: str | None,
    sharpen: str | None,
    crop: str | None,
    clear: str | None,
    clear_pale: float | None,
) -> tuple[Row, ...]:
    """Make the rows of the flags, in the order of Prepare; `px_per_mm` is asked only where a length is in mm.

    Raises
    ------
    ArgumentError
    """
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
        rows.append(Calm(radius=parse_length(calm, "mm") * px_per_mm() / longer))
    if sharpen == "auto":
        rows.append(Sharpen())
    elif sharpen:
        rows.append(Sharpen(radius=parse_length(sharpen, "mm") * px_per_mm() / longer))
    if crop:
        rows.append(Crop(**_rectangle(crop, "--crop", longer)))
    if clear == "colour":
        rows.append(ClearColour())
    elif clear and clear.startswith("box:"):
        rows.append(ClearBox(**_rectangle(clear[4:], "--clear box", longer)))
    elif clear:
        raise ArgumentError(f"“{clear}” clears nothing; type colour, or box:X,Y,W,H in pixels.")
    if clear_pale is not None:
        rows.append(ClearPale(level=clear_pale))
    for row in rows:
        check_row(row)
    return tuple(rows)


def check_placed(name: str, rows: tuple[Row, ...], prepared: Prepared) -> None:
    """Stop at rows that found no place, and say which strokes did not; raises PictureError."""
    lost = [(row, done.unplaced) for row, done in zip(rows, prepared.done, strict=True) if done.unplaced]
    whole = [_FLAGS.get(type(row), type(row).__name__) for row, count in lost if count == parts_of(row)]
    if whole:
        raise PictureError(f"{name}: no place was found for {', '.join(whole)}; give places that lie on the picture.")
    for row, count in lost:
        click.echo(f"{name}: {count} of {parts_of(row)} strokes lie outside the picture and do nothing.", err=True)


_FLAGS = {Straighten: "--straighten", Crop: "--crop", ClearBox: "--clear box"}


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
