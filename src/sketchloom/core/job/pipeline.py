"""Run a recipe on a picture, stage by stage, remembering every stage's result."""

import dataclasses
import hashlib
import time
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import fields, is_dataclass
from threading import Lock
from typing import Any, NamedTuple, TypeVar

import msgspec
import numpy as np

from sketchloom.core.curves import ArcCurves, Bounds, Stretches, apply_edits, even_halves, lay_out, trace_arcs
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.layers import (
    PX_PER_MM_UNSET,
    DoubleEdge,
    LayerSettings,
    LayerStack,
    StrokeLayer,
    build_layers,
    double_edges,
    find_strokes,
    finish,
    first_scale,
    join_ends,
    one_edge,
    plan_layers,
    stroke_layer,
)
from sketchloom.core.layers.finish import Finished
from sketchloom.core.picture import Done, Picture, Point, Prepared, do_row, on_picture, reduce_picture
from sketchloom.core.planar import EdgeSamples, PlanarMap, planar_map, sample_edges
from sketchloom.core.progress import Tick
from sketchloom.core.regions import (
    GROUND,
    Colour,
    Ground,
    Ink,
    InkPlan,
    InkStep,
    LabelMap,
    SeparateSettings,
    Tones,
    clear_ground,
    dressed,
    find_tones,
    ink_steps,
    label_map,
    plan_inks,
    tidy,
)

__all__ = ["Pipeline", "Progress", "Result", "colour_at", "ink_at", "ink_keys", "silent"]

Progress = Callable[[str, float], None]
"""Called with a stage's name and the share of it that is done; raises `Cancelled` to stop the run."""

T = TypeVar("T")
_CACHE_BYTES = 1_500_000_000
_PREVIEW_PIXELS = 250_000


def silent(stage: str, done: float) -> None:
    """Report to nobody."""


class Result(NamedTuple):
    """What a recipe makes of a picture."""

    prepared: Prepared
    picture: Picture
    """The prepared one, reduced for a preview."""
    tones: Tones
    ground: Ground
    plan: InkPlan
    steps: tuple[InkStep | None, InkStep | None]
    """What one ink fewer loses, and what one more brings; of a preview, nothing."""
    regions: LabelMap  # tidied
    tidied_away: int
    planar: PlanarMap
    samples: EdgeSamples
    curves: ArcCurves  # px
    unplaced: tuple[int, ...]
    """Work by hand that found no place."""
    finished: Finished
    stack: LayerStack
    double: tuple[DoubleEdge, ...]
    """Layers that are one line, cut on both sides unless the recipe says otherwise."""
    lost_joins: int
    """Ends to join that were not found."""
    scale: float
    """Of the picture the stages ran on; below 1 for a preview."""
    timings: dict[str, float]
    """Seconds a stage took; 0 where its result was remembered."""


