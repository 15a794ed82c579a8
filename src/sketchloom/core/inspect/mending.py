"""Mend many findings at once: the fixes that hold together."""

from collections.abc import Sequence
from typing import NamedTuple

from sketchloom.core.inspect.check import does, find_all, holds, shape_of
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import AnyMend
from sketchloom.core.progress import Tick, no_tick

__all__ = ["MendedAll", "mend_all"]


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

    All are tried at once; where that brings anything new, one after the other.

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
    widening = [one for one in chosen if one.fix == "thicken"]
    rest = [one for one in chosen if one.fix != "thicken"]
    for group in (rest, widening):  # what is widened last sees what all else has become
        at_once = _at_once(subject, found, group)
        if at_once is not None:
            subject, found, fixes = at_once
            done += fixes
            continue
        for number, one in enumerate(group):
            tick(number / len(group))
            there = next((other for other in found if other.is_at(one)), None)
            for fix in there.fixes if there is not None else ():
                after = does(subject, found, there, fix) if there is not None and fix.mends else None
                if after is not None:
                    subject, found = after, find_all(after)
                    done.append(fix)
                    break
    return MendedAll(subject, found, tuple(done))


def _at_once(subject: Subject, found: tuple[Finding, ...], group: Sequence[Finding]) -> MendedAll | None:
    """Do the first fixes of findings together, if all do what they are for."""
    proposed = [(one, next((fix for fix in one.fixes if fix.mends), None)) for one in group]
    fixes = _once([fix for _, fix in proposed if fix is not None])
    if not fixes:
        return MendedAll(subject, found, ())
    after = subject.mended(tuple(mend for fix in fixes for mend in fix.mends))
    keys = {mend.layer for fix in fixes for mend in fix.mends if fix.name == "thicken"}
    if any(shape_of(subject, key) != shape_of(after, key) for key in keys):
        return None
    left = find_all(after)
    held = all(holds(found, left, one) for one, fix in proposed if fix is not None)
    return MendedAll(after, left, tuple(fixes)) if held else None


def _once(fixes: Sequence[Fix]) -> list[Fix]:
    """Without fixes whose mends are in one before."""
    seen: set[AnyMend] = set()
    out = []
    for fix in fixes:
        if not seen.issuperset(fix.mends):
            out.append(fix)
            seen.update(fix.mends)
    return out
