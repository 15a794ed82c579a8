"""The figures by which two versions, or two jobs, are compared."""

from typing import NamedTuple

from sketchloom.core.job.result import Result
from sketchloom.core.sheets import figures_of

__all__ = ["COMPARED", "QUICK", "JobFigures", "figures_of_job"]

QUICK = ("palette", "mended")
"""Stages whose results the first figures need."""
COMPARED = (*QUICK, "sheets", "checked")
"""Stages whose results all of them need."""


class JobFigures(NamedTuple):
    """What a job comes to."""

    size: tuple[float, float]
    """Finished, mm."""
    layers: int
    pieces: int
    nodes: int
    cut_length: float
    """mm, of the layers."""
    sheets: int | None
    """None, as all below, where the result was not laid or checked."""
    time: float | None
    """Of the cutter, s."""
    cost: float | None
    findings: int | None
    """That are not left so."""


def figures_of_job(result: Result) -> JobFigures:
    """Gather them of a result, as far as it was reached; raises LookupError where it has no layers."""
    layers = result.stack.sent
    laid = figures_of(result.layout, result.recipe.sheets.cutter) if result.has("sheets") else None
    return JobFigures(
        size=result.finished.size,
        layers=len(layers),
        pieces=sum(layer.pieces for layer in layers),
        nodes=sum(layer.path.nodes for layer in layers),
        cut_length=sum(layer.cut_length for layer in layers),
        sheets=laid.sheets if laid is not None else None,
        time=laid.timing.time if laid is not None else None,
        cost=laid.cost if laid is not None else None,
        findings=len(result.checked.open) if result.has("checked") else None,
    )
