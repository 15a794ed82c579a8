"""Lengths, areas and times in words; lengths in the unit that a maker chose."""

import re
import time

from sketchloom.core.units import MM_PER_INCH

__all__ = ["area_words", "in_unit", "in_words", "length_words", "shortened", "time_words", "when_words"]

_MM = {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH}
_TOLD = re.compile(r"(\d+(?:\.(\d+))?) mm(²)?(?![\w²])")
"""A length or an area as the core words it."""


def in_unit(mm: float, unit: str, decimals: int = 1) -> str:
    """Write a length in mm, cm or in, without the unit; so many decimals of a mm."""
    return f"{mm / _MM[unit]:.{decimals + {'mm': 0, 'cm': 1, 'in': 1}[unit]}f}"


def length_words(mm: float, unit: str, decimals: int = 1) -> str:
    """Write a length with its unit."""
    return f"{in_unit(mm, unit, decimals)} {unit}"


def area_words(mm2: float, unit: str) -> str:
    """Write an area with its unit; of mm a large one in cm²."""
    if unit == "mm" and mm2 < 100:
        return f"{mm2:.2g} mm²"
    own = "cm" if unit == "mm" else unit
    value = mm2 / _MM[own] ** 2
    return f"{value:.2f} {own}²" if value >= 1 else f"{value:.2g} {own}²"


def in_words(sentence: str, unit: str) -> str:
    """Bring what the core tells in mm to the unit of the window."""
    if unit == "mm":
        return sentence

    def told(found: re.Match[str]) -> str:
        value, decimals, area = float(found[1]), len(found[2] or ""), found[3]
        return area_words(value, unit) if area else length_words(value, unit, decimals)

    return _TOLD.sub(told, sentence)


def time_words(seconds: float) -> str:
    """Write a time in minutes and seconds, a long one in hours and minutes."""
    whole = round(seconds)
    if whole < 3600:
        return f"{whole // 60}:{whole % 60:02d} min"
    return f"{whole // 3600} h {whole % 3600 // 60:02d} min"


def when_words(at: float) -> str:
    """Write a day and a time, given in s since 1970, as they are where the maker is."""
    there, today = time.localtime(at), time.localtime()
    form = "today" if there[:3] == today[:3] else "%d %B" if there[0] == today[0] else "%d %B %Y"
    return f"{time.strftime(form, there)} at {time.strftime('%H:%M', there)}"


def shortened(words: str, most: int = 40) -> str:
    """Words cut short, with three dots if they are."""
    return words if len(words) <= most else words[: most - 1].rstrip() + "…"
