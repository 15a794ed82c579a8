"""Mend many findings at once: the fixes that hold together."""

from collections.abc import Sequence
from typing import NamedTuple

import shapely

from sketchloom.core.inspect.check import find_all, shape_of
from sketchloom.core.inspect.compared import Compared, Places, boxes_of, meets
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.inspect.trials import Trial, holding
from sketchloom.core.layers import AnyMend
from sketchloom.core.progress import Tick, no_tick

__all__ = ["MendedAll", "mend_all", "sure_fixes"]

_MOST_PASSES = 4
_LEFT = 0.5
"""Of a layer's area, that is there yet after pieces were dropped."""
_MOST_CHECKS = 8
"""After which what does not hold together with the rest is left as it is."""


class MendedAll(NamedTuple):
    """What came of mending many findings.

    Attributes
    ----------
    subject : Subject
        After all mends.
    findings : tuple of Finding
        What is left.
    fixes : tuple of Fix
        That were done, in order.
    """

    subject: Subject
    findings: tuple[Finding, ...]
    fixes: tuple[Fix, ...]


def mend_all(
    subject: Subject, found: tuple[Finding, ...], chosen: Sequence[Finding], tick: Tick = no_tick
) -> MendedAll:
    """Mend findings by what their fixes do to outlines, each only if it removes its finding and brings nothing as bad.

    The first fix of each that holds is taken; all are done at once. Where
    together they bring anything new, those beside it are left out, and where
    none is beside it, half of them. What is left is tried again on what came
    of it, while that mends more. Small pieces that are most of a layer are not
    dropped.

    Parameters
    ----------
    subject : Subject
    found : sequence of Finding
        Of the subject.
    chosen : sequence of Finding
        Those that are to be mended, among them.
    tick : callable
    """
    done: list[Fix] = []
    whole: set[str] = set()  # layers that are not thinned out
    for turn in range(_MOST_PASSES):  # what spoilt each other may be mended one after the other
        there = Places(found)
        open_yet = [one for one in chosen if there.at(one)]
        before = len(done), len(whole)
        widening = [one for one in open_yet if one.fix == "thicken"]
        rest = [one for one in open_yet if one.fix != "thicken"]
        for part, group in enumerate((rest, widening)):  # what is widened last sees what all else has become

            def share(of: float, part: int = part, turn: int = turn) -> None:
                tick((turn + (part + of) / 2) / _MOST_PASSES)

            made = _mended_together(subject, found, group, whole, share)
            subject, found = made.subject, made.findings
            done += made.fixes
        if (len(done), len(whole)) == before:
            break
    return MendedAll(subject, found, tuple(done))


def _mended_together(
    subject: Subject, found: tuple[Finding, ...], group: Sequence[Finding], whole: set[str], tick: Tick
) -> MendedAll:
    """Do the fixes of some findings that hold together; layers that lose most of what they are by it become `whole`."""
    places = Places(found)
    wanted = [_kept_whole(there[0], whole) for one in group if (there := places.at(one))]
    picked = sure_fixes(subject, found, wanted, tick)
    for _ in range(_MOST_CHECKS):
        fixes = _once([trial.fix for trial in picked])
        if not fixes:
            break
        after = subject.mended(tuple(mend for fix in fixes for mend in fix.mends))
        left = find_all(after)
        whole |= _thinned_out(subject, after, picked)
        bad = {row for row, trial in enumerate(picked) if trial.fix.name == "drop" and trial.finding.layer in whole}
        bad = bad or _do_not_hold(subject, after, found, left, picked)
        if not bad:
            return MendedAll(after, left, tuple(fixes))
        picked = [trial for row, trial in enumerate(picked) if row not in bad]
    return MendedAll(subject, found, ())


def sure_fixes(
    subject: Subject, found: tuple[Finding, ...], wanted: Sequence[Finding], tick: Tick = no_tick
) -> list[Trial]:
    """The first fix of outlines that holds for each finding; findings that none mends are left out."""
    out: dict[int, Trial] = {}
    for turn in range(max((len(one.fixes) for one in wanted), default=0)):
        open_yet = [row for row, one in enumerate(wanted) if row not in out and turn < len(one.fixes)]
        trials = {row: Trial(wanted[row], wanted[row].fixes[turn]) for row in open_yet if wanted[row].fixes[turn].mends}
        kept = holding(subject, found, list(trials.values()), tick)
        out |= {row: trial for (row, trial), good in zip(trials.items(), kept, strict=True) if good}
    return [out[row] for row in sorted(out)]


def _do_not_hold(
    before: Subject, after: Subject, found: tuple[Finding, ...], left: tuple[Finding, ...], picked: Sequence[Trial]
) -> set[int]:
    """Which of fixes that were done together do not hold; at least one, where something is wrong."""
    came = Compared(found, left)
    bad = {row for row, trial in enumerate(picked) if not came.holds(trial.finding)}
    keys = {trial.finding.layer for trial in picked if trial.fix.name == "thicken"}
    grown = {key for key in keys if shape_of(before, key) != shape_of(after, key)}
    if bad and len(bad) == len(picked):  # a new finding spoils all of them: those beside it are to blame
        spoiling = boxes_of(came.come_bad or came.come)
        bad = {row for row, trial in enumerate(picked) if meets(spoiling, trial.box(before)).any()}
        bad = bad or set(range(0, len(picked), 2))
    if grown and not bad:
        bad = {row for row, trial in enumerate(picked) if trial.finding.layer in grown and trial.fix.name == "thicken"}
        bad = set(sorted(bad)[::2])
    return bad


def _kept_whole(finding: Finding, whole: set[str]) -> Finding:
    """A finding without fixes that drop pieces, where its layer is to stay whole."""
    if finding.layer not in whole:
        return finding
    return finding._replace(fixes=tuple(fix for fix in finding.fixes if fix.name != "drop"))


def _thinned_out(before: Subject, after: Subject, picked: Sequence[Trial]) -> set[str]:
    """Layers that lose most of their area by dropping pieces: those are the design, and no specks."""
    keys = {trial.finding.layer for trial in picked if trial.fix.name == "drop"}
    return {key for key in keys if _area(after, key) < _LEFT * _area(before, key)}


def _area(subject: Subject, key: str) -> float:
    """mm2 of a layer; 0 where it is gone."""
    layer = subject.layer(key)
    return 0.0 if layer is None else float(shapely.area(layer.polygons.shapes).sum())


def _once(fixes: Sequence[Fix]) -> list[Fix]:
    """Without fixes whose mends are in one before."""
    seen: set[AnyMend] = set()
    out = []
    for fix in fixes:
        if not seen.issuperset(fix.mends):
            out.append(fix)
            seen.update(fix.mends)
    return out
