"""Which tones become which ink."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Ints
from sketchloom.core.regions.colour import name_of
from sketchloom.core.regions.ground import Ground
from sketchloom.core.regions.inks import join_cheapest
from sketchloom.core.regions.labelmap import GROUND, Ink, LabelMap
from sketchloom.core.regions.settings import Colour, SeparateSettings
from sketchloom.core.regions.tones import Tones

__all__ = ["InkPlan", "InkStep", "dressed", "ink_steps", "label_map", "plan_inks"]


class InkPlan(NamedTuple):
    """Which tones become which ink; made on the full picture, good for a reduced one too."""

    palette: tuple[Ink, ...]
    number: Bytes  # (K + 1,), the ink label of each tone label
    found: int  # inks there are when none are joined
    shares: tuple[float, ...]  # of the picture: ground, then every ink
    grounded: tuple[Ink, ...] = ()  # sent to the ground by hand

    @property
    def taken(self) -> int:
        """Inks that were taken, those sent to the ground counted."""
        return len(self.palette) + len(self.grounded)


class InkStep(NamedTuple):
    """What one ink fewer, or one more, changes."""

    ink: Ink  # that goes, or comes
    other: Ink  # that it joins, or comes out of
    share: float  # of the picture
    box: tuple[int, int, int, int]  # left, top, width and height of its pixels, px


def plan_inks(tones: Tones, ground: Ground, settings: SeparateSettings) -> InkPlan:
    """Join the tones that are not cleared to inks, and send some to the ground.

    What a maker joined is joined first; then the pairs that change the
    picture least, until as many are left as are wanted. Locked inks, and
    those picked by hand, are joined with none of the others.
    """
    total, counts = tones.labels.size, ground.left
    live, owner = _owners(tones, ground, settings, settings.inks)
    areas = np.bincount(owner, counts[live], len(counts))
    order = np.flatnonzero(areas)
    rank = np.array(tones.rank)[order] if tones.rank else -areas[order]
    order = order[np.argsort(rank, kind="stable")]
    place = np.zeros(len(counts), np.uint8)
    place[order] = np.arange(1, len(order) + 1)
    number = np.zeros(len(counts) + 1, np.uint8)
    number[live + 1] = place[owner]
    palette: list[Ink] = []
    for i in order:
        palette.append(Ink(name_of(tones.shown[i], {ink.name for ink in palette}), tones.shown[i]))
    shares = tuple(float(a / total) for a in (total - areas.sum(), *areas[order]))
    found = len(np.unique(_owners(tones, ground, settings, None)[1]))
    return _without(InkPlan(tuple(palette), number, found, shares), _sent_away(tones, settings))


def _sent_away(tones: Tones, settings: SeparateSettings) -> tuple[Colour, ...]:
    """Colours of the inks that go to the ground."""
    own = tones.shown[len(tones.shown) - tones.picked :]
    picks = settings.picks if tones.picked else ()
    return (*settings.grounded, *(colour for colour, pick in zip(own, picks, strict=True) if pick.ground))


def _owners(tones: Tones, ground: Ground, settings: SeparateSettings, inks: int | None) -> tuple[Ints, Ints]:
    """Tones that are not cleared, and for each the tone whose ink it becomes."""
    live = np.flatnonzero(ground.left)
    if not len(live):
        return live, live
    owner = _joined_by_hand(tones, ground, settings)[live]
    heads = np.unique(owner)
    areas = np.bincount(owner, ground.left[live], len(tones.mix))[heads].astype(float)
    shown = np.array(tones.shown, float).reshape(-1, 3)
    # steps of light and colours of line art have as many as were asked for already
    wanted = inks if inks and tones.kind == "flat" and not tones.rank else len(heads)
    group = join_cheapest(shown[heads], areas, wanted, _kept(tones, settings)[heads])
    return live, heads[group][np.searchsorted(heads, owner)]


def _joined_by_hand(tones: Tones, ground: Ground, settings: SeparateSettings) -> Ints:
    """For each tone the one that a maker joined it to, or itself."""
    place = {colour: tone for tone, colour in enumerate(tones.shown) if ground.left[tone]}
    own = tones.shown[len(tones.shown) - tones.picked :]
    picks = settings.picks if tones.picked else ()
    joins = [*settings.joined, *((colour, pick.to) for colour, pick in zip(own, picks, strict=True) if pick.to)]
    owner = np.arange(len(tones.shown))
    for goes, stays in joins:
        if goes in place and stays in place and goes != stays:
            owner[owner == owner[place[goes]]] = owner[place[stays]]
    return owner


def _kept(tones: Tones, settings: SeparateSettings) -> Bools:
    """Tones that stay inks of their own however few are wanted."""
    kept = np.array([colour in settings.locked for colour in tones.shown], bool)
    kept[len(kept) - tones.picked :] = True
    return kept


def _without(plan: InkPlan, colours: tuple[Colour, ...]) -> InkPlan:
    gone = [ink.srgb in colours for ink in plan.palette]
    if not any(gone):
        return plan
    left = np.flatnonzero(np.logical_not(gone))
    place = np.zeros(len(gone) + 1, np.uint8)
    place[left + 1] = np.arange(1, len(left) + 1)
    shares = tuple(plan.shares[1 + i] for i in left)
    return InkPlan(
        tuple(plan.palette[i] for i in left),
        place[plan.number],
        plan.found,
        (1 - sum(shares), *shares),
        tuple(ink for ink, away in zip(plan.palette, gone, strict=True) if away),
    )


def dressed(plan: InkPlan, settings: SeparateSettings) -> InkPlan:
    """Give inks the names and the colours that a maker gave them."""
    given, seen = dict(settings.names), dict(settings.shown)
    laid = dict(settings.layers)
    palette, grounded = (
        tuple(
            Ink(given.get(ink.srgb) or laid.get(ink.srgb) or ink.name, seen.get(ink.srgb, ink.srgb), ink.srgb)
            for ink in inks
        )
        for inks in (plan.palette, plan.grounded)
    )
    return plan._replace(palette=palette, grounded=grounded)


def ink_steps(
    tones: Tones, ground: Ground, plan: InkPlan, settings: SeparateSettings
) -> tuple[InkStep | None, InkStep | None]:
    """Tell what one ink fewer would lose, and what one more would bring.

    Returns
    -------
    fewer, more : InkStep or None
        None where there is nothing left to join, or nothing joined to come apart.
    """
    count = plan.taken
    if tones.kind != "flat" or tones.rank:
        return None, None
    fewer = _step(tones, ground, plan, settings, (count, count - 1)) if count > 1 else None
    return fewer, _step(tones, ground, plan, settings, (count + 1, count)) if count < plan.found else None


def _step(
    tones: Tones, ground: Ground, plan: InkPlan, settings: SeparateSettings, counts: tuple[int, int]
) -> InkStep | None:
    live, apart = _owners(tones, ground, settings, counts[0])
    joined = _owners(tones, ground, settings, counts[1])[1]
    if (apart == joined).all():  # all that are left are locked
        return None
    moved = live[apart != joined]
    goes, stays = int(apart[apart != joined][0]), int(joined[apart != joined][0])
    group = np.zeros(len(tones.mix) + 1, np.uint8)
    group[moved + 1] = 1
    where = group[tones.labels]
    if ground.cleared is not None:
        where[ground.cleared] = 0
    left, top, width, height = cv2.boundingRect(where)
    known = {ink.key: ink for ink in (*plan.palette, *plan.grounded)}

    def ink(tone: int) -> Ink:
        colour = tones.shown[tone]
        return known.get(colour) or Ink(name_of(colour, {ink.name for ink in plan.palette}), colour)

    share = float(ground.left[moved].sum() / tones.labels.size)
    return InkStep(ink(goes), ink(stays), share, (left, top, width, height))


def label_map(tones: Tones, ground: Ground, plan: InkPlan) -> LabelMap:
    """Give every pixel its ink's label, or the ground's."""
    table = np.zeros(256, np.uint8)
    table[: len(plan.number)] = plan.number
    labels = cv2.LUT(tones.labels, table).astype(np.uint8, copy=False)
    if ground.cleared is not None:
        labels[ground.cleared] = GROUND
    return LabelMap(labels, plan.palette, tones.evidence, tones.labels, np.vstack([np.zeros(3), tones.mix]))
