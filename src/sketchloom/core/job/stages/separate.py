"""Stages of Separate: the road, tones, ground, inks and labels, and the scale that follows from them."""

from collections.abc import Callable
from typing import Any, NamedTuple

import msgspec
import numpy as np

from sketchloom.core.errors import NothingToCutError
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.stages.stage import Ask, itself, stage
from sketchloom.core.layers import extent_of
from sketchloom.core.palette import Palette, hex_of
from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick
from sketchloom.core.regions import (
    Found,
    Ground,
    InkDrawing,
    InkPlan,
    InkStep,
    LabelMap,
    Road,
    SeparateSettings,
    Tones,
    clear_ground,
    dressed,
    find_drawing,
    find_kind,
    find_tones,
    ink_steps,
    label_map,
    plan_inks,
    road_of,
    shaded,
    subject_box,
)
from sketchloom.core.scale import Extent, Scale, find_scale
from sketchloom.core.tidy import TidySettings, least_told, with_new_inks
from sketchloom.core.worn import Restored, Wear


@stage("kind", "source", ("picture",), lambda recipe: recipe.separate.ground, preview="full")
def kind(ask: Ask, ground: Any, tick: Tick) -> Found:
    """What kind of picture it is."""
    return find_kind(ask("picture"), ground == "keep")


def _road_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return ("kind",) if recipe.separate.mode == "auto" and not recipe.separate.layers else ()


@stage("road", "separate", _road_needs, lambda recipe: recipe.separate, preview="full", outcome=itself)
def road(ask: Ask, settings: Any, tick: Tick) -> Road:
    """The road that it takes, as it was found or asked for."""
    return road_of(ask("kind") if settings.mode == "auto" and not settings.layers else None, settings)


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


@stage("drawing", "separate", ("picture", "road"), _drawing_settings, preview="guided")
def drawing(ask: Ask, settings: SeparateSettings, tick: Tick) -> InkDrawing:
    """An ink drawing split from its paper."""
    full = ask.full("drawing")
    reading = full.reading if full else None
    drawing = find_drawing(ask("picture"), settings, ask("road").mode, tick, reading, ask.opened.opaque)
    if settings.ink_colour is not None and not full and not (drawing.labels == 2).any():
        raise NothingToCutError(
            f"Nothing in the picture has the ink colour {hex_of(settings.ink_colour)}; pick the colour of a stroke."
        )
    return drawing


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


@stage("colours", "separate", _tone_needs, _colour_settings, preview="guided")
def colours(ask: Ask, settings: SeparateSettings, tick: Tick) -> Tones:
    """The even colours that were found."""
    return _find_tones(ask, settings, tick, ask.full("colours"))


def _find_tones(ask: Ask, settings: SeparateSettings, tick: Tick, full: Tones | None) -> Tones:
    mode = ask("road").mode
    options: dict[str, Any] = {}
    if mode == "photo" or (mode == "lineart" and settings.gap is not None):
        options["px_per_mm"] = ask("scale").px_per_mm
    if mode in ("ink", "lineart"):
        options["drawing"] = ask("drawing")
    picture: Picture = ask("picture")
    if mode == "flat" and picture.opaque:
        restored: Restored = ask("restored")
        if restored.told and picture is restored.picture:  # no preview
            options["wear"] = Wear(restored.grain, restored.sigma)
    return find_tones(picture, settings, mode, tick, full, **options)


def _all_tone_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return ("colours", *_tone_needs(recipe, road))


def _tone_outcome(ask: Ask, settings: SeparateSettings, tones: Tones) -> Any:
    """The number of inks says nothing while it finds no other tones."""
    found: Tones = ask("colours")
    if tones.labels is found.labels:
        return [ask.key("colours"), None]
    return [ask.key("colours"), settings.inks, settings.shades]


@stage("tones", "separate", _all_tone_needs, _tone_settings, preview="guided", outcome=_tone_outcome)
def tones(ask: Ask, settings: SeparateSettings, tick: Tick) -> Tones:
    """What was found, gradients in bands; found again for a number that neither joining nor more bands can give."""
    found: Tones = ask("colours")
    tones, inks = shaded(found, settings), settings.inks
    if inks is None or found.mode in ("ink", "lineart") or settings.mode == "photo":
        return tones
    if found.mode == "flat" and inks <= len(tones.mix) - (settings.ground != "keep") - len(tones.picked):
        return tones
    full: Tones | None = ask.full("tones")
    return shaded(_find_tones(ask, settings, tick, full), settings)


