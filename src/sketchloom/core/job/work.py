"""The work of each stage, one function named for it: what it takes from the stages it needs, and what it gives."""

import hashlib
from collections.abc import Callable
from typing import Any, NamedTuple, Protocol

import msgspec
import numpy as np

from sketchloom.core.curves import (
    ArcCurves,
    Bounds,
    Edited,
    Stretches,
    TraceSettings,
    apply_edits,
    drawn_apart,
    even_halves,
    face_areas,
    lay_out,
    tips_uncrossed,
    trace_arcs,
)
from sketchloom.core.cut import Cut
from sketchloom.core.errors import NothingToCutError
from sketchloom.core.inspect import Memory, narrowest_mm
from sketchloom.core.layers import (
    DoubleEdge,
    Finished,
    Grouping,
    LayerPlan,
    LayerSettings,
    LayerStack,
    Orders,
    Slip,
    build_layers,
    double_edges,
    extent_of,
    find_order,
    find_slip,
    find_strokes,
    finish,
    group_faces,
    join_ends,
    plan_layers,
    stroke_layer,
    with_lines,
)
from sketchloom.core.layers.double import WIDEST
from sketchloom.core.palette import Palette, hex_of
from sketchloom.core.picture import Done, Enlarge, Picture, Point, Prepared, Sharpen, do_row, on_picture, reduce_picture
from sketchloom.core.planar import EdgeSamples, PlanarMap, planar_map, sample_edges
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
    ground_key,
    ink_steps,
    label_map,
    plan_inks,
    road_of,
    shaded,
    subject_box,
)
from sketchloom.core.scale import Extent, Scale, find_scale
from sketchloom.core.tidy import (
    Cleaned,
    Tidied,
    TidySettings,
    Worked,
    clean,
    hold_islands,
    kept_pixels,
    least_told,
    with_new_inks,
    worked,
)
from sketchloom.core.worn import Restored, Wear, restored

__all__ = [
    "PREVIEW_PIXELS",
    "Ask",
    "CentreLines",
    "Dress",
    "Layered",
    "cleaned_outcome",
    "digest_of",
    "do_bounds",
    "do_centre_lines",
    "do_choices",
    "do_cleaned",
    "do_colours",
    "do_drawing",
    "do_edges",
    "do_extent",
    "do_finish",
    "do_ground",
    "do_grouping",
    "do_hand",
    "do_inks",
    "do_kind",
    "do_labels",
    "do_layers",
    "do_least_told",
    "do_map",
    "do_narrowest",
    "do_order",
    "do_palette",
    "do_picture",
    "do_prepare",
    "do_restored",
    "do_road",
    "do_scale",
    "do_sets",
    "do_slip",
    "do_tidy",
    "do_tones",
    "do_trace",
    "do_tracks",
    "do_worked",
    "itself",
    "key_of",
    "tidy_outcome",
    "tone_outcome",
    "worked_outcome",
]

PREVIEW_PIXELS = 250_000
"""A larger picture is reduced for a preview; one that is not is its own."""


class Ask(Protocol):
    """What the work of a stage asks for: results of the stages that it needs, by name."""

    opened: Picture
    preview: bool
    memory: Memory

    def key(self, name: str) -> str:
        """Give the key of a stage's result."""

    def __call__(self, name: str) -> Any:
        """Give the result of a stage."""

    def full(self, name: str) -> Any:
        """Give the result of a stage on the full picture; of a run that is no preview, None."""

    def once(self, name: str, needs: tuple[str, ...], settings: Any, work: Callable[[Tick], Any]) -> Any:
        """Give a part of a stage's result that is remembered by itself."""


class CentreLines(NamedTuple):
    """Centre lines of the inks that they are wanted of."""

    lines: dict[str, Cut]  # by the ink's key
    lost_joins: int  # ends to join that were not found


class Dress(NamedTuple):
    """What names and shows inks, and the work by hand that brings new ones in."""

    separate: SeparateSettings
    tidy: TidySettings


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


def itself(ask: Ask, settings: Any, value: Any) -> Any:
    """An outcome that is the whole result."""
    return value


