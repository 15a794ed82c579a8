"""The stages, each declared once: what it needs, the settings it hangs on, its work, and the step that shows it."""

import hashlib
from collections.abc import Callable
from typing import Any, Literal, NamedTuple, Protocol, get_args

import msgspec
import numpy as np

from sketchloom.core.curves import (
    ArcCurves,
    Bounds,
    Edited,
    Stretches,
    apply_edits,
    even_halves,
    faces_upright,
    lay_out,
    trace_arcs,
)
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.layers import (
    DoubleEdge,
    Finished,
    LayerPlan,
    LayerStack,
    StrokeLayer,
    build_layers,
    double_edges,
    extent_of,
    find_strokes,
    finish,
    join_ends,
    plan_layers,
    stroke_layer,
    with_lines,
)
from sketchloom.core.palette import Palette, hex_of
from sketchloom.core.picture import Done, Picture, Prepared, do_row, on_picture, reduce_picture
from sketchloom.core.planar import EdgeSamples, PlanarMap, planar_map, sample_edges
from sketchloom.core.progress import Tick
from sketchloom.core.regions import (
    Found,
    Ground,
    InkDrawing,
    InkPlan,
    InkStep,
    Kind,
    LabelMap,
    Road,
    SeparateSettings,
    Tidied,
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
    subject_box,
    tidy,
)
from sketchloom.core.scale import Extent, Scale, find_scale

__all__ = [
    "ENDS",
    "PREVIEW_PIXELS",
    "STAGES",
    "STEP_OF_STAGE",
    "Ask",
    "CentreLines",
    "Layered",
    "Stage",
    "digest_of",
    "key_of",
]

PREVIEW_PIXELS = 250_000
"""A larger picture is reduced for a preview; one that is not is its own."""


class Ask(Protocol):
    """What the work of a stage asks for: results of the stages that it needs, by name."""

    opened: Picture
    preview: bool

    def key(self, name: str) -> str:
        """Give the key of a stage's result."""

    def __call__(self, name: str) -> Any:
        """Give the result of a stage."""

    def full(self, name: str) -> Any:
        """Give the result of a stage on the full picture; of a run that is no preview, None."""

    def once(self, name: str, needs: tuple[str, ...], settings: Any, work: Callable[[Tick], Any]) -> Any:
        """Give a part of a stage's result that is remembered by itself."""


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
        Takes `Ask`, the settings, and `Tick`; gives the result.
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
    work: Callable[[Ask, Any, Tick], Any]
    preview: Literal["anew", "guided", "full"] = "anew"
    outcome: Callable[[Ask, Any, Any], Any] | None = None


class CentreLines(NamedTuple):
    """Centre lines of the inks that they are wanted of."""

    lines: dict[str, StrokeLayer]  # by the ink's key
    lost_joins: int  # ends to join that were not found


class Layered(NamedTuple):
    """The layers, with lines."""

    stack: LayerStack
    double: tuple[DoubleEdge, ...]  # layers that are one line, cut on both sides unless a rule says otherwise


def key_of(name: str, *parts: Any) -> str:
    """Make a key of a name and of what can be written as JSON."""
    digest = hashlib.blake2b(name.encode(), digest_size=16)
    for part in parts:
        digest.update(b"\0" + msgspec.json.encode(part))
    return digest.hexdigest()


def digest_of(*arrays: np.ndarray | None) -> str:
    """Make a key of the values of arrays."""
    digest = hashlib.blake2b(digest_size=16)
    for array in arrays:
        if array is not None:
            digest.update(repr(array.shape).encode())
            digest.update(np.ascontiguousarray(array).data)
    return digest.hexdigest()


def _nothing(recipe: Recipe) -> None:
    return None


def _itself(ask: Ask, settings: Any, value: Any) -> Any:
    return value


