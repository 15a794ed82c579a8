"""Findings in words and colours."""

from sketchloom.core.inspect import KINDS, Finding
from sketchloom.core.measures import area_words, in_unit

__all__ = ["ROLE", "against", "measure_words", "title_of"]

ROLE = {"spoils": "madder", "look": "ochre"}
"""The colour token of a severity; words tell it too."""
_UNIT = {"deg": "°", "times": "×", "dE": "", "px": " px", "pieces": "", "objects": ""}


def title_of(finding: Finding) -> str:
    """What kind of finding it is."""
    return KINDS[finding.kind].title


def measure_words(value: float, kind_unit: str, unit: str) -> str:
    """A measure with its unit, lengths in that of the window."""
    if kind_unit == "mm":
        return f"{in_unit(value, unit, 2)} {unit}"
    if kind_unit == "mm2":
        return area_words(value, unit)
    decimals = 0 if kind_unit in ("deg", "pieces", "objects") else 1
    return f"{value:.{decimals}f}{_UNIT.get(kind_unit, '')}"


def against(finding: Finding, unit: str) -> str:
    """The measure against its limit; empty for kinds without one."""
    if not finding.unit:
        return ""
    measure = measure_words(finding.measure, finding.unit, unit)
    return f"{measure}, limit {measure_words(finding.limit, finding.unit, unit)}" if finding.limit else measure
