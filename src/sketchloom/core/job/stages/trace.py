"""Stages of Trace: the planar map, its edges measured, and a curve along each."""

from typing import Any

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
    lay_out,
    measured_anew,
    tips_uncrossed,
    trace_arcs,
)
from sketchloom.core.job.stages.stage import Ask, itself, stage
from sketchloom.core.planar import EdgeSamples, PlanarMap, planar_map, sample_edges
from sketchloom.core.progress import Tick
from sketchloom.core.tidy import Tidied


@stage("map", "trace", ("tidy",))
def faces_and_arcs(ask: Ask, settings: None, tick: Tick) -> PlanarMap:
    """The planar map of the labels."""
    tidied: Tidied = ask("tidy")
    return planar_map(tidied.regions.cells, tick, (tidied.faces, tidied.runs))


@stage("edges", "trace", ("map", "tidy"))
def edges(ask: Ask, settings: None, tick: Tick) -> EdgeSamples:
    """Points on the true edges."""
    return sample_edges(ask("map"), ask("tidy").regions)


@stage("tracks", "trace", ("map", "edges", "road"), lambda recipe: recipe.trace.corner)
def tracks(ask: Ask, corner: float | None, tick: Tick) -> Stretches:
    """The samples of each arc laid out, with corners."""
    turn = TraceSettings(corner=corner).corner_in(ask("road").mode == "photo")
    return lay_out(ask("map"), ask("edges"), float(np.deg2rad(turn)))


@stage("bounds", "trace", ("scale", "edges", "road"), lambda recipe: recipe.trace, outcome=itself)
def bounds(ask: Ask, trace: Any, tick: Tick) -> Bounds:
    """How closely curves follow them."""
    bounds: Bounds = trace.bounds(ask("scale").px_per_mm, ask("road").mode == "photo")
    return bounds.floored(ask("edges").exact)


@stage("trace", "trace", ("map", "edges", "tracks", "bounds"))
def curves(ask: Ask, settings: None, tick: Tick) -> ArcCurves:
    """A curve along each arc, none crossing another."""
    planar, bounds = ask("map"), ask("bounds")
    curves = trace_arcs(planar, ask("edges"), bounds, lambda done: tick(0.9 * done), ask("tracks"))
    curves = drawn_apart(planar, tips_uncrossed(planar, curves))
    if bounds.mirror:
        curves = drawn_apart(planar, even_halves(planar, curves, bounds.mirror, tick))
    return measured_anew(curves)


@stage("hand", "trace", ("map", "tidy", "trace", "picture"), lambda recipe: recipe.trace.edits)
def edited(ask: Ask, edits: Any, tick: Tick) -> Edited:
    """Curves after the work by hand."""
    keys, planar = ask("tidy").regions.keys, ask("map")
    edited = apply_edits(planar, ask("trace"), edits, keys, ask("picture").source_of, tick)
    return edited._replace(curves=drawn_apart(planar, edited.curves)) if edits else edited
