"""Fixes tried: many at once, each judged by what is found at its own place."""

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.inspect.check import find_all
from sketchloom.core.inspect.compared import Compared, boxes_of, meets
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.progress import Tick, no_tick

__all__ = ["Trial", "all_with_sure_fixes", "holding", "with_sure_fixes"]

_ROOM = 0.5
"""mm beyond the widest limit that are looked at round a fix."""
_TOUCH = 0.1
"""mm beyond what a fix changes, in which what is found is its doing."""
_MANY = 150
"""Fixes, from which on none is tried by itself: a check of all costs too much for what few of them win."""
_MOST_ROUNDS = 3
"""After which of fixes that spoil each other nothing more is tried."""


class Trial(NamedTuple):
    """A fix that is to be tried for a finding."""

    finding: Finding
    fix: Fix

    def box(self, subject: Subject) -> Floats:
        """What it may change, and what is looked at round it: left, top, right, bottom, mm."""
        limits = subject.limits.get(self.finding.layer, {})
        return self.own_box(_ROOM + max(limits.get("neck", 0.0), limits.get("gap", 0.0)))

    def own_box(self, room: float = _TOUCH) -> Floats:
        """What it may change, and some room round that."""
        places = [place for mend in self.fix.mends for place in mend.places()]
        reach = max([0.0, *(length for mend in self.fix.mends for length in mend.lengths())])
        points = np.array([self.finding.box[:2], self.finding.box[2:], *places])
        return np.concatenate([points.min(0) - reach - room, points.max(0) + reach + room])


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
    at its own place before and after. One that does not hold is tried again if
    what is wrong may be another's doing, with the others like it, and then by
    itself: so a check costs what it costs a few times, however many fixes
    there are.

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
    own = np.array([one.own_box() for one in trials]).reshape(-1, 4)
    rest = list(range(len(trials)))
    subject = replace(subject, bare=True)
    for turn in range(_MOST_ROUNDS):
        if not rest:
            break
        tick(turn / _MOST_ROUNDS)
        here = subject.near(boxes[rest]) if turn else subject
        before = find_all(here) if turn else found
        after = here.mended(tuple(mend for row in rest for mend in trials[row].fix.mends))
        came = Compared(before, find_all(after))
        again = []
        for row in rest:
            judged = _judge(trials[row], came, here, after, boxes[row])
            out[row] = judged is None
            if judged is not None and _is_of_others(judged, row, rest, own):
                again.append(row)
        rest = _apart(boxes, again) if turn else again
        if turn and len(trials) > _MANY:
            break
    return out


def _judge(one: Trial, came: Compared, here: Subject, after: Subject, box: Floats) -> list[Floats] | None:
    """Where something is wrong after a fix, as boxes; None where it holds."""
    if came.remains(one.finding):
        return [np.array(one.finding.box)]
    new = boxes_of(came.come_of(one.finding))
    fresh = list(new[meets(new, box)])
    if not fresh and one.fix.name == "thicken" and _count(here, one, box) != _count(after, one, box):
        fresh = [one.own_box()]
    return fresh or None


def _is_of_others(wrong: list[Floats], row: int, rest: Sequence[int], own: Floats) -> bool:
    """Whether what is wrong may come of another fix than that of a row: it lies at one's place."""
    return all(
        any(other != row and meet for other, meet in zip(rest, meets(own[rest], box).tolist(), strict=True))
        or not meets(own[[row]], box)[0]
        for box in wrong
    )


def _apart(boxes: Floats, rows: Sequence[int]) -> list[int]:
    """Some rows whose boxes do not meet, the first of them first."""
    taken: list[int] = []
    for row in rows:
        if not meets(boxes[taken], boxes[row]).any():
            taken.append(row)
    return taken


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
