"""The work of a job as Sheets takes it, its own and that of other jobs."""

from collections.abc import Sequence

from sketchloom.core.job.result import Result
from sketchloom.core.job.stages.sheets import design_of
from sketchloom.core.sheets import Guest, Work

__all__ = ["guest_of", "work_of"]


def work_of(result: Result, guests: Sequence[Guest] = ()) -> Work:
    """Give what a job lays, with the work of others."""
    design = design_of(result.picture, result.finished, result.stack)
    return Work(result.stack.cuts.cuts, design, tuple(guests))


def guest_of(name: str, result: Result) -> Guest:
    """Give the work of a job as that of a guest."""
    own = work_of(result)
    return Guest(name, own.cuts, own.design, result.recipe.sheets.copies)
