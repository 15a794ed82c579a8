"""The recipe: one frozen value that says all that is done to a picture."""

import math
from typing import Any

import msgspec

from sketchloom.core.curves import TraceSettings
from sketchloom.core.errors import ArgumentError
from sketchloom.core.layers import FinishSettings, LayerSettings
from sketchloom.core.picture import Row, check_row
from sketchloom.core.regions import SeparateSettings, TidySettings

__all__ = ["Recipe"]

MOST_INKS_ASKED = 48
_LONGEST_NAME = 40
_LONGEST = 100.0
"""mm"""
_FARTHEST = 100.0
"""CIE76"""


class Recipe(msgspec.Struct, frozen=True):
    """The settings of every stage, in working order."""

    prepare: tuple[Row, ...] = ()
    separate: SeparateSettings = SeparateSettings()
    tidy: TidySettings = TidySettings()
    trace: TraceSettings = TraceSettings()
    layers: LayerSettings = LayerSettings()
    finish: FinishSettings = FinishSettings()

    def with_(self, stage: str, **changes: Any) -> "Recipe":
        """Give a recipe that differs in some settings of one stage."""
        return msgspec.structs.replace(self, **{stage: msgspec.structs.replace(getattr(self, stage), **changes)})

    def check(self) -> "Recipe":
        """Return itself if every value can be used.

        Raises
        ------
        ArgumentError
            Names the value and the range it must lie in.
        """
        for row in self.prepare:
            check_row(row)
        inks = self.separate.inks
        if inks is not None and not 1 <= inks <= MOST_INKS_ASKED:
            raise ArgumentError(f"{inks} inks cannot be separated; type a number from 1 to {MOST_INKS_ASKED}.")
        for _, name in self.separate.names:
            if not name.strip() or len(name) > _LONGEST_NAME:
                raise ArgumentError(f"“{name[:20]}” is no name for an ink; type 1 to {_LONGEST_NAME} letters.")
        _check_separate(self.separate)
        if not (math.isfinite(self.trace.smoothness) and 0 <= self.trace.smoothness <= 100):
            raise ArgumentError(f"A smoothness of {self.trace.smoothness:g} mm cannot be used; type 0 to 100 mm.")
        _check_trace(self.trace)
        if not (math.isfinite(self.tidy.least_area) and 0 <= self.tidy.least_area <= 1e6):
            raise ArgumentError(f"A least area of {self.tidy.least_area:g} mm² cannot be used; type 0 to 1000000 mm².")
        for side in (self.finish.width, self.finish.height):
            if side is not None and not 0.1 <= side <= 100_000:
                raise ArgumentError(f"A finished size of {side:g} mm cannot be cut; type one from 0.1 mm to 100 m.")
        return self


def _check_trace(trace: TraceSettings) -> None:
    for what, length in (("A straightness", trace.straightness), ("A difference of halves", trace.mirror)):
        if not (math.isfinite(length) and 0 <= length <= _LONGEST):
            raise ArgumentError(f"{what} of {length:g} mm cannot be used; type 0 to {_LONGEST:g} mm.")
    for what, angle, most in (("A corner", trace.corner, 180), ("Squaring up", trace.square, 45)):
        if not 0 <= angle <= most:
            raise ArgumentError(f"{what} of {angle:g}° cannot be used; type 0 to {most}°.")
    for edit in trace.edits:
        points = (edit.first, edit.last, edit.through, *edit.curve)
        if not edit.straight or len(edit.curve) != 3 * len(edit.straight) + 1:
            raise ArgumentError(f"“{edit.what[:20]}” is no change by hand that can be used: its curve is not whole.")
        if not all(math.isfinite(value) for point in points for value in point):
            raise ArgumentError(f"“{edit.what[:20]}” is no change by hand that can be used: its place is no number.")


def _check_separate(separate: SeparateSettings) -> None:
    shares = (
        ("A threshold", separate.threshold),
        ("A faint stroke's share", separate.faint),
        ("A strength", separate.strength),
    )
    for what, share in shares:
        if share is not None and not 0 < share < 1:
            raise ArgumentError(f"{what} of {share:g} splits nothing; type a share between 0 and 1.")
    for what, length in (("A detail", separate.detail), ("A gap", separate.gap)):
        if length is not None and not (math.isfinite(length) and 0 <= length <= _LONGEST):
            raise ArgumentError(f"{what} of {length:g} mm cannot be used; type 0 to {_LONGEST:g} mm.")
    for pick in separate.picks:
        if not 0 <= pick.reach <= _FARTHEST:
            raise ArgumentError(f"A reach of {pick.reach:g} picks nothing of use; type 0 to {_FARTHEST:g}.")
    colours = [separate.ink_colour, *separate.grounded, *separate.locked, *(fill.colour for fill in separate.fills)]
    for pair in (*separate.joined, *separate.shown):
        colours += pair
    for colour in colours:
        if colour is not None and not all(0 <= value <= 255 for value in colour):
            raise ArgumentError(f"{colour} is no colour; its three values go from 0 to 255.")
