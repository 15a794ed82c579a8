"""The work of a job as Sheets takes it, its own and that of other jobs."""

from collections.abc import Sequence
from dataclasses import replace

from sketchloom.core.job.result import Result
from sketchloom.core.job.stages.sheets import design_of
from sketchloom.core.sheets import Guest, Ready, Work, readied

__all__ = ["guest_of", "work_of"]


def work_of(result: Result, guests: Sequence[Guest] = ()) -> Work:
    """Give what a job lays, ready for the knife, with the work of others."""
    own: Work = result.of("ready")
    return replace(own, guests=tuple(guests))


def guest_of(name: str, result: Result, ready: Ready) -> Guest:
    """Give the work of a job as that of a guest, made ready as the job is with which it is laid."""
    cuts, marks = readied(result.stack.cuts.cuts, ready)
    design = design_of(result.picture, result.finished, result.stack)
    return Guest(name, cuts, design, result.recipe.sheets.copies, marks)
