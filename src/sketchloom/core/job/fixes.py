"""Fixes in a job: as recipes, and which of them hold; findings that are left so."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from sketchloom.core.inspect import (
    Aside,
    Compared,
    Finding,
    Fix,
    all_with_sure_fixes,
)
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.stages import Checked
from sketchloom.core.layers import (
    Finished,
    LayerStack,
)
from sketchloom.core.picture import Picture, Point, source_points
from sketchloom.core.progress import Tick, no_tick

if TYPE_CHECKING:
    from sketchloom.core.job.pipeline import Pipeline
    from sketchloom.core.job.result import Result

__all__ = [
    "all_sure",
    "set_aside",
    "sure",
    "to_source",
    "with_fix",
    "with_fixes",
]

_DECIMALS = 12
_MOST_RUNS = 12
"""Changes of settings that are run to see what comes of them."""


def to_source(picture: Picture, finished: Finished, stack: LayerStack, points: Sequence[Point]) -> list[Point]:
    """Bring mm on the page to places of the source, so exactly that they come back the same."""
    at = (np.array(points, float).reshape(-1, 2) - np.array(stack.moved)) * finished.px_per_mm + finished.origin
    return source_points(picture, at, _DECIMALS)


def with_fix(result: "Result", recipe: Recipe, fix: Fix) -> Recipe:
    """Give the recipe in which a fix is done."""
    return with_fixes(result, recipe, (fix,))


def with_fixes(result: "Result", recipe: Recipe, fixes: Sequence[Fix]) -> Recipe:
    """Give the recipe in which several fixes are done, as one change."""

    def there(points: Sequence[Point]) -> list[Point]:
        return to_source(result.picture, result.finished, result.stack, points)

    mends = [mend.placed(there) for fix in fixes for mend in fix.mends]
    recipe = recipe.with_("checks", mends=(*recipe.checks.mends, *mends))
    for fix in fixes:
        for change in fix.changes:
            values = dict(change.values)
            if change.part == "rule":
                key = values.pop("key")
                recipe = recipe.with_("layers", rules=recipe.layers.with_rule(key, **values))
            else:
                recipe = recipe.with_(change.part, **values)
    return recipe


def set_aside(result: "Result", recipe: Recipe, finding: Finding, word: str = "") -> Recipe:
    """Give the recipe in which a finding is left so."""
    at = to_source(result.picture, result.finished, result.stack, [finding.at])[0]
    aside = Aside(finding.kind, finding.layer, at, finding.measure, word)
    return recipe.with_("checks", aside=(*recipe.checks.aside, aside))


def sure(pipeline: "Pipeline", picture: Picture, result: "Result", finding: Finding) -> Finding:
    """Keep the fixes of a finding that remove it and bring nothing as bad; changes of settings are run to see."""
    return all_sure(pipeline, picture, result, [finding])[0]


def all_sure(
    pipeline: "Pipeline", picture: Picture, result: "Result", findings: Sequence[Finding], tick: Tick = no_tick
) -> tuple[Finding, ...]:
    """Keep the fixes of findings that remove them and bring nothing as bad; changes of settings are run to see.

    A change that several findings ask for is run once; after `_MOST_RUNS` no more are run, and what was not run is
    left out. What was tried once is remembered.
    """
    return pipeline.remembered(
        ("fixes that hold", picture.key, result.recipe, [repr(one) for one in findings]),
        lambda: _all_sure(pipeline, picture, result, findings, tick),
    )


def _all_sure(
    pipeline: "Pipeline", picture: Picture, result: "Result", findings: Sequence[Finding], tick: Tick
) -> tuple[Finding, ...]:
    checked: Checked = result.checked
    tried = all_with_sure_fixes(checked.subject, checked.findings, findings, lambda share: tick(0.7 * share))
    runs: dict[str, Compared | None] = {}

    def after(fix: Fix) -> Compared | None:
        key = repr(fix.changes)
        if key not in runs:
            if len(runs) >= _MOST_RUNS:
                return None
            tick(0.7 + 0.3 * len(runs) / _MOST_RUNS)
            run = pipeline.results(picture, with_fix(result, result.recipe, fix), names=("checked",))
            runs[key] = Compared(checked.findings, run.checked.findings) if run.failure is None else None
        return runs[key]

    out = []
    for finding in tried:
        kept: list[Fix] = []
        for fix in finding.fixes:
            if any(fix.name == other.name for other in kept):
                continue
            came = after(fix) if fix.changes else None
            if not fix.changes or (came is not None and came.holds(finding)):
                kept.append(fix)
        sentence = finding.sentence
        if finding.fixes and not kept:
            sentence += " No setting mends it without making something as bad; change the drawing here."
        out.append(finding._replace(fixes=tuple(kept), sentence=sentence))
    return tuple(out)
