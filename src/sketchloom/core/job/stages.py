"""The stages, each declared once: what it needs, the settings it hangs on, its work, and the step that shows it."""

from collections.abc import Callable
from typing import Any, Literal, NamedTuple, get_args

import msgspec

import sketchloom.core.job.checks as checks
import sketchloom.core.job.work as work
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.layers import LayerRule, LayerSettings
from sketchloom.core.progress import Tick
from sketchloom.core.regions import (
    Kind,
    SeparateSettings,
)
from sketchloom.core.tidy import Keep, TidySettings

__all__ = ["ENDS", "STAGES", "STEP_OF_STAGE", "Stage"]


class Stage(NamedTuple):
    """One stage.

    Attributes
    ----------
    name : str
    step : str
        The step of the window that shows it, and its failures.
    needs : tuple of str, or callable
        Stages whose results it takes; as a callable, of the recipe and of a
        function that gives the road the picture takes.
    hangs_on : callable
        Picks the settings it hangs on from a recipe.
    work : callable
        Takes `work.Ask`, the settings, and `Tick`; gives the result.
    preview : {'anew', 'guided', 'full'}
        In a preview: worked out anew on the reduced picture, the same with
        the decisions of the full one, or taken from the full one.
    outcome : callable, optional
        Gives what the result comes to, as what can be written as JSON, where
        that is less than all that went in; while it stays, the stages below
        are not run again.
    """

    name: str
    step: str
    needs: tuple[str, ...] | Callable[[Recipe, Callable[[], str]], tuple[str, ...]]
    hangs_on: Callable[[Recipe], Any]
    work: Callable[[work.Ask, Any, Tick], Any]
    preview: Literal["anew", "guided", "full"] = "anew"
    outcome: Callable[[work.Ask, Any, Any], Any] | None = None


def _nothing(recipe: Recipe) -> None:
    return None


def _road_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return ("kind",) if recipe.separate.mode == "auto" and not recipe.separate.layers else ()


def _tone_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    mode = road()
    if mode == "photo":
        return ("picture", "road", "scale")
    if mode == "lineart":
        return ("picture", "road", "drawing") + (("scale",) if recipe.separate.gap is not None else ())
    return ("picture", "road", "drawing") if mode == "ink" else ("picture", "road", "restored")


def _tone_settings(recipe: Recipe) -> SeparateSettings:
    """Without what only dresses, joins or clears the inks; the road says the mode."""
    numbered = recipe.separate.mode in ("photo", "lineart")
    mode = recipe.separate.mode if numbered else "auto"
    return msgspec.structs.replace(recipe.separate, names=(), shown=(), grounded=(), joined=(), locked=(), mode=mode)


def _colour_settings(recipe: Recipe) -> SeparateSettings:
    """Those of the tones; only where a photo or line art was chosen is the number of inks known to count."""
    settings = _tone_settings(recipe)
    return msgspec.structs.replace(settings, inks=settings.inks if settings.mode != "auto" else None, shades=())


def _drawing_settings(recipe: Recipe) -> SeparateSettings:
    s = recipe.separate
    return SeparateSettings(
        threshold=s.threshold,
        local=s.local,
        faint=s.faint,
        strength=s.strength,
        silhouette=s.silhouette,
        ink_colour=s.ink_colour,
    )


def _all_tone_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return ("colours", *_tone_needs(recipe, road))


def _ink_settings(recipe: Recipe) -> SeparateSettings:
    s = recipe.separate
    return SeparateSettings(
        inks=s.inks,
        grounded=s.grounded,
        joined=s.joined,
        locked=s.locked,
        shades=s.shades,
        picks=s.picks,
        layers=s.layers,
    )


def _dress_settings(recipe: Recipe) -> work.Dress:
    s = recipe.separate
    inked = tuple(one for one in recipe.tidy.work if one.inks())
    return work.Dress(SeparateSettings(names=s.names, shown=s.shown, layers=s.layers), TidySettings(work=inked))


def _cleaning(recipe: Recipe) -> TidySettings:
    """Without what is done after it; of the work by hand only what keeps pieces."""
    kept = tuple(one for one in recipe.tidy.work if isinstance(one, Keep))
    return msgspec.structs.replace(recipe.tidy, cut_away=None, bridges=None, work=kept)


def _extent_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return {"photo": ("road", "picture"), "lineart": ("road", "drawing")}.get(road(), ("road", "labels"))


def _scale_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    """No bounds are needed where no size was asked for, or that of the whole picture."""
    sized = recipe.finish.width is not None or recipe.finish.height is not None
    return ("picture", "extent") if sized and recipe.finish.page == "design" else ("picture",)


def _group_settings(recipe: Recipe) -> LayerSettings:
    s = recipe.layers
    laid = tuple(LayerRule(rule.ink, into=rule.into) for rule in s.rules if rule.into)
    return LayerSettings(order=s.order, rules=laid, holes=s.holes, windows=s.windows, clear=s.clear)


def _order_settings(recipe: Recipe) -> LayerSettings:
    """Without what only shows or sends layers."""
    s = recipe.layers
    rules = tuple(
        msgspec.structs.replace(rule, name="", hidden=False, locked=False, copies=0, centre_line=False, edge="both")
        for rule in s.rules
    )
    return LayerSettings(
        build=s.build, rules=rules, weights=s.weights, fill_ground=s.fill_ground, stock=s.stock, rim=s.rim
    )


