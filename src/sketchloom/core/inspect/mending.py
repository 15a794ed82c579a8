"""Mend many findings at once: the fixes that hold together."""

from collections.abc import Sequence
from typing import NamedTuple

from sketchloom.core.inspect.check import find_all, holds
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
    proposed = [next(fix for fix in one.fixes if fix.mends) for one in chosen if any(fix.mends for fix in one.fixes)]
    fixes = _once(proposed)
    if not fixes:
        return MendedAll(subject, found, ())
    after = subject.mended(tuple(mend for fix in fixes for mend in fix.mends))
    left = find_all(after)
    if all(holds(found, left, one) for one in chosen if any(fix.mends for fix in one.fixes)):
        return MendedAll(after, left, tuple(fixes))
    done: list[Fix] = []
    for number, one in enumerate(chosen):
        tick(number / len(chosen))
        there = next((other for other in found if other.is_at(one)), None)
        for fix in there.fixes if there is not None else ():
            if not fix.mends:
                continue
            after = subject.mended(fix.mends)
            left = find_all(after)
            if there is not None and holds(found, left, there):
                subject, found = after, left
                done.append(fix)
                break
    return MendedAll(subject, found, tuple(done))


def _once(fixes: Sequence[Fix]) -> list[Fix]:
    """Without fixes whose mends are in one before."""
    seen: set[AnyMend] = set()
    out = []
    for fix in fixes:
        if not seen.issuperset(fix.mends):
            out.append(fix)
            seen.update(fix.mends)
    return out
