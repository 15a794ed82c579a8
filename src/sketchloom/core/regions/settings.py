"""What a maker decides about the inks."""

from typing import Literal

import msgspec

from sketchloom.core.palette import Colour
from sketchloom.core.picture import Point

__all__ = ["Closing", "Fill", "Pick", "SeparateSettings"]


class Pick(msgspec.Struct, frozen=True):
    """What has the colour of a place becomes an ink of its own, or part of another."""

    at: Point
    reach: float = 10.0
    """CIE76 distance up to which a pixel has the place's colour."""
    everywhere: bool = False
    """All of that colour, not only what hangs together with the place."""
    to: str | None = None
    """Key of the ink it joins; None for one of its own."""
    ground: bool = False
    """Whether it is cleared."""
    key: str = ""
    """Of its own ink; empty takes the colour of the place."""


class Closing(msgspec.Struct, frozen=True):
    """A stroke that closes a leak of line art."""

    first: Point
    last: Point
    width: float
    """In lengths of the opened picture's longer side."""


class Fill(msgspec.Struct, frozen=True):
    """The colour of one enclosed area of line art; None leaves it paper."""

    at: Point
    colour: Colour | None


class SeparateSettings(msgspec.Struct, frozen=True):
    """What a maker decides about the inks.

    Inks are named by their keys, places in source coordinates.
    """

    mode: Literal["auto", "flat", "ink", "lineart", "photo"] = "auto"
    inks: int | None = None
    """Number of inks, of steps of light, or of colours proposed for line art."""
    ground: Literal["auto", "keep"] = "auto"

    names: tuple[tuple[str, str], ...] = ()
    grounded: tuple[str, ...] = ()
    """Inks sent to the ground."""
    joined: tuple[tuple[str, str], ...] = ()
    """Inks that became part of another."""
    locked: tuple[str, ...] = ()
    """Inks that stay when fewer are wanted."""
    shown: tuple[tuple[str, Colour], ...] = ()
    """Colours in which inks are shown and sent."""
    shades: tuple[tuple[str, int], ...] = ()
    """Inks of a group of shades, by its key; an empty key means every group that has none of its own."""
    picks: tuple[Pick, ...] = ()
    layers: tuple[tuple[Colour, str], ...] = ()
    """Flat colours that separate drawings were laid into one picture with, the bottom one first."""

    threshold: float | None = None
    """Ink drawing: darker than this share of the paper's light is ink."""
    local: bool | None = None
    """Whether the threshold follows the strength of the strokes near by; None goes by their evenness."""
    faint: float | None = None
    """Strokes up to this share of the light are kept where they hang together with ink."""
    strength: float | None = None
    """Marks that are nowhere darker than this share of the light are left out."""
    silhouette: bool = False
    """Whether the outline is filled."""
    ink_colour: Colour | None = None
    """Only ink of this colour counts."""

    close_gaps: bool = False
    """Line art: whether every leak that is found is closed."""
    gap: float | None = None
    """mm; the widest leak looked for. None takes six stroke widths."""
    closings: tuple[Closing, ...] = ()
    fills: tuple[Fill, ...] = ()

    steps_by: Literal["light", "colour"] = "light"
    """Photo: nested steps of light, or a few flat colours."""
    detail: float = 1.0
    """Photo: mm; smaller detail is smoothed away."""
