"""Findings: what will go wrong at the cutter, where, by how much, and what mends it."""

from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

from sketchloom.core.layers import AnyMend

__all__ = ["SAME_PLACE", "Box", "Change", "Finding", "Fix", "Severity", "Spot"]

Severity = Literal["spoils", "look"]
Spot = tuple[float, float]
"""mm from the page's top left."""
SAME_PLACE = 0.1
"""mm"""
Box = tuple[float, float, float, float]
"""Left, top, right and bottom, mm."""


class Change(NamedTuple):
    """Settings of one part of a recipe that become others."""

    part: str
    values: Mapping[str, Any]


class Fix(NamedTuple):
    """What mends a finding.

    Attributes
    ----------
    name : str
        One word, as reports have it.
    words : str
        What it does, for a button.
    mends : tuple of Mend
        Of outlines; their places are mm on the page.
    changes : tuple of Change
        Of settings.
    """

    name: str
    words: str
    mends: tuple[AnyMend, ...] = ()
    changes: tuple[Change, ...] = ()


class Finding(NamedTuple):
    """Something that spoils the cut, or is worth a look.

    Attributes
    ----------
    kind : str
    severity : {'spoils', 'look'}
    layer : str
        Key of its layer.
    at : (float, float)
        mm from the page's top left.
    box : (float, float, float, float)
        Extent, mm.
    measure, limit : float
    unit : str
    sentence : str
        What will happen, and where nothing mends it, why.
    fixes : tuple of Fix
        The first is the one that is proposed.
    """

    kind: str
    severity: Severity
    layer: str
    at: Spot
    box: Box
    measure: float
    limit: float
    unit: str
    sentence: str
    fixes: tuple[Fix, ...] = ()

    @property
    def fix(self) -> str | None:
        """Name of the fix that is proposed."""
        return self.fixes[0].name if self.fixes else None

    def is_still(self, old: "Finding") -> bool:
        """Whether it is an older finding that has not changed."""
        apart = max(abs(self.at[0] - old.at[0]), abs(self.at[1] - old.at[1]))
        same = abs(self.measure - old.measure) <= 0.02 * abs(old.measure) + 0.005
        return self.kind == old.kind and self.layer == old.layer and apart <= SAME_PLACE and same

    def is_at(self, other: "Finding", reach: float = 0.2) -> bool:
        """Whether another finding is of the same kind, at the same place."""
        a, b = self.box, other.box
        return (
            self.kind == other.kind
            and self.layer == other.layer
            and a[0] - reach <= b[2]
            and b[0] - reach <= a[2]
            and a[1] - reach <= b[3]
            and b[1] - reach <= a[3]
        )