def _prepare(ask: Ask, rows: Any, tick: Tick) -> Prepared:
    done: list[Done] = []
    for place, row in enumerate(rows):
        here = done[-1].picture if done else ask.opened
        if row.on:
            above = [other for other in rows[: place + 1] if other.on]
            done.append(ask.once("row", (), above, lambda tick, here=here, row=row: do_row(here, row, tick)))  # type: ignore[misc]
        else:
            done.append(Done(here, 0))
    return Prepared(ask.opened, tuple(done))


def _picture(ask: Ask, settings: None, tick: Tick) -> Picture:
    picture: Picture = ask("prepare").picture
    return reduce_picture(picture, PREVIEW_PIXELS)[0] if ask.preview else picture


def _kind(ask: Ask, ground: Any, tick: Tick) -> Found:
    return find_kind(ask("picture"), ground == "keep")


def _road(ask: Ask, settings: Any, tick: Tick) -> Road:
    return road_of(ask("kind") if settings.mode == "auto" and not settings.layers else None, settings)


def _road_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return ("kind",) if recipe.separate.mode == "auto" and not recipe.separate.layers else ()


def _drawing(ask: Ask, settings: SeparateSettings, tick: Tick) -> InkDrawing:
    full = ask.full("drawing")
    drawing = find_drawing(ask("picture"), settings, ask("road").mode, tick, full.reading if full else None)
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
    return ("picture", "road", "drawing") if mode == "ink" else ("picture", "road")


def _colours(ask: Ask, settings: SeparateSettings, tick: Tick) -> Tones:
    return _find_tones(ask, settings, tick, ask.full("colours"))


def _tones(ask: Ask, settings: SeparateSettings, tick: Tick) -> Tones:
    """What was found; found again for a number that joining cannot give."""
    found: Tones = ask("colours")
    inks = settings.inks
    if inks is None or found.mode in ("ink", "lineart") or settings.mode == "photo":
        return found
    if found.mode == "flat" and inks <= len(found.mix) - 1 - len(found.picked):
        return found
    return _find_tones(ask, settings, tick, ask.full("tones"))


def _find_tones(ask: Ask, settings: SeparateSettings, tick: Tick, full: Tones | None) -> Tones:
    mode = ask("road").mode
    options: dict[str, Any] = {}
    if mode == "photo" or (mode == "lineart" and settings.gap is not None):
        options["px_per_mm"] = ask("scale").px_per_mm
    if mode in ("ink", "lineart"):
        options["drawing"] = ask("drawing")
    return find_tones(ask("picture"), settings, mode, tick, full, **options)


def _tone_settings(recipe: Recipe) -> SeparateSettings:
    """Without what only dresses, joins or clears the inks; the road says the mode."""
    numbered = recipe.separate.mode in ("photo", "lineart")
    mode = recipe.separate.mode if numbered else "auto"
    return msgspec.structs.replace(recipe.separate, names=(), shown=(), grounded=(), joined=(), locked=(), mode=mode)


def _colour_settings(recipe: Recipe) -> SeparateSettings:
    """Those of the tones; only where a photo or line art was chosen is the number of inks known to count."""
    settings = _tone_settings(recipe)
    return msgspec.structs.replace(settings, inks=settings.inks if settings.mode != "auto" else None)


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


def _tone_outcome(ask: Ask, settings: SeparateSettings, tones: Tones) -> Any:
    """The number of inks says nothing while it finds no other tones."""
    return [ask.key("colours"), None if tones is ask("colours") else settings.inks]


def _ground(ask: Ask, ground: Any, tick: Tick) -> Ground:
    return clear_ground(ask("tones"), ground, ask.full("ground"))


def _inks(ask: Ask, settings: SeparateSettings, tick: Tick) -> InkPlan:
    return plan_inks(ask("tones"), ask("ground"), settings)


def _ink_settings(recipe: Recipe) -> SeparateSettings:
    s = recipe.separate
    return SeparateSettings(
        inks=s.inks, grounded=s.grounded, joined=s.joined, locked=s.locked, picks=s.picks, layers=s.layers
    )


def _dress_settings(recipe: Recipe) -> SeparateSettings:
    s = recipe.separate
    return SeparateSettings(names=s.names, shown=s.shown, layers=s.layers)


