"""The figures by which two versions, or two jobs, are compared."""

from typing import NamedTuple

from sketchloom.core.job.result import Result
from sketchloom.core.sheets import figures_of

__all__ = ["COMPARED", "JobFigures", "figures_of_job"]

COMPARED = ("palette", "mended", "sheets", "checked")
"""Stages whose results the figures need."""


class JobFigures(NamedTuple):
    """What a job comes to."""

    size: tuple[float, float]
    """Finished, mm."""
    layers: int
    pieces: int
    nodes: int
    cut_length: float
    """mm, of the layers."""
    sheets: int
    time: float
    """Of the cutter, s."""
    cost: float
    findings: int
    """That are not left so."""


def figures_of_job(result: Result) -> JobFigures:
    """Gather them of a result that was laid and checked; raises LookupError where it was not."""
    layers, layout = result.stack.sent, result.layout
    laid = figures_of(layout, result.recipe.sheets.cutter)
    return JobFigures(
        size=result.finished.size,
        layers=len(layers),
        pieces=sum(layer.pieces for layer in layers),
        nodes=sum(layer.path.nodes for layer in layers),
        cut_length=sum(layer.cut_length for layer in layers),
        sheets=len(layout.sheets),
        time=laid.timing.time,
        cost=laid.cost,
        findings=len(result.checked.open),
    )
