"""A check as one JSON value, and in words."""

from collections.abc import Mapping, Sequence
from typing import Any

from sketchloom.core.inspect.finding import Finding
from sketchloom.core.inspect.limits import KINDS
from sketchloom.core.inspect.narrowest import narrowest_of
from sketchloom.core.inspect.subject import Subject

__all__ = ["check_report", "readiness"]

_DECIMALS = 3


def check_report(
    subject: Subject,
    findings: Sequence[Finding],
    notes: Sequence[str] = (),
    aside: Sequence[Finding] = (),
    ids: Mapping[str, str] | None = None,
) -> dict[str, Any]:
    """Give the report of a check: lengths in mm, places from the page's top left.

    Parameters
    ----------
    subject : Subject
    findings : sequence of Finding
        Those that count.
    notes : sequence of str
        What of a file was not checked.
    aside : sequence of Finding
        Those that are left so.
    ids : mapping of str to str, optional
        Id in files of each layer, by its key.
    """
    names = ids or {}

    def told(finding: Finding) -> dict[str, Any]:
        return {
            "kind": finding.kind,
            "severity": finding.severity,
            "layer": names.get(finding.layer, finding.layer),
            "at_mm": [round(value, _DECIMALS) for value in finding.at],
            "measure": round(finding.measure, 4),
            "limit": finding.limit,
            "unit": finding.unit,
            "sentence": finding.sentence,
            "fix": finding.fix,
        }

    return {
        "ready": not any(finding.severity == "spoils" for finding in findings),
        "readiness": readiness(findings),
        "size_mm": [round(side, _DECIMALS) for side in subject.size],
        "findings": [told(finding) for finding in findings],
        "left_so": [told(finding) for finding in aside],
        "notes": list(notes),
        "layers": [
            {
                "id": names.get(layer.key, layer.key),
                "name": layer.name,
                "colour": layer.colour,
                "paths": len(layer.path.contours),
                "pieces": len(subject.outline(layer).pieces.shapes),
                "nodes": layer.path.nodes,
                "narrowest_mm": narrowest_of(subject.outline(layer)),
            }
            for layer in subject.layers
        ],
    }


def readiness(findings: Sequence[Finding]) -> str:
    """Sum findings up in a sentence."""
    spoils = [finding for finding in findings if finding.severity == "spoils"]
    look = len(findings) - len(spoils)
    if not findings:
        return "Ready to cut: nothing was found."
    kinds = ", ".join(KINDS[kind].title.lower() for kind in dict.fromkeys(finding.kind for finding in spoils))
    also = f"{look} {'place is' if look == 1 else 'places are'} worth a look"
    if not spoils:
        return f"Ready to cut; {also}."
    many = "1 place spoils" if len(spoils) == 1 else f"{len(spoils)} places spoil"
    return f"Not ready: {many} the cut ({kinds})" + (f"; {also}." if look else ".")