@stage("ground", "separate", ("tones",), lambda recipe: recipe.separate.ground, preview="guided")
def ground(ask: Ask, ground: Any, tick: Tick) -> Ground:
    """What is cleared."""
    return clear_ground(ask("tones"), ground, ask.full("ground"))


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


@stage("inks", "separate", ("tones", "ground"), _ink_settings, preview="full")
def inks(ask: Ask, settings: SeparateSettings, tick: Tick) -> InkPlan:
    """Tones joined to inks."""
    return plan_inks(ask("tones"), ask("ground"), settings)


class Dress(NamedTuple):
    """What names and shows inks, and the work by hand that brings new ones in."""

    separate: SeparateSettings
    tidy: TidySettings


def _dress_settings(recipe: Recipe) -> Dress:
    s = recipe.separate
    inked = tuple(one for one in recipe.tidy.work if one.inks())
    return Dress(SeparateSettings(names=s.names, shown=s.shown, layers=s.layers), TidySettings(work=inked))


@stage("palette", "separate", ("inks",), _dress_settings, preview="full")
def palette(ask: Ask, settings: Dress, tick: Tick) -> Palette:
    """The inks as they are named and shown."""
    tidy: TidySettings = settings.tidy
    separate: SeparateSettings = settings.separate
    palette = dressed(ask("inks"), separate)
    return with_new_inks(palette, tidy.work, dict(separate.names), dict(separate.shown))


@stage("choices", "separate", ("tones", "ground", "inks", "palette"), _ink_settings, preview="full")
def choices(ask: Ask, settings: SeparateSettings, tick: Tick) -> tuple[InkStep | None, InkStep | None]:
    """What one ink fewer, and one more, would be."""
    return ink_steps(ask("tones"), ask("ground"), ask("inks"), ask("palette"), settings)


@stage("labels", "separate", ("tones", "ground", "inks"))
def labels(ask: Ask, settings: None, tick: Tick) -> LabelMap:
    """The ink of every pixel."""
    return label_map(ask("tones"), ask("ground"), ask("inks"))


@stage("least told", "separate", ("labels", "road"), preview="full", outcome=itself)
def least_piece(ask: Ask, settings: None, tick: Tick) -> float:
    """Area of the smallest piece that the picture tells, as part of the picture."""
    labels: LabelMap = ask("labels")
    return least_told(labels) / labels.labels.size if ask("road").mode == "flat" else 0.0


def _extent_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return {"photo": ("road", "picture"), "lineart": ("road", "drawing")}.get(road(), ("road", "labels"))


@stage("extent", "separate", _extent_needs, lambda recipe: recipe.separate.ground, preview="full")
def extent(ask: Ask, ground: Any, tick: Tick) -> Extent:
    """Bounds of what is no ground, from what is known before the first stage that needs mm."""
    mode = ask("road").mode
    if mode == "photo":
        return subject_box(ask("picture"), ground == "keep")
    if mode == "lineart":
        drawing: InkDrawing = ask("drawing")
        if ground == "keep":
            return 0, 0, drawing.labels.shape[1], drawing.labels.shape[0]
        return extent_of((drawing.labels == 2).view(np.uint8))
    return extent_of(ask("labels").labels)


def _scale_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    """No bounds are needed where no size was asked for, or that of the whole picture."""
    sized = recipe.finish.width is not None or recipe.finish.height is not None
    return ("picture", "extent") if sized and recipe.finish.page == "design" else ("picture",)


@stage("scale", "separate", _scale_needs, lambda recipe: recipe.finish, preview="guided", outcome=itself)
def scale(ask: Ask, recipe: Any, tick: Tick) -> Scale:
    """Pixels a mm, once for all stages."""
    picture: Picture = ask("picture")
    full: Scale | None = ask.full("scale")
    if full is not None:
        return full.reduced(picture.width / ask.full("picture").width)
    page = recipe.page == "design" and (recipe.width is not None or recipe.height is not None)
    shape = picture.height, picture.width
    return find_scale(
        recipe, shape, ask("extent") if page else (0, 0, *shape[::-1]), picture.density, ask.opened.own_size
    )
