"""Stages of Layers: curves in mm, their order and ways, and the layers that come of them."""

from collections.abc import Callable
from typing import Any, NamedTuple

import msgspec
import numpy as np

from sketchloom.core.curves import face_areas
from sketchloom.core.cut import Cut
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.stages.stage import Ask, stage
from sketchloom.core.layers import (
    DoubleEdge,
    Finished,
    Grouping,
    LayerPlan,
    LayerRule,
    LayerSettings,
    LayerStack,
    Orders,
    build_layers,
    double_edges,
    find_order,
    find_strokes,
    finish,
    group_faces,
    join_ends,
    plan_layers,
    stroke_layer,
    with_lines,
)
from sketchloom.core.layers.double import WIDEST
from sketchloom.core.picture import Point, on_picture
from sketchloom.core.progress import Tick
from sketchloom.core.regions import ground_key

__all__ = ["CentreLines", "Layered"]


class CentreLines(NamedTuple):
    """Centre lines of the inks that they are wanted of."""

    lines: dict[str, Cut]  # by the ink's key
    lost_joins: int  # ends to join that were not found


class Layered(NamedTuple):
    """The layers, with lines."""

    stack: LayerStack
    double: tuple[DoubleEdge, ...]  # layers that are one line, cut on both sides unless a rule says otherwise


@stage("finish", "layers", ("map", "hand", "scale"), lambda recipe: recipe.finish)
def finished(ask: Ask, settings: Any, tick: Tick) -> Finished:
    return finish(ask("map"), ask("hand").curves, settings, ask("scale"))


def _face_at(ask: Ask) -> Callable[[Point], int | None]:
    """Finds the face at a place of the source."""
    picture, tidied = ask("picture"), ask("tidy")
    height, width = tidied.regions.labels.shape

    def face_at(at: Point) -> int | None:
        x, y = np.floor(on_picture(picture, [at])[0]).astype(int).tolist()
        return int(tidied.runs.face_at(np.array(y * width + x))) if 0 <= x < width and 0 <= y < height else None

    return face_at


def _group_settings(recipe: Recipe) -> LayerSettings:
    s = recipe.layers
    laid = tuple(LayerRule(rule.ink, into=rule.into) for rule in s.rules if rule.into)
    return LayerSettings(order=s.order, rules=laid, holes=s.holes, windows=s.windows, clear=s.clear)


@stage("grouping", "layers", ("map", "tidy", "palette", "picture"), _group_settings)
def grouping(ask: Ask, settings: LayerSettings, tick: Tick) -> Grouping:
    return group_faces(ask("map"), ask("tidy").regions.keys, ask("palette"), settings, _face_at(ask))


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


@stage("order", "layers", ("map", "grouping", "finish"), _order_settings)
def order(ask: Ask, settings: LayerSettings, tick: Tick) -> Orders:
    planar, curves = ask("map"), ask("finish").curves
    return find_order(planar, ask("grouping"), settings, face_areas(planar, curves), curves.lengths(), tick)


def _set_needs(recipe: Recipe, road: Callable[[], str]) -> tuple[str, ...]:
    needs = ("map", "tidy", "palette", "picture", "grouping", "ground")
    return (*needs, "order") if recipe.layers.best else needs


@stage("sets", "layers", _set_needs, lambda recipe: (recipe.layers, recipe.tidy.cut_away))
def sets(ask: Ask, asked: Any, tick: Tick) -> LayerPlan:
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


@stage(
    "centre lines",
    "layers",
    ("tidy", "map", "edges", "bounds", "picture", "palette", "finish"),
    lambda recipe: recipe.layers,
)
def centre_lines(ask: Ask, settings: Any, tick: Tick) -> CentreLines:
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


@stage("layers", "layers", ("map", "finish", "sets", "centre lines", "picture"), lambda recipe: recipe.layers)
def layers(ask: Ask, settings: LayerSettings, tick: Tick) -> Layered:
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