class Pipeline:
    """Runs recipes; keeps stage results while they fit in `cache_bytes`.

    A result's key is a hash of the stage, its settings and its input's key,
    so a change recomputes its stage and what stands below, nothing above.
    """

    def __init__(self, cache_bytes: int = _CACHE_BYTES) -> None:
        self._limit = cache_bytes
        self._kept: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._lock = Lock()

    @property
    def bytes_kept(self) -> int:
        """What the remembered results hold."""
        with self._lock:
            return sum(size for _, size in self._kept.values())

    def run(self, picture: Picture, recipe: Recipe, progress: Progress = silent, preview: bool = False) -> Result:
        """Run all stages.

        Parameters
        ----------
        picture : Picture
        recipe : Recipe
        progress : callable
        preview : bool
            Run on a reduced picture, with the tones and inks of the full one.

        Raises
        ------
        ArgumentError, NothingToCutError
        Cancelled
            When `progress` raises it.
        """
        recipe.check()
        timings: dict[str, float] = {}

        def stage(name: str, key: str, work: Callable[[Tick], T]) -> T:
            begun = time.perf_counter()

            def do() -> T:
                progress(name, 0.0)
                value = work(lambda done: progress(name, done))
                progress(name, 1.0)
                return value

            value, fresh = self._remembered(key, do)
            timings[name] = timings.get(name, 0.0) + (time.perf_counter() - begun if fresh else 0.0)
            return value

        prepared, key = Prepared(picture, ()), _key("opened", self._name(picture))
        for row in recipe.prepare:
            here, key = prepared.picture, _key("prepare", key, row) if row.on else key
            done = (
                stage("prepare", key, lambda tick, here=here, row=row: do_row(here, row, tick))  # type: ignore[misc]
                if row.on
                else Done(here, 0)
            )
            prepared = Prepared(picture, (*prepared.done, done))
        picture = ready = prepared.picture
        separate = recipe.separate
        about = picture.width / recipe.finish.width if recipe.finish.width else PX_PER_MM_UNSET
        tone_settings = _for_tones(separate)
        key = _key("tones", self._name(picture), tone_settings, about)
        tones = stage("tones", key, lambda tick: find_tones(ready, tone_settings, tick, None, about))
        if tone_settings.inks != separate.inks and _hangs_on_number(tones, separate.inks):
            tone_settings = msgspec.structs.replace(tone_settings, inks=separate.inks)
            key = _key("tones", self._name(picture), tone_settings, about)
            tones = stage("tones", key, lambda tick: find_tones(ready, tone_settings, tick, None, about))
        ground_key = _key("ground", key, separate.ground)
        ground = stage("ground", ground_key, lambda tick: clear_ground(tones, separate.ground))
        plan_key = _key("plan", ground_key, _plain(separate))
        plan = stage("inks", plan_key, lambda tick: plan_inks(tones, ground, separate))
        shown = dressed(plan, separate)
        steps: tuple[InkStep | None, InkStep | None] = (None, None)
        if not preview:
            key_of_steps = _key("steps", plan_key, separate.names, separate.shown)
            steps = stage("inks", key_of_steps, lambda tick: ink_steps(tones, ground, shown, separate))
        scale = 1.0
        if preview:
            full_tones, full_ground = tones, ground
            picture, scale = stage(
                "picture", _key("reduced", self._name(picture)), lambda tick: reduce_picture(ready, _PREVIEW_PIXELS)
            )
            small = picture
            key = _key("tones", key, "reduced")
            tones = stage("tones", key, lambda tick: find_tones(small, tone_settings, tick, full_tones, about))
            ground_key, plan_key = _key("ground", ground_key, "reduced"), _key("plan", plan_key, "reduced")
            ground = stage("ground", ground_key, lambda tick: clear_ground(tones, separate.ground, full_ground))
        plain = stage("inks", _key("labels", plan_key), lambda tick: label_map(tones, ground, plan))
        unset = PX_PER_MM_UNSET * scale
        first = first_scale(plain.labels, recipe.finish, unset)
        least, bounds = recipe.tidy.least_area * first**2, recipe.trace.bounds(first)
        key = _key("tidy", plan_key, least)
        regions, found, gone = stage("tidy", key, lambda tick: tidy(plain, least))
        planar = stage("map", _key("map", key), lambda tick: planar_map(regions.labels, tick, found))
        key_of_edges = _key("edges", key)
        samples = stage("edges", key_of_edges, lambda tick: sample_edges(planar, regions))
        key_of_tracks = _key("tracks", key, bounds.corner)
        tracks = stage("trace", key_of_tracks, lambda tick: lay_out(planar, samples, bounds.corner))
        key = _key("trace", key, bounds)
        curves = stage("trace", key, lambda tick: _traced(planar, samples, bounds, tick, tracks))
        fitted = curves
        edits, to_source = recipe.trace.edits, picture.source_of
        keys = [_hex(ink.key) for ink in plain.palette]
        key = _key("edits", key, edits, to_source.tolist() if edits else None)
        edited = stage("trace", key, lambda tick: apply_edits(planar, fitted, edits, keys, to_source))
        curves = edited.curves
        key = _key("finish", key, recipe.finish, unset)
        finished = stage("finish", key, lambda tick: finish(planar, curves, recipe.finish, unset))
        built = recipe.layers
        key_of_sets = _key("sets", key_of_edges, plan_key, built.build, built.order, separate.names, separate.shown)
        sets = stage("layers", key_of_sets, lambda tick: plan_layers(planar, shown.palette, built))
        key = _key("layers", key, key_of_sets)
        stack = stage("layers", key, lambda tick: build_layers(planar, finished.curves, sets, finished.size))
        centred = {hex_key for hex_key, edge in recipe.layers.edges if edge == "centre"}
        lines: dict[str, StrokeLayer] = {}
        lost_joins = 0
        for hex_key in sorted({*recipe.layers.strokes, *centred} & {*keys}):
            key_of_ink = _key("strokes", key_of_edges, hex_key, bounds.tolerance)
            label = keys.index(hex_key) + 1
            strokes = stage(
                "trace",
                key_of_ink,
                lambda tick, label=label: find_strokes(regions, planar, samples, label, bounds.tolerance),  # type: ignore[misc]
            )
            joins = [join for join in recipe.layers.joins if join.ink == hex_key]
            pairs = [on_picture(picture, [join.first, join.last]) for join in joins]
            strokes, lost = join_ends(strokes, [(pair[0], pair[1]) for pair in pairs])
            lost_joins += lost
            lines[hex_key] = stroke_layer(shown.palette[label - 1], strokes, finished)
        double = double_edges(stack.layers) if stack.build == "flush" else ()
        stack = _with_lines(stack, recipe.layers, lines, double)
        return Result(
            prepared,
            picture,
            tones,
            ground,
            shown,
            steps,
            regions,
            gone,
            planar,
            samples,
            curves,
            edited.unplaced,
            finished,
            stack,
            double,
            lost_joins,
            scale,
            timings,
        )

    def _name(self, picture: Picture) -> str:
        """Tell a picture from others by its pixels, where anything is remembered."""
        return picture.key if self._limit else ""

    def _remembered(self, key: str, work: Callable[[], T]) -> tuple[T, bool]:
        if not self._limit:
            return work(), True
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0], False
        value = work()
        size = _bytes_of(value, set())
        with self._lock:
            if size <= self._limit:
                self._kept[key] = value, size
                total = sum(s for _, s in self._kept.values())
                while total > self._limit:
                    _, (_, dropped) = self._kept.popitem(last=False)
                    total -= dropped
        return value, True