def do_prepare(ask: Ask, rows: Any, tick: Tick) -> Prepared:
    done: list[Done] = []
    for place, row in enumerate(rows):
        here = done[-1].picture if done else ask.opened
        if row.on:
            above = [other for other in rows[: place + 1] if other.on]
            done.append(ask.once("row", (), above, lambda tick, here=here, row=row: do_row(here, row, tick)))  # type: ignore[misc]
        else:
            done.append(Done(here, 0))
    return Prepared(ask.opened, tuple(done))


def do_restored(ask: Ask, rows: Any, tick: Tick) -> Restored:
    """Undo an enlargement, one made just now or an earlier one.

    A picture that was enlarged is sharpened at the size that it has detail
    for, by the blur that it has there: else its edges would ring, and nothing
    could tell any more what it was.
    """
    prepared: Prepared = ask("prepare")
    width = prepared.picture.width
    plain = len(rows)
    while plain and (not rows[plain - 1].on or isinstance(rows[plain - 1], Enlarge)):
        plain -= 1  # what was enlarged just now is known as it was
    sharp = plain
    while sharp and (not rows[sharp - 1].on or isinstance(rows[sharp - 1], Enlarge | Sharpen)):
        sharp -= 1
    if any(row.on and isinstance(row, Sharpen) for row in rows[sharp:plain]):
        found = restored(prepared.before(sharp), width)
        if found.factor > 1:
            return found._replace(picture=do_row(found.picture, Sharpen(), tick).picture, told=False)
    return restored(prepared.before(plain), width)


def do_picture(ask: Ask, settings: None, tick: Tick) -> Picture:
    picture: Picture = ask("restored").picture
    return reduce_picture(picture, PREVIEW_PIXELS)[0] if ask.preview else picture


def do_kind(ask: Ask, ground: Any, tick: Tick) -> Found:
    return find_kind(ask("picture"), ground == "keep")


def do_road(ask: Ask, settings: Any, tick: Tick) -> Road:
    return road_of(ask("kind") if settings.mode == "auto" and not settings.layers else None, settings)


def do_drawing(ask: Ask, settings: SeparateSettings, tick: Tick) -> InkDrawing:
    full = ask.full("drawing")
    reading = full.reading if full else None
    drawing = find_drawing(ask("picture"), settings, ask("road").mode, tick, reading, ask.opened.opaque)
    if settings.ink_colour is not None and not full and not (drawing.labels == 2).any():
        raise NothingToCutError(
            f"Nothing in the picture has the ink colour {hex_of(settings.ink_colour)}; pick the colour of a stroke."
        )
    return drawing


def do_colours(ask: Ask, settings: SeparateSettings, tick: Tick) -> Tones:
    return _find_tones(ask, settings, tick, ask.full("colours"))


def do_tones(ask: Ask, settings: SeparateSettings, tick: Tick) -> Tones:
    """What was found, gradients in bands; found again for a number that neither joining nor more bands can give."""
    found: Tones = ask("colours")
    tones, inks = shaded(found, settings), settings.inks
    if inks is None or found.mode in ("ink", "lineart") or settings.mode == "photo":
        return tones
    if found.mode == "flat" and inks <= len(tones.mix) - (settings.ground != "keep") - len(tones.picked):
        return tones
    full: Tones | None = ask.full("tones")
    return shaded(_find_tones(ask, settings, tick, full), settings)


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


def tone_outcome(ask: Ask, settings: SeparateSettings, tones: Tones) -> Any:
    """The number of inks says nothing while it finds no other tones."""
    found: Tones = ask("colours")
    if tones.labels is found.labels:
        return [ask.key("colours"), None]
    return [ask.key("colours"), settings.inks, settings.shades]


def do_ground(ask: Ask, ground: Any, tick: Tick) -> Ground:
    return clear_ground(ask("tones"), ground, ask.full("ground"))


def do_inks(ask: Ask, settings: SeparateSettings, tick: Tick) -> InkPlan:
    return plan_inks(ask("tones"), ask("ground"), settings)


def do_palette(ask: Ask, settings: Dress, tick: Tick) -> Palette:
    tidy: TidySettings = settings.tidy
    separate: SeparateSettings = settings.separate
    palette = dressed(ask("inks"), separate)
    return with_new_inks(palette, tidy.work, dict(separate.names), dict(separate.shown))


