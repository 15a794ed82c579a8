"""By what planned times are corrected: how long cuts took that were logged."""

from collections.abc import Sequence
from statistics import median
from typing import NamedTuple

from sketchloom.core.logbook.entry import Entry

__all__ = ["CUTS", "LEAST_CUTS", "RULE", "Correction", "correction_of"]

LEAST_CUTS, CUTS = 3, 9
_LEAST, _MOST = 0.2, 5.0
"""Of a planned time; what lies beyond was a break or a slip of the pen."""
RULE = (
    f"Times are multiplied by the median of taken to planned of the last {CUTS} cuts logged on the cutter, "
    f"once there are {LEAST_CUTS}."
)


class Correction(NamedTuple):
    """By what a planned time is multiplied."""

    times: float
    cuts: int
    """That it follows from; fewer than `LEAST_CUTS` change nothing."""


def correction_of(entries: Sequence[Entry]) -> Correction:
    """Follow `RULE`, given cuts on one cutter, newest first; those without both times are passed over.

    Lines that were logged at once, a stock each, are one cut.
    """
    cuts: dict[int, list[float]] = {}
    for one in entries:
        if one.taken is not None and one.taken > 0 < one.planned:
            both = cuts.setdefault(one.at, [0.0, 0.0])
            both[0] += one.taken
            both[1] += one.planned
    ratios = [taken / planned for taken, planned in cuts.values()]
    ratios = [ratio for ratio in ratios if _LEAST <= ratio <= _MOST][:CUTS]
    return Correction(median(ratios) if len(ratios) >= LEAST_CUTS else 1.0, len(ratios))
