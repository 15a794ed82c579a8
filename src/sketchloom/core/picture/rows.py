"""The rows of Prepare: what can be done to a picture, as frozen values.

Places are source coordinates, fractions of the opened picture's longer side,
so that a row keeps its place whatever the other rows do, and on the same
picture at another size.
"""

import math
from collections.abc import Iterator

import msgspec

from sketchloom.core.errors import ArgumentError
from sketchloom.core.palette import Colour

__all__ = [
    "Calm",
    "ClearBox",
    "ClearColour",
    "ClearOutline",
    "ClearPale",
    "Crop",
    "Enlarge",
    "EvenLight",
    "MirrorHalf",
    "Paint",
    "Point",
    "Row",
    "Sharpen",
    "Straighten",
    "Stroke",
    "Turn",
    "check_row",
    "parts_of",
]

Point = tuple[float, float]


class Stroke(msgspec.Struct, frozen=True):
    """One stroke of a round brush; a single point makes a dot."""

    points: tuple[Point, ...]
    width: float
    """Of the brush, a fraction of the longer side, at the place it is used."""


class _Row(msgspec.Struct, frozen=True, tag=True, kw_only=True):
    on: bool = True


class Straighten(_Row, frozen=True, tag="straighten", kw_only=True):
    """Lay a page straight; without corners they are found."""

    corners: tuple[Point, Point, Point, Point] | None = None


class EvenLight(_Row, frozen=True, tag="even-light", kw_only=True):
    """Divide by the light on the bare paper."""


class Calm(_Row, frozen=True, tag="calm", kw_only=True):
    """Smooth noise, not edges."""

    radius: float
    """Of the largest grain, a fraction of the longer side."""


class Sharpen(_Row, frozen=True, tag="sharpen", kw_only=True):
    """Sharpen a blur, without a halo."""

    radius: float | None = None
    """Of the blur, a fraction of the longer side; None measures it."""


class Enlarge(_Row, frozen=True, tag="enlarge", kw_only=True):
    """Make a small picture larger, with smooth edges."""

    times: int = 2


class Crop(_Row, frozen=True, tag="crop", kw_only=True):
    """Keep a rectangle: its top left and bottom right."""

    first: Point
    last: Point


class Turn(_Row, frozen=True, tag="turn", kw_only=True):
    """Turn by quarters to the right, then mirror left and right."""

    quarters: int = 0
    mirror: bool = False


class MirrorHalf(_Row, frozen=True, tag="mirror-half", kw_only=True):
    """Put the mirror image of one half in the place of the other.

    The axis runs through `first` and `last`, along the nearer edge of the
    picture; `keep` lies in the half that stays.
    """

    first: Point
    last: Point
    keep: Point


class ClearColour(_Row, frozen=True, tag="clear-colour", kw_only=True):
    """Clear the ground by its colour; None takes the border's."""

    colour: Colour | None = None
    reach: float = 24.0
    everywhere: bool = False
    at: Point | None = None
    """A place in the area that goes; None takes those that reach the border."""


class ClearPale(_Row, frozen=True, tag="clear-pale", kw_only=True):
    """Clear everything paler than a level: watermarks, pencil guides, fuzz."""

    level: float = 0.76
    """A share of the lightest."""


class ClearBox(_Row, frozen=True, tag="clear-box", kw_only=True):
    """Clear all but the subject in a box: its top left and bottom right.

    Strokes of `keep` and `drop` say what belongs to it where the cut errs.
    """

    first: Point
    last: Point
    keep: tuple[Stroke, ...] = ()
    drop: tuple[Stroke, ...] = ()


class ClearOutline(_Row, frozen=True, tag="clear-outline", kw_only=True):
    """Clear all that lies outside a closed line."""

    points: tuple[Point, ...]


class Paint(_Row, frozen=True, tag="paint", kw_only=True):
    """Paint strokes in a colour; None rubs out."""

    strokes: tuple[Stroke, ...]
    colour: Colour | None = None


Row = (
    Straighten
    | EvenLight
    | Calm
    | Sharpen
    | Enlarge
    | Crop
    | Turn
    | MirrorHalf
    | ClearColour
    | ClearPale
    | ClearBox
    | ClearOutline
    | Paint
)


def parts_of(row: Row) -> int:
    """How many parts of a row want a place of their own: the row, or its strokes."""
    if isinstance(row, Paint):
        return len(row.strokes)
    if isinstance(row, ClearBox):
        return 1 + len(row.keep) + len(row.drop)
    return 1


def check_row(row: Row) -> None:
    """Refuse values that no picture can use; raises ArgumentError."""
    for name, value, low, high in _bounded(row):
        if not (math.isfinite(value) and low <= value <= high):
            raise ArgumentError(f"A {name} of {value:g} cannot be used in Prepare; take {low:g} to {high:g}.")


def _bounded(row: Row) -> Iterator[tuple[str, float, float, float]]:
    """Numbers of a row, each with its name and its bounds."""
    fields = {name: getattr(row, name) for name in row.__struct_fields__}
    points: list[Point] = [fields[name] for name in ("first", "last", "at") if fields.get(name) is not None]
    points += [*(fields.get("corners") or ()), *fields.get("points", ())]
    strokes: tuple[Stroke, ...] = (*fields.get("strokes", ()), *_touches(row))
    points += [point for stroke in strokes for point in stroke.points]
    yield from (("place", value, -100, 100) for point in points for value in point)
    yield from (("brush width", stroke.width, 0, 1) for stroke in strokes)
    yield from (("number of points", len(stroke.points), 1, 1_000_000) for stroke in strokes)
    yield from (("colour value", value, 0, 255) for value in fields.get("colour") or ())
    if "points" in fields:
        yield "number of points", len(fields["points"]), 3, 1_000_000
    for name, low, high in (("radius", 0, 0.2), ("level", 0, 1), ("reach", 0, 255), ("times", 1, 8)):
        if fields.get(name) is not None:
            yield name, fields[name], low, high


def _touches(row: Row) -> tuple[Stroke, ...]:
    return (*row.keep, *row.drop) if isinstance(row, ClearBox) else ()