def _palette(ask: Ask, settings: SeparateSettings, tick: Tick) -> Palette:
    return dressed(ask("inks"), settings)


def _choices(ask: Ask, settings: SeparateSettings, tick: Tick) -> tuple[InkStep | None, InkStep | None]:
    return ink_steps(ask("tones"), ask("ground"), ask("inks"), ask("palette"), settings)


def _labels(ask: Ask, settings: None, tick: Tick) -> LabelMap:
    return label_map(ask("tones"), ask("ground"), ask("inks"))


def _extent_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    return {"photo": ("road", "picture"), "lineart": ("road", "drawing")}.get(road(), ("road", "labels"))


def _extent(ask: Ask, ground: Any, tick: Tick) -> Extent:
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


def _scale(ask: Ask, recipe: Any, tick: Tick) -> Scale:
    picture: Picture = ask("picture")
    full: Scale | None = ask.full("scale")
    if full is not None:
        return full.reduced(picture.width / ask.full("picture").width)
    page = recipe.page == "design" and (recipe.width is not None or recipe.height is not None)
    shape = picture.height, picture.width
    return find_scale(recipe, shape, ask("extent") if page else (0, 0, *shape[::-1]), picture.density)


def _tidy(ask: Ask, least_area: float, tick: Tick) -> Tidied:
    return tidy(ask("labels"), least_area * ask("scale").px_per_mm ** 2)


def _tidy_outcome(ask: Ask, settings: float, tidied: Tidied) -> Any:
    """A least area says nothing while the same pieces go."""
    cells = tidied.regions
    return [ask.key("labels"), digest_of(cells.labels, cells.parts) if tidied.gone else ""]


def _map(ask: Ask, settings: None, tick: Tick) -> PlanarMap:
    tidied: Tidied = ask("tidy")
    return planar_map(tidied.regions.cells, tick, (tidied.faces, tidied.runs))


def _edges(ask: Ask, settings: None, tick: Tick) -> EdgeSamples:
    return sample_edges(ask("map"), ask("tidy").regions)


def _tracks(ask: Ask, corner: float, tick: Tick) -> Stretches:
    return lay_out(ask("map"), ask("edges"), float(np.deg2rad(corner)))


def _bounds(ask: Ask, trace: Any, tick: Tick) -> Bounds:
    bounds: Bounds = trace.bounds(ask("scale").px_per_mm)
    return bounds.floored(ask("edges").exact)


def _trace(ask: Ask, settings: None, tick: Tick) -> ArcCurves:
    planar, bounds = ask("map"), ask("bounds")
    curves = trace_arcs(planar, ask("edges"), bounds, lambda done: tick(0.9 * done), ask("tracks"))
    curves = faces_upright(planar, curves)
    if bounds.mirror:
        curves = faces_upright(planar, even_halves(planar, curves, bounds.mirror, tick))
    return curves


def _hand(ask: Ask, edits: Any, tick: Tick) -> Edited:
    keys = ask("tidy").regions.keys
    return apply_edits(ask("map"), ask("trace"), edits, keys, ask("picture").source_of, tick)


def _finish(ask: Ask, settings: Any, tick: Tick) -> Finished:
    return finish(ask("map"), ask("hand").curves, settings, ask("scale"))


def _sets(ask: Ask, settings: Any, tick: Tick) -> LayerPlan:
    return plan_layers(ask("map"), ask("tidy").regions.keys, ask("palette"), settings)


