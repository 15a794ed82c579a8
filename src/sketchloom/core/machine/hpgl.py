"""A reader of HP-GL, as a plotter takes it: pens, pen up and down, absolute coordinates.

Of the instruction set (Hewlett-Packard, "The HP-GL/2 and HP RTL Reference
Guide", 1997, chapters 2 and 5) those that cutters are sent: IN, SP, PU, PD, PA.
"""

import re
from typing import NamedTuple

from sketchloom.core.errors import ArgumentError

__all__ = ["UNIT", "Drawn", "read_hpgl"]

UNIT = 0.025
"""mm of a plotter unit."""
_COMMAND = re.compile(r"\s*([A-Za-z]{2})([^;A-Za-z]*);?")


class Drawn(NamedTuple):
    """What a pen draws without going up; plotter units."""

    pen: int
    points: tuple[tuple[int, int], ...]


def read_hpgl(data: bytes) -> tuple[Drawn, ...]:
    """Follow the pen through a file.

    Raises
    ------
    ArgumentError
        For an instruction that is none of those known here, or coordinates that are none.
    """
    text = data.decode("ascii", "replace")
    out: list[Drawn] = []
    line: list[tuple[int, int]] = []
    at, pen, down, end = (0, 0), 0, False, 0

    def lift() -> None:
        if len(line) > 1:
            out.append(Drawn(pen, tuple(line)))
        line.clear()

    while end < len(text.rstrip()):
        found = _COMMAND.match(text, end)
        if found is None:
            raise ArgumentError(f"“{text[end : end + 20]}” is no HP-GL.")
        end, word, told = found.end(), found[1].upper(), found[2].strip()
        try:
            numbers = [int(value) for value in re.split(r"[,\s]+", told)] if told else []
        except ValueError:
            raise ArgumentError(f"“{told[:20]}” are no coordinates of HP-GL.") from None
        if word == "IN":
            lift()
            at, pen, down = (0, 0), 0, False
        elif word == "SP":
            lift()
            pen, down = (numbers or [0])[0], False
        elif word in ("PU", "PD", "PA"):
            if word != "PA" and down is not (word == "PD"):
                lift()
                down = word == "PD"
                if down:
                    line.append(at)
            if len(numbers) % 2:
                raise ArgumentError(f"{word} has half a point of HP-GL.")
            for place in range(0, len(numbers), 2):
                at = numbers[place], numbers[place + 1]
                if down:
                    line.append(at)
        else:
            raise ArgumentError(f"{word} is no instruction of HP-GL that is known here.")
    lift()
    return tuple(out)
