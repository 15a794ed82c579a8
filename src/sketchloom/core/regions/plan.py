"""Which tones become which ink."""

from typing import NamedTuple

import cv2
import msgspec
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Ints, looked_up
from sketchloom.core.colour import name_of
from sketchloom.core.palette import Ink, Palette, hex_of
from sketchloom.core.regions.ground import Ground
from sketchloom.core.regions.join import join_cheapest
from sketchloom.core.regions.labelmap import GROUND, LabelMap
from sketchloom.core.regions.settings import SeparateSettings
from sketchloom.core.regions.shading.shades import count_of
from sketchloom.core.regions.tones import Tones

__all__ = ["InkPlan", "InkStep", "dressed", "ink_steps", "label_map", "plan_inks"]


class InkPlan(NamedTuple):
    """Which tones become which ink; made on the full picture, good for a reduced one too."""

    palette: Palette  # each ink with the name of its colour; those to cut bottom first
    keys: tuple[str, ...]  # label i is the ink keys[i - 1]
    number: Bytes  # (K + 1,), the ink label of each tone label
    found: int  # inks there are when none are joined
    shares: dict[str, float]  # of the picture, by key, of the inks that are cut

    @property
    def taken(self) -> int:
        """Inks that were taken, those sent to the ground counted."""
        return len(self.palette)


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
    away = _sent_away(tones, settings)
    inks: list[Ink] = []
    for tone in order:
        key, colour = tones.keys[tone], tones.found[tone]
        name = name_of(colour, {ink.name for ink in inks})
        inks.append(Ink(key, name, colour, colour, "ground" if key in away else "cut"))
    cut = np.array([ink.role == "cut" for ink in inks], bool)
    renumbered = np.append(0, np.where(cut, np.cumsum(cut), 0)).astype(np.uint8)
    palette = Palette((*(ink for ink in inks if ink.role == "cut"), *(ink for ink in inks if ink.role == "ground")))
    return InkPlan(
        palette,
        tuple(ink.key for ink in palette.cut),
        renumbered[number],
        len(np.unique(_owners(tones, ground, settings, None)[1])),
        {
            tones.keys[tone]: float(areas[tone] / total)
            for tone, ink in zip(order, inks, strict=True)
            if ink.role == "cut"
        },
    )


def _sent_away(tones: Tones, settings: SeparateSettings) -> set[str]:
    """Keys of the inks that go to the ground."""
    picks = settings.picks if tones.picked else ()
    return {*settings.grounded, *(key for key, pick in zip(tones.picked, picks, strict=True) if pick.ground)}


def _owners(tones: Tones, ground: Ground, settings: SeparateSettings, inks: int | None) -> tuple[Ints, Ints]:
    """Tones that are not cleared, and for each the tone whose ink it becomes."""
    live = np.flatnonzero(ground.left)
    if not len(live):
        return live, live
    owner = _joined_by_hand(tones, ground, settings)[live]
    found, kept = np.array(tones.found, float).reshape(-1, 3), _kept(tones, settings)
    owner = _shades_joined(tones, ground, settings, live, owner)
    heads = np.unique(owner)
    areas = np.bincount(owner, ground.left[live], len(tones.mix))[heads].astype(float)
    # steps of light and colours of line art have as many as were asked for already
    wanted = inks if inks and tones.mode == "flat" and not tones.rank else len(heads)
    group = join_cheapest(found[heads], areas, wanted, kept[heads], _kin(tones)[heads])
    return live, heads[group][np.searchsorted(heads, owner)]


def _shades_joined(tones: Tones, ground: Ground, settings: SeparateSettings, live: Ints, owner: Ints) -> Ints:
    """Join even shades of one group until as many are left as were asked for; like `owner`."""
    found, kept = np.array(tones.found, float).reshape(-1, 3), _kept(tones, settings)
    areas = np.bincount(owner, ground.left[live], len(tones.mix)).astype(float)
    for group in tones.shades:
        count = count_of(settings.shades, group.key)
        if group.gradient or count is None:
            continue
        own = np.flatnonzero(np.isin(np.arange(len(tones.keys)), [tones.keys.index(key) for key in group.keys]))
        own = own[np.isin(own, owner)]
        if len(own):
            joined = own[join_cheapest(found[own], areas[own], count, kept[own])]
            to = np.arange(len(tones.keys))
            to[own] = joined
            owner = to[owner]
    return owner


