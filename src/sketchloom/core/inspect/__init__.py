"""Whether layers can be cut: findings, and what mends them."""

from sketchloom.core.inspect.check import FINDERS, find_all
from sketchloom.core.inspect.compared import Compared
from sketchloom.core.inspect.finding import Change, Finding, Fix, Severity
from sketchloom.core.inspect.kept import changed_elsewhere
from sketchloom.core.inspect.limits import (
    KINDS,
    Aside,
    CheckSettings,
    check_checks,
    check_limit,
    is_no_worse,
    limits_for,
)
from sketchloom.core.inspect.mending import MendedAll, mend_all
from sketchloom.core.inspect.narrowest import narrowest_mm, narrowest_of
from sketchloom.core.inspect.outline import Outline, outline_of
from sketchloom.core.inspect.report import check_report, readiness
from sketchloom.core.inspect.subject import FromPicture, Memory, Subject
from sketchloom.core.inspect.trials import all_with_sure_fixes, with_sure_fixes

__all__ = [
    "FINDERS", "KINDS", "Aside", "Change", "CheckSettings", "Compared", "Finding", "Fix", "FromPicture",
    "Memory", "MendedAll", "Outline", "Severity", "Subject", "all_with_sure_fixes",
    "changed_elsewhere", "check_checks", "check_limit", "check_report", "find_all", "is_no_worse", "limits_for",
    "mend_all", "narrowest_mm", "narrowest_of", "outline_of", "readiness",
    "with_sure_fixes",
]  # fmt: skip
