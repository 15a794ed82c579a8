"""Lengths and areas with their units, and sums of them."""

import re

from sketchloom.core.errors import ArgumentError

__all__ = ["DECIMALS", "FINEST", "MM_PER_INCH", "PX_PER_MM_UNSET", "parse_area", "parse_length", "parse_time"]

MM_PER_INCH = 25.4
DECIMALS = 3
"""Of a mm, in the files: a micrometre, a twentieth of what a cutter's step commonly is."""

FINEST = 6
"""Decimals of a mm that the smallest pixels need."""

PX_PER_MM_UNSET = 96 / MM_PER_INCH
"""Scale while no finished size is set: the px of CSS Values 3, 96 to the inch."""

_IN_MM = {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH, '"': MM_PER_INCH}
_TERM = re.compile(r"\s*([+-]?)\s*(\d+(?:[.,]\d*)?|[.,]\d+)(?:\s*/\s*(\d+))?\s*([a-z\"]*)([2²]?)\s*", re.I)


def _sum_of_terms(text: str, power: int, default_unit: str | None) -> float:
    what, example = ("A length", "180mm or 7in") if power == 1 else ("An area", "1mm2 or 2in2")
    total, place = 0.0, 0
    if not text.strip():
        raise ArgumentError(f"{what} is missing; type a number with its unit, for example {example}.")
    while place < len(text):
        match = _TERM.match(text, place)
        if not match or (place and not match[1]):
            raise ArgumentError(f"“{text}” is not {what.lower()}; type a number with its unit, for example {example}.")
        sign, number, divisor, unit, squared = match.groups()
        unit = unit.lower() or default_unit
        if unit not in _IN_MM or (divisor and not int(divisor)) or bool(squared) > (power == 2):
            raise ArgumentError(f"“{text}” is not {what.lower()}; use mm, cm or in, for example {example}.")
        value = float(number.replace(",", ".")) / (int(divisor) if divisor else 1)
        total += (-1 if sign == "-" else 1) * value * _IN_MM[unit] ** power
        place = match.end()
    return total


def parse_length(text: str, default_unit: str | None = None) -> float:
    """Read a length, or a sum of lengths, in mm.

    Parameters
    ----------
    text : str
        For example ``180mm``, ``7in`` or ``19.5in - 1/2in``.
    default_unit : str, optional
        Unit of a number that has none; without it such a number is refused.

    Raises
    ------
    ArgumentError
        If it is not a length.

    Examples
    --------
    >>> parse_length("19.5in - 1/2in")
    482.59999999999997
    """
    return _sum_of_terms(text, 1, default_unit)


def parse_area(text: str, default_unit: str | None = None) -> float:
    """Read an area such as ``1mm2`` in mm²; raises `ArgumentError` as `parse_length` does."""
    return _sum_of_terms(text, 2, default_unit)


_CLOCK = re.compile(r"(?:(\d+):)?(\d+):(\d\d)(?:\s*(?:min|h))?$")
_TIME = re.compile(r"(\d+(?:[.,]\d+)?)\s*(h|min|m|s)?", re.I)
_IN_S = {"h": 3600.0, "min": 60.0, "m": 60.0, "s": 1.0}


def parse_time(text: str) -> float:
    """Read a time in s, such as ``1:54``, ``1:02:03``, ``1 h 5 min`` or ``90 s``; a bare number is minutes.

    Raises
    ------
    ArgumentError
        If it is not a time.
    """
    text = text.strip()
    clock = _CLOCK.match(text) if len(text) < 40 else None
    if clock is not None:
        hours, minutes, seconds = (int(part or 0) for part in clock.groups())
        return 3600.0 * hours + 60.0 * minutes + seconds
    terms = _TIME.findall(text[:40])
    bare = sum(not unit for _, unit in terms)
    if len(text) >= 40 or not terms or _TIME.sub("", text).strip() or (bare and len(terms) > 1):
        raise ArgumentError(f"“{text[:40]}” is not a time; type minutes, or for example 1:54 or 90 s.")
    return sum(float(value.replace(",", ".")) * _IN_S[(unit or "min").lower()] for value, unit in terms)
