"""Findings before and after a change: what remains of them, and what has come."""

from collections.abc import Sequence
from functools import cached_property
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.inspect.finding import SAME_PLACE, Finding

__all__ = ["Compared", "Places", "boxes_of", "meets"]


def meets(boxes: Floats, box: Floats) -> Bools:
    """Which boxes meet one."""
    out: Bools = (boxes[:, 0] <= box[2]) & (boxes[:, 2] >= box[0]) & (boxes[:, 1] <= box[3]) & (boxes[:, 3] >= box[1])
    return out


def boxes_of(found: Sequence[Finding]) -> Floats:
    """Extents of findings, (n, 4) mm."""
    return np.array([one.box for one in found]).reshape(-1, 4)


class _Alike(NamedTuple):
    """Findings of one kind on one layer."""

    rows: list[int]
    boxes: Floats
    spots: Floats


class Places:
    """Findings, looked up by what and where they are, so that no list of them is walked once for each of another."""

    def __init__(self, found: Sequence[Finding]) -> None:
        self.found = tuple(found)
        boxes = boxes_of(found)
        spots = np.array([one.at for one in found]).reshape(-1, 2)
        rows: dict[tuple[str, str], list[int]] = {}
        for row, one in enumerate(found):
            rows.setdefault((one.kind, one.layer), []).append(row)
        self._alike = {what: _Alike(own, boxes[own], spots[own]) for what, own in rows.items()}

    def at(self, finding: Finding) -> list[Finding]:
        """Those that are at the place of a finding of their kind, the first first."""
        alike = self._alike.get((finding.kind, finding.layer))
        if alike is None:
            return []
        near = meets(alike.boxes, np.array(finding.box) + np.array([-1, -1, 1, 1]))
        return [one for one in self._of(alike, near) if one.is_at(finding)]

    def same_as(self, finding: Finding) -> list[Finding]:
        """Those that a finding still is."""
        alike = self._alike.get((finding.kind, finding.layer))
        if alike is None:
            return []
        near = np.abs(alike.spots - finding.at).max(1) <= SAME_PLACE
        return [one for one in self._of(alike, near) if finding.is_still(one)]

    def _of(self, alike: _Alike, chosen: Bools) -> list[Finding]:
        return [self.found[alike.rows[place]] for place in np.flatnonzero(chosen).tolist()]


class Compared:
    """Findings before a change, and after it."""

    def __init__(self, before: Sequence[Finding], after: Sequence[Finding]) -> None:
        self._before, self._after = Places(before), Places(after)

    def holds(self, finding: Finding) -> bool:
        """Whether a finding is gone, and nothing as bad has come.

        Of pieces that are placed by hand there are fewer.
        """
        return not self.remains(finding) and not self.come_of(finding)

    def remains(self, finding: Finding) -> bool:
        """Whether a finding is still there, or another has come in its place."""
        for other in self._after.at(finding):
            if finding.kind == "loose" and other.measure < finding.measure:
                continue
            if all(old.is_still(finding) for old in self._before.same_as(other)):
                return True
        return False

    def come_of(self, finding: Finding) -> tuple[Finding, ...]:
        """What was not there before the fix of a finding, and is as bad."""
        return self.come if finding.severity == "look" else self.come_bad

    @cached_property
    def come(self) -> tuple[Finding, ...]:
        """What was not there before."""
        return tuple(one for one in self._after.found if not self._before.at(one))

    @cached_property
    def come_bad(self) -> tuple[Finding, ...]:
        """What of it spoils the cut."""
        return tuple(one for one in self.come if one.severity == "spoils")