def _centre_lines(ask: Ask, settings: Any, tick: Tick) -> CentreLines:
    """Of the inks that have faces; those of one ink are remembered by themselves."""
    regions, planar, bounds, picture = ask("tidy").regions, ask("map"), ask("bounds"), ask("picture")
    there = {regions.keys[label - 1] for label in np.unique(planar.faces.label).tolist() if label}
    wanted = {*settings.centre_lines, *(key for key, edge in settings.edges.items() if edge == "centre")} & there
    lines, lost_joins = {}, 0
    for place, key in enumerate(sorted(wanted)):

        def work(tick_of_ink: Tick, key: str = key) -> Any:
            return find_strokes(regions, planar, ask("edges"), key, bounds.tolerance, tick_of_ink)

        tick(place / len(wanted))
        strokes = ask.once("strokes", ("edges",), (key, bounds.tolerance), work)
        joins = [on_picture(picture, [join.first, join.last]) for join in settings.joins if join.ink == key]
        strokes, lost = join_ends(strokes, [(pair[0], pair[1]) for pair in joins])
        lost_joins += lost
        lines[key] = stroke_layer(ask("palette")[key], strokes, ask("finish"))
    lost_joins += sum(join.ink not in lines for join in settings.joins)
    return CentreLines(lines, lost_joins)


def _layers(ask: Ask, settings: Any, tick: Tick) -> Layered:
    finished: Finished = ask("finish")
    plan: LayerPlan = ask("sets")
    stack = build_layers(ask("map"), finished.curves, plan, finished.size)
    double = double_edges([layer for layer, way in zip(stack.layers, plan.ways, strict=True) if way == "flush"])
    return Layered(with_lines(stack, settings, ask("centre lines").lines, double), double)


STAGES: dict[str, Stage] = {
    stage.name: stage
    for stage in (
        Stage("prepare", "prepare", (), lambda r: r.prepare, _prepare, "full"),
        Stage("picture", "prepare", ("prepare",), _nothing, _picture),
        Stage("kind", "source", ("picture",), lambda r: r.separate.ground, _kind, "full"),
        Stage("road", "separate", _road_needs, lambda r: r.separate, _road, "full", _itself),
        Stage("drawing", "separate", ("picture", "road"), _drawing_settings, _drawing, "guided"),
        Stage("colours", "separate", _tone_needs, _colour_settings, _colours, "guided"),
        Stage("tones", "separate", _all_tone_needs, _tone_settings, _tones, "guided", _tone_outcome),
        Stage("ground", "separate", ("tones",), lambda r: r.separate.ground, _ground, "guided"),
        Stage("inks", "separate", ("tones", "ground"), _ink_settings, _inks, "full"),
        Stage("palette", "separate", ("inks",), _dress_settings, _palette, "full"),
        Stage("choices", "separate", ("tones", "ground", "inks", "palette"), _ink_settings, _choices, "full"),
        Stage("labels", "separate", ("tones", "ground", "inks"), _nothing, _labels),
        Stage("extent", "separate", _extent_needs, lambda r: r.separate.ground, _extent, "full"),
        Stage("scale", "separate", _scale_needs, lambda r: r.finish, _scale, "guided", _itself),
        Stage("tidy", "separate", ("labels", "scale"), lambda r: r.tidy.least_area, _tidy, outcome=_tidy_outcome),
        Stage("map", "trace", ("tidy",), _nothing, _map),
        Stage("edges", "trace", ("map", "tidy"), _nothing, _edges),
        Stage("tracks", "trace", ("map", "edges"), lambda r: r.trace.corner, _tracks),
        Stage("bounds", "trace", ("scale", "edges"), lambda r: r.trace, _bounds, outcome=_itself),
        Stage("trace", "trace", ("map", "edges", "tracks", "bounds"), _nothing, _trace),
        Stage("hand", "trace", ("map", "tidy", "trace", "picture"), lambda r: r.trace.edits, _hand),
        Stage("finish", "layers", ("map", "hand", "scale"), lambda r: r.finish, _finish),
        Stage("sets", "layers", ("map", "tidy", "palette"), lambda r: r.layers, _sets),
        Stage(
            "centre lines",
            "layers",
            ("tidy", "map", "edges", "bounds", "picture", "palette", "finish"),
            lambda r: r.layers,
            _centre_lines,
        ),
        Stage("layers", "layers", ("map", "finish", "sets", "centre lines"), lambda r: r.layers, _layers),
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