def _kin(tones: Tones) -> Ints:
    """For each tone the number of its group of shades, -1 for none."""
    kin = np.full(len(tones.keys), -1)
    for number, group in enumerate(tones.shades):
        kin[[tones.keys.index(key) for key in group.keys]] = number
    return kin


def _joined_by_hand(tones: Tones, ground: Ground, settings: SeparateSettings) -> Ints:
    """For each tone the one that a maker joined it to, or itself."""
    place = {key: tone for tone, key in enumerate(tones.keys) if tone != ground.tone or ground.left[tone]}
    picks = settings.picks if tones.picked else ()
    joins = [*settings.joined, *((key, pick.to) for key, pick in zip(tones.picked, picks, strict=True) if pick.to)]
    owner = np.arange(len(tones.keys))
    for goes, stays in joins:
        if goes in place and stays in place and goes != stays:
            owner[owner == owner[place[goes]]] = owner[place[stays]]
    return owner


def _kept(tones: Tones, settings: SeparateSettings) -> Bools:
    """Tones that stay inks of their own however few are wanted."""
    return np.array([key in settings.locked or key in tones.picked for key in tones.keys], bool)


def dressed(plan: InkPlan, settings: SeparateSettings) -> Palette:
    """Give inks the names and the colours that a maker gave them."""
    given, seen = dict(settings.names), dict(settings.shown)
    laid = {hex_of(colour): name for colour, name in settings.layers}
    return Palette(
        tuple(
            msgspec.structs.replace(
                ink, name=given.get(ink.key) or laid.get(ink.key) or ink.name, shown=seen.get(ink.key, ink.found)
            )
            for ink in plan.palette
        )
    )


def ink_steps(
    tones: Tones, ground: Ground, plan: InkPlan, palette: Palette, settings: SeparateSettings
) -> tuple[InkStep | None, InkStep | None]:
    """Tell what one ink fewer would lose, and what one more would bring.

    Returns
    -------
    fewer, more : InkStep or None
        None where there is nothing left to join, or nothing joined to come apart.
    """
    count = plan.taken
    if tones.mode != "flat" or tones.rank:
        return None, None
    fewer = _step(tones, ground, palette, settings, (count, count - 1)) if count > 1 else None
    return fewer, _step(tones, ground, palette, settings, (count + 1, count)) if count < plan.found else None


def _step(
    tones: Tones, ground: Ground, palette: Palette, settings: SeparateSettings, counts: tuple[int, int]
) -> InkStep | None:
    live, apart = _owners(tones, ground, settings, counts[0])
    joined = _owners(tones, ground, settings, counts[1])[1]
    if (apart == joined).all():  # all that are left are locked
        return None
    moved = live[apart != joined]
    goes, stays = int(apart[apart != joined][0]), int(joined[apart != joined][0])
    group = np.zeros(len(tones.mix) + 1, np.uint8)
    group[moved + 1] = 1
    where = looked_up(group, tones.labels)
    if ground.cleared is not None:
        where[ground.cleared] = 0
    left, top, width, height = cv2.boundingRect(where)

    def ink(tone: int) -> Ink:
        key, colour = tones.keys[tone], tones.found[tone]
        return palette.get(key) or Ink(key, name_of(colour, {ink.name for ink in palette.cut}), colour, colour)

    share = float(ground.left[moved].sum() / tones.labels.size)
    return InkStep(ink(goes), ink(stays), share, (left, top, width, height))


def label_map(tones: Tones, ground: Ground, plan: InkPlan) -> LabelMap:
    """Give every pixel its ink's label, or the ground's."""
    table = np.zeros(256, np.uint8)
    table[: len(plan.number)] = plan.number
    labels = cv2.LUT(tones.labels, table).astype(np.uint8, copy=False)
    if ground.cleared is not None:
        labels[ground.cleared] = GROUND
    mix = np.vstack([np.zeros(3), tones.mix])
    simple = tones.mode == "photo" and tones.soft > 0
    return LabelMap(
        labels, plan.keys, tones.evidence, tones.labels, mix, soft=tones.soft, blur=tones.blur, simple=simple
    )