def do_choices(ask: Ask, settings: SeparateSettings, tick: Tick) -> tuple[InkStep | None, InkStep | None]:
    return ink_steps(ask("tones"), ask("ground"), ask("inks"), ask("palette"), settings)


def do_labels(ask: Ask, settings: None, tick: Tick) -> LabelMap:
    return label_map(ask("tones"), ask("ground"), ask("inks"))


def do_extent(ask: Ask, ground: Any, tick: Tick) -> Extent:
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


def do_scale(ask: Ask, recipe: Any, tick: Tick) -> Scale:
    picture: Picture = ask("picture")
    full: Scale | None = ask.full("scale")
    if full is not None:
        return full.reduced(picture.width / ask.full("picture").width)
    page = recipe.page == "design" and (recipe.width is not None or recipe.height is not None)
    shape = picture.height, picture.width
    return find_scale(
        recipe, shape, ask("extent") if page else (0, 0, *shape[::-1]), picture.density, ask.opened.own_size
    )


def do_least_told(ask: Ask, settings: None, tick: Tick) -> float:
    """Area of the smallest piece that the picture tells, as part of the picture."""
    labels: LabelMap = ask("labels")
    return least_told(labels) / labels.labels.size if ask("road").mode == "flat" else 0.0


def do_cleaned(ask: Ask, settings: TidySettings, tick: Tick) -> Cleaned:
    labels: LabelMap = ask("labels")
    kept = kept_pixels(labels, ask("picture"), settings.work)
    return clean(labels, settings, ask("scale").px_per_mm, ask("least told") * labels.labels.size, kept)


def cleaned_outcome(ask: Ask, settings: TidySettings, cleaned: Cleaned) -> Any:
    """A least area says nothing while the same pieces go."""
    cells = cleaned.regions
    return [ask.key("labels"), digest_of(cells.labels, cells.parts) if cleaned.taken else "", len(cleaned.taken)]


def do_worked(ask: Ask, work: Any, tick: Tick) -> Worked:
    """Work by hand; what was done up to each piece of it is remembered by itself."""
    scale: Scale = ask("scale")

    def step(up_to: Any, do: Any) -> Any:
        needs = ("cleaned", "picture", "scale") if any(one.in_mm for one in up_to) else ("cleaned", "picture")
        return ask.once("work", needs, up_to, do)

    return worked(ask("cleaned").regions, ask("picture"), scale.px_per_mm, work, step, tick)


def worked_outcome(ask: Ask, work: Any, done: Worked) -> Any:
    """The finished size says nothing to work without a length in mm."""
    in_mm = any(one.in_mm and one.on for one in work)
    return [ask.key("cleaned"), ask.key("picture"), list(work), ask.key("scale") if in_mm else None]


def do_tidy(ask: Ask, settings: TidySettings, tick: Tick) -> Tidied:
    ground = ground_key(ask("ground"))
    return hold_islands(ask("cleaned"), ask("worked"), settings, ask("picture"), ask("scale").px_per_mm, ground)


def tidy_outcome(ask: Ask, settings: TidySettings, tidied: Tidied) -> Any:
    """Bridges say nothing while none are laid."""
    bridges = [msgspec.to_builtins(settings), ask.key("scale"), ground_key(ask("ground"))] if tidied.bridges else None
    return [ask.key("worked"), bridges, len(tidied.islands)]


def do_map(ask: Ask, settings: None, tick: Tick) -> PlanarMap:
    tidied: Tidied = ask("tidy")
    return planar_map(tidied.regions.cells, tick, (tidied.faces, tidied.runs))


def do_edges(ask: Ask, settings: None, tick: Tick) -> EdgeSamples:
    return sample_edges(ask("map"), ask("tidy").regions)


def do_tracks(ask: Ask, corner: float | None, tick: Tick) -> Stretches:
    turn = TraceSettings(corner=corner).corner_in(ask("road").mode == "photo")
    return lay_out(ask("map"), ask("edges"), float(np.deg2rad(turn)))


def do_bounds(ask: Ask, trace: Any, tick: Tick) -> Bounds:
    bounds: Bounds = trace.bounds(ask("scale").px_per_mm, ask("road").mode == "photo")
    return bounds.floored(ask("edges").exact)


