"""Stages of Check: layers after their mends, what a slip shows, the narrowest places, and all findings."""

from collections.abc import Sequence
from typing import Any, NamedTuple

import msgspec
import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves import measured_anew
from sketchloom.core.inspect import (
    Aside,
    CheckSettings,
    Finding,
    FromPicture,
    Subject,
    find_all,
    limits_for,
    narrowest_mm,
)
from sketchloom.core.job.recipe import Recipe
from sketchloom.core.job.stages.stage import Ask, stage
from sketchloom.core.layers import (
    BASE,
    CLEAR,
    AnyMend,
    Beside,
    Finished,
    LayerPlan,
    LayerSettings,
    LayerStack,
    OnPage,
    Slip,
    find_slip,
    mend_stack,
)
from sketchloom.core.picture import Picture, Point, on_picture
from sketchloom.core.planar import PlanarMap
from sketchloom.core.progress import Tick

__all__ = ["Checked", "beside_of", "left_so", "on_page_of"]


class Checked(NamedTuple):
    """What a check found.

    Attributes
    ----------
    subject : Subject
    findings : tuple of Finding
        Worst first, those that are left so among them.
    aside : dict of int to Aside
        Which of them are left so, by their place.
    """

    subject: Subject
    findings: tuple[Finding, ...]
    aside: dict[int, Aside]

    @property
    def open(self) -> tuple[Finding, ...]:
        """Those that are not left so."""
        return tuple(found for place, found in enumerate(self.findings) if place not in self.aside)

    @property
    def ready(self) -> bool:
        """Whether nothing spoils the cut."""
        return not any(found.severity == "spoils" for found in self.open)


def on_page_of(picture: Picture, finished: Finished, stack: LayerStack) -> OnPage:
    """Give what brings places of the source to mm on the page of a stack."""

    def on_page(points: Sequence[Point]) -> Floats:
        at = (on_picture(picture, points) - finished.origin) / finished.px_per_mm + np.array(stack.moved)
        return np.asarray(at)

    return on_page


def beside_of(plan: LayerPlan, overlaps: bool) -> Beside:
    """What a mend carries: to those that bear a layer, and to those that share its edges.

    The base bears, and those that reach on under what lies on them; layers
    share edges where they are flush and run on under none by an overlap.
    """
    bearers: dict[str, tuple[str, ...]] = {}
    below: list[str] = []
    for planned in plan.layers:
        bearers[planned.key] = tuple(below)
        if planned.role == "base" or (planned.way == "carried" and planned.role == "ink"):
            below.append(planned.key)
    flush = [one for one in plan.layers if one.way == "flush" and one.role == "ink" and not one.copy]
    return Beside(bearers, frozenset() if overlaps else frozenset(one.key for one in flush))


def _mends(recipe: Recipe) -> Any:
    return recipe.checks.mends, bool(recipe.layers.overlap)


@stage("mended", "check", ("layers", "sets", "finish", "picture"), _mends)
def mended(ask: Any, settings: tuple[tuple[AnyMend, ...], bool], tick: Tick) -> Any:
    """Layers after their mends."""
    mends, overlaps = settings
    stack = ask("layers").stack
    return mend_stack(stack, mends, on_page_of(ask("picture"), ask("finish"), stack), beside_of(ask("sets"), overlaps))


def _slip_settings(recipe: Recipe) -> LayerSettings:
    return LayerSettings(build=recipe.layers.build, slip=recipe.layers.slip)


@stage("slip", "layers", ("mended",), _slip_settings)
def slip(ask: Ask, settings: LayerSettings, tick: Tick) -> Slip | None:
    """What a slip would show; None where none is asked for, or nothing is laid on anything."""
    stack: LayerStack = ask("mended").stack
    if not settings.slip or settings.build in ("single", "stencil"):
        return None
    layers = [layer for layer in stack.sent if "+" not in layer.key and layer.kind == "cut"]
    shapes = [layer.flat.shape for layer in layers]
    shrinks = [layer.stock.shrink if layer.stock else 0.0 for layer in layers]
    return find_slip(shapes, settings.slip, shrinks, tick)