def _traced(planar: PlanarMap, samples: EdgeSamples, bounds: Bounds, tick: Tick, tracks: Stretches) -> ArcCurves:
    curves = trace_arcs(planar, samples, bounds, tick, tracks)
    return even_halves(planar, curves, bounds.mirror) if bounds.mirror else curves


def _with_lines(
    stack: LayerStack, settings: LayerSettings, lines: dict[str, StrokeLayer], double: tuple[DoubleEdge, ...]
) -> LayerStack:
    """Put centre lines beside the layers, and one edge in the place of two."""
    edges = dict(settings.edges)
    layers = list(stack.layers)
    for place, _ in double:
        key = _hex(layers[place].ink.key)
        if key in edges:
            layers[place] = one_edge(layers[place], edges[key], lines.get(key))
    strokes = tuple(lines[key] for key in settings.strokes if key in lines and lines[key].strokes)
    return dataclasses.replace(stack, layers=tuple(layers), strokes=strokes)


def ink_keys(result: Result) -> list[str]:
    """The inks as settings know them, as hex colours."""
    return [_hex(ink.key) for ink in result.regions.palette]


def _hex(colour: Colour) -> str:
    return "#{:02x}{:02x}{:02x}".format(*colour)


def colour_at(result: Result, at: Point) -> Colour | None:
    """The colour that the picture the inks were read from has at a place of the source."""
    x, y = np.floor(on_picture(result.picture, [at])[0]).astype(int)
    evidence = result.regions.evidence
    if not (0 <= x < evidence.shape[1] and 0 <= y < evidence.shape[0]):
        return None
    red, green, blue = (int(v) for v in evidence[y, x, :3])
    return red, green, blue


def ink_at(result: Result, at: Point) -> Ink | None:
    """The ink that lies at a place of the source, or None where nothing is cut."""
    x, y = np.floor(on_picture(result.picture, [at])[0]).astype(int)
    labels = result.regions.labels
    inside = 0 <= x < labels.shape[1] and 0 <= y < labels.shape[0]
    label = int(labels[y, x]) if inside else GROUND
    return result.regions.palette[label - 1] if label != GROUND else None


def _for_tones(separate: SeparateSettings) -> SeparateSettings:
    """The settings that finding tones hangs on; the number of inks only where it does not just join them."""
    keep = separate.inks if separate.mode in ("photo", "lineart") else None
    return msgspec.structs.replace(_plain(separate), inks=keep, grounded=(), joined=(), locked=())


def _hangs_on_number(tones: Tones, inks: int | None) -> bool:
    """Whether tones must be found again for a number: joining gives fewer inks, but not more, and no steps of light."""
    if inks is None or tones.kind == "ink":
        return False
    return tones.kind != "flat" or inks > len(tones.mix) - 1 - tones.picked


def _plain(separate: SeparateSettings) -> SeparateSettings:
    """Settings without those that only dress the inks."""
    return msgspec.structs.replace(separate, names=(), shown=())


def _key(stage: str, *parts: Any) -> str:
    digest = hashlib.blake2b(stage.encode(), digest_size=16)
    for part in parts:
        digest.update(b"\0" + msgspec.json.encode(part))
    return digest.hexdigest()


def _bytes_of(value: Any, seen: set[int]) -> int:
    """Bytes of the arrays in a value; an array shared with another result counts in both."""
    if id(value) in seen:
        return 0
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        return value.nbytes
    if is_dataclass(value):
        return sum(_bytes_of(getattr(value, f.name), seen) for f in fields(value))
    if isinstance(value, (tuple, list)):
        return sum(_bytes_of(part, seen) for part in value)
    return 64
