"""Fixes tried: many at once, each judged by what is found at its own place."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.inspect.check import find_all, holds
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Trial", "all_with_sure_fixes", "holding", "meets", "with_sure_fixes"]

_ROOM = 0.5
"""mm beyond the widest limit that are looked at round a fix."""
_MOST_ROUNDS = 4
"""After which of fixes that spoil each other nothing more is tried."""


class Trial(NamedTuple):
    """A fix that is to be tried for a finding."""

    finding: Finding
    fix: Fix

    def box(self, subject: Subject) -> Floats:
        """What it may change, and what is looked at round it: left, top, right, bottom, mm."""
        places = [place for mend in self.fix.mends for place in mend.places()]
        reach = max([0.0, *(length for mend in self.fix.mends for length in mend.lengths())])
        points = np.array([self.finding.box[:2], self.finding.box[2:], *places])
        limits = subject.limits.get(self.finding.layer, {})
        room = reach + _ROOM + max(limits.get("neck", 0.0), limits.get("gap", 0.0))
        return np.concatenate([points.min(0) - room, points.max(0) + room])


def with_sure_fixes(subject: Subject, found: tuple[Finding, ...], finding: Finding) -> Finding:
    """Keep the mends of one finding that remove it and bring nothing as bad; say so where none does."""
    return all_with_sure_fixes(subject, found, [finding])[0]


def all_with_sure_fixes(
    subject: Subject, found: tuple[Finding, ...], findings: Sequence[Finding], tick: Tick = no_tick
) -> tuple[Finding, ...]:
    """Keep the mends of findings that remove them and bring nothing as bad; say so where none does.

    Changes of settings are kept: whether they hold, only a run can tell. Of
    fixes of one name the first that does it is kept.

    Parameters
    ----------
    subject : Subject
    found : tuple of Finding
        All of the subject's.
    findings : sequence of Finding
        Those whose fixes are to be tried.
    tick : callable
    """
    locked = subject.origin.locked if subject.origin is not None else frozenset()
    kept: list[list[Fix]] = [[] for _ in findings]
    turns = max((len(one.fixes) for one in findings), default=0)
    for turn in range(turns):
        trials: dict[int, Trial] = {}
        for row, one in enumerate(findings):
            fix = one.fixes[turn] if turn < len(one.fixes) and one.layer not in locked else None
            if fix is None or any(fix.name == other.name for other in kept[row]):
                continue  # it does already, and with less
            if fix.changes:
                kept[row].append(fix)
            else:
                trials[row] = Trial(one, fix)
        held = holding(
            subject,
            found,
            list(trials.values()),
            lambda share, turn=turn: tick((turn + share) / turns),  # type: ignore[misc]
        )
        for (row, trial), good in zip(trials.items(), held, strict=True):
            if good:
                kept[row].append(trial.fix)
    return tuple(_told(one, tuple(own), one.layer in locked) for one, own in zip(findings, kept, strict=True))


def _told(finding: Finding, fixes: tuple[Fix, ...], is_locked: bool) -> Finding:
    """A finding with the fixes that are left, and why there is none."""
    sentence = finding.sentence
    if is_locked:
        sentence += " Its layer is locked, and stays as it is."
    elif not fixes and finding.kind == "neck":
        sentence += " There is no room to widen it: it would grow together with what lies beside it, or make something"
        sentence += " as bad; change the drawing here, or the size."
    elif not fixes and finding.fixes:
        sentence += " What would mend it makes something as bad beside it; change the drawing here, or the size."
    return finding._replace(fixes=fixes, sentence=sentence)


def holding(subject: Subject, found: tuple[Finding, ...], trials: Sequence[Trial], tick: Tick = no_tick) -> list[bool]:
    """Tell which fixes remove their finding and bring nothing as bad.

    All are done at once and checked once, and each is judged by what is found
    at its own place before and after. One that does not hold, but had others
    beside it, is tried again with the others that did not: so a check costs
    what it costs a few times, however many fixes there are.

    Parameters
    ----------
    subject : Subject
    found : tuple of Finding
        All of the subject's.
    trials : sequence of Trial
    tick : callable
    """
    out = [False] * len(trials)
    boxes = np.array([one.box(subject) for one in trials]).reshape(-1, 4)
    before, rest = _Found(found), list(range(len(trials)))
    for turn in range(_MOST_ROUNDS):
        if not rest:
            break
        tick(turn / _MOST_ROUNDS)
        after = subject.mended(tuple(mend for row in rest for mend in trials[row].fix.mends))
        left = _Found(find_all(after))
        failed = []
        for row in rest:
            one, box = trials[row], boxes[row]
            out[row] = holds(before.within(box), left.within(box), one.finding) and (
                one.fix.name != "thicken" or _count(subject, one, box) == _count(after, one, box)
            )
            if not out[row]:
                failed.append(row)
        rest = [row for row in failed if meets(boxes[rest], boxes[row]).sum() > 1]
        if turn:  # of those that spoil each other again, ones that lie apart
            rest = _apart(boxes, rest)
    return out


def meets(boxes: Floats, box: Floats) -> Bools:
    """Which boxes meet one."""
    out: Bools = (boxes[:, 0] <= box[2]) & (boxes[:, 2] >= box[0]) & (boxes[:, 1] <= box[3]) & (boxes[:, 3] >= box[1])
    return out


def _apart(boxes: Floats, rows: Sequence[int]) -> list[int]:
    """Some rows whose boxes do not meet, the first of them first."""
    taken: list[int] = []
    for row in rows:
        if not meets(boxes[taken], boxes[row]).any():
            taken.append(row)
    return taken


class _Found:
    """Findings, looked up by place."""

    def __init__(self, found: tuple[Finding, ...]) -> None:
        self._found = found
        self._boxes = np.array([one.box for one in found]).reshape(-1, 4)

    def within(self, box: Floats) -> tuple[Finding, ...]:
        """Those that reach into a box."""
        return tuple(self._found[row] for row in np.flatnonzero(meets(self._boxes, box)).tolist())


def _count(subject: Subject, trial: Trial, box: Floats) -> tuple[int, int]:
    """Pieces and windows of the layer of a trial that reach into a box."""
    layer = subject.layer(trial.finding.layer)
    if layer is None:
        return 0, 0
    outline = subject.outline(layer)
    shapes = outline.pieces.shapes[np.sort(outline.tree.query(shapely.box(*box)))]
    rings = shapely.get_rings(shapes)
    near = shapely.intersects(rings, shapely.box(*box))
    return len(shapes), int(near.sum()) - len(shapes)