@stage("narrowest", "layers", ("mended",))
def narrowest(ask: Ask, settings: None, tick: Tick) -> dict[str, float]:
    """Narrowest place of each layer, mm, by its key."""
    return {layer.key: narrowest_mm(layer) for layer in ask("mended").stack.layers if layer.kind == "cut"}


def _check_settings(recipe: Recipe) -> Any:
    checked = msgspec.structs.replace(recipe.checks, mends=())
    return checked, LayerSettings(rules=recipe.layers.rules), recipe.trace.smoothness, recipe.sheets.ready.kerf


@stage("checked", "check", ("mended", "layers", "sets", "map", "finish", "picture"), _check_settings)
def checked(ask: Any, settings: tuple[CheckSettings, LayerSettings, float, float], tick: Tick) -> Checked:
    """Check the layers that are sent."""
    checks, rules, smoothness, kerf = settings
    stack: LayerStack = ask("mended").stack
    finished: Finished = ask("finish")
    double = {edge.ink for edge in ask("layers").double if rules.rule(edge.ink).edge == "both"}
    layers = tuple(layer for layer in stack.sent if layer.kind == "cut")
    apart = frozenset(layer.key for layer in layers if layer.key in (BASE, CLEAR) or "+" in layer.key)
    if stack.build == "stencil":
        apart = frozenset(layer.key for layer in layers)
    limits = {layer.key: limits_for(layer.stock, checks.limits, kerf) for layer in layers}
    away, at, keys = _away(ask("map"), finished, ask("sets"), stack)
    origin = FromPicture(
        finished.px_per_mm, away, at, keys, smoothness, stack.build, tuple(sorted(double)),
        frozenset(rule.ink for rule in rules.rules if rule.locked),
    )  # fmt: skip
    carries = beside_of(ask("sets"), bool(rules.overlap))
    subject = Subject(layers, limits, stack.size, ask.memory, origin, stack.build == "stencil", carries, apart)
    found = find_all(subject, tick)
    return Checked(subject, found, left_so(found, checks.aside, on_page_of(ask("picture"), finished, stack)))


def _away(
    planar: PlanarMap, finished: Finished, plan: LayerPlan, stack: LayerStack
) -> tuple[Floats, Floats, tuple[str, ...]]:
    """Largest distance of each curve from the picture, mm, where, and a layer that it bounds; the frame left out."""
    deviation = measured_anew(finished.curves, finished.origin, finished.px_per_mm).deviation
    largest = np.where((planar.left > 0) & (planar.right > 0), deviation.largest, 0.0)
    far = np.flatnonzero(largest > 0)
    worst = np.array([
        low + int(np.argmax(deviation.away[low:high]))
        for low, high in zip(deviation.offset[far].tolist(), deviation.offset[far + 1].tolist(), strict=True)
    ], np.int64)  # fmt: skip
    owner = np.full(len(planar.faces.label), -1)
    for number, planned in enumerate(plan.layers):
        owner[planned.faces.chosen & (owner < 0)] = number
    of_arc = np.where(owner[planar.left] >= 0, owner[planar.left], owner[planar.right])
    keys = tuple(plan.layers[number].key if number >= 0 else "" for number in of_arc[far].tolist())
    at = (deviation.place[worst].reshape(-1, 2) - finished.origin) / finished.px_per_mm + np.array(stack.moved)
    return largest[far], at, keys


def left_so(found: Sequence[Finding], aside: Sequence[Aside], on_page: OnPage) -> dict[int, Aside]:
    """Which findings are left so, by their place; each word is about one finding."""
    if not aside:
        return {}
    there = on_page([one.at for one in aside])
    out: dict[int, Aside] = {}
    for place, finding in enumerate(found):
        apart = np.hypot(*(there - finding.at).T)
        for number in np.argsort(apart, kind="stable").tolist():
            if aside[number].holds(finding.kind, finding.layer, float(apart[number]), finding.measure):
                out[place] = aside[number]
                break
    return out
