"""Stages of Tidy: what is too small goes, the work by hand is done again, islands are told and held."""

from typing import Any

import msgspec

from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.stages.stage import Ask, digest_of, stage
from sketchloom.core.progress import Tick
from sketchloom.core.regions import LabelMap, ground_key
from sketchloom.core.scale import Scale
from sketchloom.core.tidy import Cleaned, Keep, Tidied, TidySettings, Worked, clean, hold_islands, kept_pixels, worked


def _cleaning(recipe: Recipe) -> TidySettings:
    """Without what is done after it; of the work by hand only what keeps pieces."""
    kept = tuple(one for one in recipe.tidy.work if isinstance(one, Keep))
    return msgspec.structs.replace(recipe.tidy, cut_away=None, bridges=None, work=kept)


def _cleaned_outcome(ask: Ask, settings: TidySettings, cleaned: Cleaned) -> Any:
    """A least area says nothing while the same pieces go."""
    cells = cleaned.regions
    return [ask.key("labels"), digest_of(cells.labels, cells.parts) if cleaned.taken else "", len(cleaned.taken)]


@stage("cleaned", "tidy", ("labels", "scale", "least told", "picture"), _cleaning, outcome=_cleaned_outcome)
def cleaned(ask: Ask, settings: TidySettings, tick: Tick) -> Cleaned:
    """Labels without what is too small or too thin."""
    labels: LabelMap = ask("labels")
    kept = kept_pixels(labels, ask("picture"), settings.work)
    return clean(labels, settings, ask("scale").px_per_mm, ask("least told") * labels.labels.size, kept)


def _worked_outcome(ask: Ask, work: Any, done: Worked) -> Any:
    """The finished size says nothing to work without a length in mm."""
    in_mm = any(one.in_mm and one.on for one in work)
    return [ask.key("cleaned"), ask.key("picture"), list(work), ask.key("scale") if in_mm else None]


@stage("worked", "tidy", ("cleaned", "picture", "scale"), lambda recipe: recipe.tidy.work, outcome=_worked_outcome)
def work_by_hand(ask: Ask, work: Any, tick: Tick) -> Worked:
    """Work by hand; what was done up to each piece of it is remembered by itself."""
    scale: Scale = ask("scale")

    def step(up_to: Any, do: Any) -> Any:
        needs = ("cleaned", "picture", "scale") if any(one.in_mm for one in up_to) else ("cleaned", "picture")
        return ask.once("work", needs, up_to, do)

    return worked(ask("cleaned").regions, ask("picture"), scale.px_per_mm, work, step, tick)


def _holding(recipe: Recipe) -> TidySettings:
    """What is cut away, and how islands are held."""
    return TidySettings(cut_away=recipe.tidy.cut_away, bridges=recipe.tidy.bridges)


def _tidy_outcome(ask: Ask, settings: TidySettings, tidied: Tidied) -> Any:
    """Bridges say nothing while none are laid."""
    bridges = [msgspec.to_builtins(settings), ask.key("scale"), ground_key(ask("ground"))] if tidied.bridges else None
    return [ask.key("worked"), bridges, len(tidied.islands)]


@stage("tidy", "tidy", ("cleaned", "worked", "picture", "scale", "ground"), _holding, outcome=_tidy_outcome)
def tidied(ask: Ask, settings: TidySettings, tick: Tick) -> Tidied:
    """Labels after the work by hand, their islands told and held."""
    ground = ground_key(ask("ground"))
    return hold_islands(ask("cleaned"), ask("worked"), settings, ask("picture"), ask("scale").px_per_mm, ground)