def _set_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    needs = ("map", "tidy", "palette", "picture", "grouping", "ground")
    return (*needs, "order") if recipe.layers.best else needs


def _mends(recipe: Recipe) -> Any:
    return recipe.checks.mends, bool(recipe.layers.overlap)


def _slip_settings(recipe: Recipe) -> LayerSettings:
    return LayerSettings(build=recipe.layers.build, slip=recipe.layers.slip)


def _check_settings(recipe: Recipe) -> Any:
    checked = msgspec.structs.replace(recipe.checks, mends=())
    return checked, LayerSettings(rules=recipe.layers.rules), recipe.trace.smoothness


STAGES: dict[str, Stage] = {
    stage.name: stage
    for stage in (
        Stage("prepare", "prepare", (), lambda r: r.prepare, work.do_prepare, "full"),
        Stage("restored", "prepare", ("prepare",), lambda r: r.prepare, work.do_restored, "full"),
        Stage("picture", "prepare", ("restored",), _nothing, work.do_picture),
        Stage("kind", "source", ("picture",), lambda r: r.separate.ground, work.do_kind, "full"),
        Stage("road", "separate", _road_needs, lambda r: r.separate, work.do_road, "full", work.itself),
        Stage("drawing", "separate", ("picture", "road"), _drawing_settings, work.do_drawing, "guided"),
        Stage("colours", "separate", _tone_needs, _colour_settings, work.do_colours, "guided"),
        Stage("tones", "separate", _all_tone_needs, _tone_settings, work.do_tones, "guided", work.tone_outcome),
        Stage("ground", "separate", ("tones",), lambda r: r.separate.ground, work.do_ground, "guided"),
        Stage("inks", "separate", ("tones", "ground"), _ink_settings, work.do_inks, "full"),
        Stage("palette", "separate", ("inks",), _dress_settings, work.do_palette, "full"),
        Stage("choices", "separate", ("tones", "ground", "inks", "palette"), _ink_settings, work.do_choices, "full"),
        Stage("labels", "separate", ("tones", "ground", "inks"), _nothing, work.do_labels),
        Stage("least told", "separate", ("labels", "road"), _nothing, work.do_least_told, "full", work.itself),
        Stage("extent", "separate", _extent_needs, lambda r: r.separate.ground, work.do_extent, "full"),
        Stage("scale", "separate", _scale_needs, lambda r: r.finish, work.do_scale, "guided", work.itself),
        Stage(
            "cleaned",
            "tidy",
            ("labels", "scale", "least told", "picture"),
            _cleaning,
            work.do_cleaned,
            outcome=work.cleaned_outcome,
        ),
        Stage(
            "worked",
            "tidy",
            ("cleaned", "picture", "scale"),
            lambda r: r.tidy.work,
            work.do_worked,
            outcome=work.worked_outcome,
        ),
        Stage(
            "tidy",
            "tidy",
            ("cleaned", "worked", "picture", "scale", "ground"),
            lambda r: TidySettings(cut_away=r.tidy.cut_away, bridges=r.tidy.bridges),
            work.do_tidy,
            outcome=work.tidy_outcome,
        ),
        Stage("map", "trace", ("tidy",), _nothing, work.do_map),
        Stage("edges", "trace", ("map", "tidy"), _nothing, work.do_edges),
        Stage("tracks", "trace", ("map", "edges", "road"), lambda r: r.trace.corner, work.do_tracks),
        Stage("bounds", "trace", ("scale", "edges", "road"), lambda r: r.trace, work.do_bounds, outcome=work.itself),
        Stage("trace", "trace", ("map", "edges", "tracks", "bounds"), _nothing, work.do_trace),
        Stage("hand", "trace", ("map", "tidy", "trace", "picture"), lambda r: r.trace.edits, work.do_hand),
        Stage("finish", "layers", ("map", "hand", "scale"), lambda r: r.finish, work.do_finish),
        Stage("grouping", "layers", ("map", "tidy", "palette", "picture"), _group_settings, work.do_grouping),
        Stage("order", "layers", ("map", "grouping", "finish"), _order_settings, work.do_order),
        Stage("sets", "layers", _set_needs, lambda r: (r.layers, r.tidy.cut_away), work.do_sets),
        Stage(
            "centre lines",
            "layers",
            ("tidy", "map", "edges", "bounds", "picture", "palette", "finish"),
            lambda r: r.layers,
            work.do_centre_lines,
        ),
        Stage(
            "layers", "layers", ("map", "finish", "sets", "centre lines", "picture"), lambda r: r.layers, work.do_layers
        ),
        Stage("mended", "check", ("layers", "sets", "finish", "picture"), _mends, checks.do_mended),
        Stage("slip", "layers", ("mended",), _slip_settings, work.do_slip),
        Stage("narrowest", "layers", ("mended",), _nothing, work.do_narrowest),
        Stage(
            "checked",
            "check",
            ("mended", "layers", "sets", "map", "finish", "picture"),
            _check_settings,
            checks.do_checked,
        ),
    )
}
"""In working order. Adding a stage is an entry here, and a property of `Result` where others read it."""


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
