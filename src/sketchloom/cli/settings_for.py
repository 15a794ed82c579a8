"""The recipe that a command runs: a job's or a file's own, changed by flags."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

import msgspec

from sketchloom.cli.opened import Opened
from sketchloom.cli.prepare_flags import PREPARE_FLAGS, rows_of
from sketchloom.cli.settings_flags import with_flags
from sketchloom.core.job import Pipeline, Recipe, read_recipe

__all__ = ["settings_for"]


def settings_for(opened: Opened, recipe: Path | None, flags: Mapping[str, Any], pipeline: Pipeline) -> Recipe:
    """Give what is opened the settings of a recipe, if one is named, and of flags, which go before both.

    Raises
    ------
    ArgumentError, JobError
    """
    settings = opened.recipe
    if recipe:
        laid = settings.separate
        settings = read_recipe(recipe)
        if laid.layers:
            shown = (*laid.shown, *settings.separate.shown)
            settings = settings.with_("separate", layers=laid.layers, shown=shown)
    settings = with_flags(settings, flags)

    def px_per_mm() -> float:
        found = pipeline.run(opened.picture, settings, names=("scale",))
        return found.scale.px_per_mm / found.reduction

    rows = rows_of(opened.picture, px_per_mm, **{name: flags[name] for name in PREPARE_FLAGS})
    return msgspec.structs.replace(settings, prepare=(*settings.prepare, *rows)).check()