def do_trace(ask: Ask, settings: None, tick: Tick) -> ArcCurves:
    planar, bounds = ask("map"), ask("bounds")
    curves = trace_arcs(planar, ask("edges"), bounds, lambda done: tick(0.9 * done), ask("tracks"))
    curves = drawn_apart(planar, tips_uncrossed(planar, curves))
    return drawn_apart(planar, even_halves(planar, curves, bounds.mirror, tick)) if bounds.mirror else curves


def do_hand(ask: Ask, edits: Any, tick: Tick) -> Edited:
    keys, planar = ask("tidy").regions.keys, ask("map")
    edited = apply_edits(planar, ask("trace"), edits, keys, ask("picture").source_of, tick)
    return edited._replace(curves=drawn_apart(planar, edited.curves)) if edits else edited


def do_finish(ask: Ask, settings: Any, tick: Tick) -> Finished:
    return finish(ask("map"), ask("hand").curves, settings, ask("scale"))


def do_grouping(ask: Ask, settings: LayerSettings, tick: Tick) -> Grouping:
    return group_faces(ask("map"), ask("tidy").regions.keys, ask("palette"), settings, _face_at(ask))


def _face_at(ask: Ask) -> Callable[[Point], int | None]:
    """Finds the face at a place of the source."""
    picture, tidied = ask("picture"), ask("tidy")
    height, width = tidied.regions.labels.shape

    def face_at(at: Point) -> int | None:
        x, y = np.floor(on_picture(picture, [at])[0]).astype(int).tolist()
        return int(tidied.runs.face_at(np.array(y * width + x))) if 0 <= x < width and 0 <= y < height else None

    return face_at


def do_order(ask: Ask, settings: LayerSettings, tick: Tick) -> Orders:
    planar, curves = ask("map"), ask("finish").curves
    return find_order(planar, ask("grouping"), settings, face_areas(planar, curves), curves.lengths(), tick)


def do_sets(ask: Ask, asked: Any, tick: Tick) -> LayerPlan:
    settings, cut_away = asked
    grouping: Grouping = ask("grouping")
    if settings.best and ask("order").best is not None:
        grouping = grouping.ordered(ask("order").best.keys)
    return plan_layers(
        ask("map"),
        ask("tidy").regions.keys,
        ask("palette"),
        settings,
        _face_at(ask),
        grouping,
        cut_away,
        ground_key(ask("ground")),
    )


def do_centre_lines(ask: Ask, settings: Any, tick: Tick) -> CentreLines:
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


def do_layers(ask: Ask, settings: LayerSettings, tick: Tick) -> Layered:
    finished: Finished = ask("finish")
    plan: LayerPlan = ask("sets")
    picture = ask("picture")

    def on_page(points: Any) -> Any:
        return (on_picture(picture, points) - finished.origin) / finished.px_per_mm

    stack = build_layers(ask("map"), finished.curves, plan, finished.size, settings, on_page, tick)
    flush = {layer.key for layer in plan.layers if layer.way == "flush" and layer.role == "ink" and not layer.cuts}
    double = double_edges([layer for layer in stack.layers if layer.key in flush and layer.exact])
    told = tuple(edge for edge in double if edge.width <= WIDEST or settings.rule(edge.ink).edge != "both")
    return Layered(with_lines(stack, settings, ask("centre lines").lines, double), told)


def do_slip(ask: Ask, settings: LayerSettings, tick: Tick) -> Slip | None:
    """What a slip would show; None where none is asked for, or nothing is laid on anything."""
    stack: LayerStack = ask("mended").stack
    if not settings.slip or settings.build in ("single", "stencil"):
        return None
    layers = [layer for layer in stack.sent if "+" not in layer.key]
    shapes = [layer.flat.shape for layer in layers]
    shrinks = [layer.stock.shrink if layer.stock else 0.0 for layer in layers]
    return find_slip(shapes, settings.slip, shrinks, tick)


def do_narrowest(ask: Ask, settings: None, tick: Tick) -> dict[str, float]:
    """Narrowest place of each layer, mm, by its key."""
    return {layer.key: narrowest_mm(layer) for layer in ask("mended").stack.layers}
