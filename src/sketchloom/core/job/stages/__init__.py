"""The stages: a module for each step, in which every stage is declared where its work stands."""

from typing import get_args

from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.stages import check, layers, prepare, separate, sheets, tidy, trace
from sketchloom.core.job.stages.check import Checked, left_so, on_page_of
from sketchloom.core.job.stages.layers import CentreLines, Layered
from sketchloom.core.job.stages.stage import PREVIEW_PIXELS, Ask, Stage, key_of
from sketchloom.core.regions import Kind

__all__ = [
    "ENDS", "PREVIEW_PIXELS", "STAGES", "STEP_OF_STAGE", "Ask", "CentreLines", "Checked", "Layered", "Stage", "key_of",
    "left_so", "on_page_of",
]  # fmt: skip

STAGES: dict[str, Stage] = {
    one.name: one
    for step in (prepare, separate, tidy, trace, layers, check, sheets)
    for one in vars(step).values()
    if isinstance(one, Stage)
}
"""In working order. What others read of a new one gets a property of `Result`."""


def _every_need(stage: Stage) -> set[str]:
    """Stages that it needs on any road."""
    if isinstance(stage.needs, tuple):
        return set(stage.needs)
    sized = Recipe().with_("finish", width=1.0).with_("separate", gap=1.0)
    roads = (lambda road=road: road for road in get_args(Kind))
    return {need for road in roads for need in stage.needs(sized, road)}


ENDS: tuple[str, ...] = tuple(name for name in STAGES if not any(name in _every_need(one) for one in STAGES.values()))
"""Stages that no other needs, and that are therefore asked for by themselves."""

STEP_OF_STAGE: dict[str, str] = {
    "open": "source",
    "source": "source",
    "send": "send",
    **{stage.name: stage.step for stage in STAGES.values()},
}
