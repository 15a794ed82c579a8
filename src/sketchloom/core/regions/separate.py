"""The Separate step: picture in, label map out."""

from typing import Literal, NamedTuple

import cv2
import msgspec
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.colour import name_of
from sketchloom.core.regions.evidence import over_colour, unlike_colour
from sketchloom.core.regions.flat import label_by_tones, separate_flat
from sketchloom.core.regions.ink import separate_ink
from sketchloom.core.regions.inks import is_clean, join_cheapest
from sketchloom.core.regions.labelmap import GROUND, Ink, LabelMap
from sketchloom.core.regions.photo import LEAST_STEPS, MOST_STEPS, STEPS, tone_steps

__all__ = [
    "Ground",
    "InkPlan",
    "InkStep",
    "SeparateSettings",
    "Tones",
    "clear_ground",
    "find_tones",
    "ink_steps",
    "label_map",
    "named",
    "plan_inks",
    "without",
]

Mode = Literal["auto", "flat", "ink", "photo"]
Kind = Literal["flat", "ink", "photo"]
Colour = tuple[int, int, int]
_WHITE = (255, 255, 255)
_ONE_COLOUR_BORDER = 0.97
_PAPER_CHROMA = 14
_EVEN_BORDER = 4
_SPECK = 4
"""Px; an enclosed piece of the ground's colour no larger than this is no ink of its own."""


class SeparateSettings(msgspec.Struct, frozen=True):
    """What a maker decides about the inks."""

    mode: Mode = "auto"
    inks: int | None = None
    threshold: float | None = None
    ground: Literal["auto", "keep"] = "auto"
    names: tuple[tuple[Colour, str], ...] = ()
    """Names a maker gave to inks, by their colour as found."""
    grounded: tuple[Colour, ...] = ()
    """Inks sent to the ground, by their colour as found."""


class Tones(NamedTuple):
    """Every even colour of the picture, before any are joined or cleared."""

    labels: Bytes  # (H, W), 1 + tone
    mix: Floats  # (K, 3), in the evidence
    shown: tuple[Colour, ...]  # as seen on white
    evidence: Bytes
    kind: Kind
    why: str  # why this kind was taken
    clear: int | None  # the tone that stands for clear pixels
    threshold: float  # ink drawing: the split, a share of the paper's light
    histogram: Floats | None  # ink drawing: evened greys, (256,)
    cuts: tuple[float, ...] = ()  # photo: light at which one step becomes the next


class Ground(NamedTuple):
    """What is cleared."""

    tone: int | None
    everywhere: bool  # all of that tone, not only what reaches the border
    cleared: Bools | None  # (H, W)
    left: Floats  # (K,) pixels of each tone that stay
    shown: Ink | None  # the colour that was cleared


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


def find_tones(
    picture: Picture, settings: SeparateSettings, tick: Tick = no_tick, decided: Tones | None = None
) -> Tones:
    """Find the even colours of a picture and give every pixel to one.

    Parameters
    ----------
    picture : Picture
    settings : SeparateSettings
        The number of inks counts only where more are wanted than stand out.
    decided : Tones, optional
        Of the full picture, when `picture` is its reduced preview.
    """
    clears = settings.ground == "auto" and not picture.opaque and bool((picture.rgba[..., 3] < 128).any())
    key = (decided.mix[decided.clear] if decided.clear is not None else _WHITE) if decided else None
    if key is None:
        key = unlike_colour(picture) if clears else _WHITE
    evidence = over_colour(picture, (int(key[0]), int(key[1]), int(key[2])))
    kind, why = (decided.kind, decided.why) if decided else _kind(evidence, settings.mode, clears)
    if kind == "ink":
        return _ink_tones(over_colour(picture, _WHITE), settings, why, tick, decided)
    if kind == "photo":
        return _photo_tones(over_colour(picture, _WHITE), settings, why, tick, decided)
    if decided:
        labels = label_by_tones(evidence, decided.mix, tick)
        return decided._replace(labels=labels, evidence=evidence)
    flat = separate_flat(evidence, tick=tick)
    if settings.inks is not None and settings.inks > len(flat.colours) - 1:
        flat = separate_flat(evidence, keep_tiny=True, tick=tick)
    shown = [_as_colour(c) for c in flat.colours]
    clear = None
    if clears:
        clear = int(np.argmin(((flat.colours - np.array(key)) ** 2).sum(1)))
        shown = _on_white(picture, flat.labels, shown)
    return Tones(flat.labels, flat.colours, tuple(shown), evidence, "flat", why, clear, 0.0, None)


def clear_ground(tones: Tones, ground: Literal["auto", "keep"], decided: Ground | None = None) -> Ground:
    """Tell the ground from the inks.

    Clear pixels are ground; else the tone of a border of one colour. With
    several inks only what hangs together with the border is cleared, as an
    enclosed area of its colour may be meant.

    Parameters
    ----------
    tones : Tones
    ground : {'auto', 'keep'}
    decided : Ground, optional
        Of the full picture, when `tones` are those of its reduced preview.
    """
    if decided:
        tone, everywhere = decided.tone, decided.everywhere
    else:
        tone = _ground_tone(tones, ground)
        everywhere = tones.clear is not None or tones.kind == "ink" or len(tones.mix) <= 2
    cleared = _cleared(tones.labels, tone, everywhere)
    left = np.bincount(tones.labels.ravel(), minlength=len(tones.mix) + 1)[1:].astype(float)
    if tone is not None and cleared is not None:
        left[tone] -= np.count_nonzero(cleared)
    shown = None
    if tone is not None and tones.clear is None:
        shown = Ink(name_of(tones.shown[tone]), tones.shown[tone])
    return Ground(tone, everywhere, cleared, left, shown)


def plan_inks(tones: Tones, ground: Ground, inks: int | None) -> InkPlan:
    """Join the tones that are not cleared to as many inks as are wanted; None joins none."""
    total, counts = tones.labels.size, ground.left
    live, owner = _owners(tones, ground, inks)
    areas = np.bincount(owner, counts[live], len(counts))
    order = np.flatnonzero(areas)
    # steps of light nest, the lightest at the bottom; inks lie with the largest at the bottom
    rank = order if tones.kind == "photo" else areas[order]
    order = order[np.argsort(-rank, kind="stable")]
    place = np.zeros(len(counts), np.uint8)
    place[order] = np.arange(1, len(order) + 1)
    number = np.zeros(len(counts) + 1, np.uint8)
    number[live + 1] = place[owner]
    palette: list[Ink] = []
    for i in order:
        palette.append(Ink(name_of(tones.shown[i], {ink.name for ink in palette}), tones.shown[i]))
    shares = tuple(float(a / total) for a in (total - areas.sum(), *areas[order]))
    return InkPlan(tuple(palette), number, len(live), shares)


def _owners(tones: Tones, ground: Ground, inks: int | None) -> tuple[Ints, Ints]:
    """Tones that are not cleared, and for each the tone whose ink it becomes."""
    live = np.flatnonzero(ground.left)
    if not len(live):
        return live, live
    shown = np.array(tones.shown, float).reshape(-1, 3)
    return live, live[join_cheapest(shown[live], ground.left[live], inks or len(live))]


def without(plan: InkPlan, colours: tuple[Colour, ...]) -> InkPlan:
    """Send inks to the ground."""
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


def named(plan: InkPlan, names: tuple[tuple[Colour, str], ...]) -> InkPlan:
    """Give inks the names that a maker gave to their colours."""
    given = dict(names)
    palette, grounded = (
        tuple(Ink(given.get(ink.srgb, ink.name), ink.srgb) for ink in inks) for inks in (plan.palette, plan.grounded)
    )
    return plan._replace(palette=palette, grounded=grounded)


def ink_steps(tones: Tones, ground: Ground, plan: InkPlan) -> tuple[InkStep | None, InkStep | None]:
    """Tell what one ink fewer would lose, and what one more would bring.

    Returns
    -------
    fewer, more : InkStep or None
        None where there is nothing left to join, or nothing joined to come apart.
    """
    count = plan.taken
    fewer = _step(tones, ground, plan, count, count - 1) if count > 1 else None
    return fewer, _step(tones, ground, plan, count + 1, count) if count < plan.found else None


def _step(tones: Tones, ground: Ground, plan: InkPlan, many: int, few: int) -> InkStep:
    live, apart = _owners(tones, ground, many)
    joined = _owners(tones, ground, few)[1]
    moved = live[apart != joined]
    goes, stays = int(apart[apart != joined][0]), int(joined[apart != joined][0])
    group = np.zeros(len(tones.mix) + 1, np.uint8)
    group[moved + 1] = 1
    where = group[tones.labels]
    if ground.cleared is not None:
        where[ground.cleared] = 0
    left, top, width, height = cv2.boundingRect(where)
    known = {ink.srgb: ink for ink in (*plan.palette, *plan.grounded)}

    def ink(tone: int) -> Ink:
        colour = tones.shown[tone]
        return known.get(colour) or Ink(name_of(colour, {ink.name for ink in plan.palette}), colour)

    share = float(ground.left[moved].sum() / tones.labels.size)
    return InkStep(ink(goes), ink(stays), share, (left, top, width, height))


def label_map(tones: Tones, ground: Ground, plan: InkPlan) -> LabelMap:
    """Give every pixel its ink's label, or the ground's."""
    labels = plan.number[tones.labels]
    if ground.cleared is not None:
        labels[ground.cleared] = GROUND
    return LabelMap(labels, plan.palette, tones.evidence, tones.labels, np.vstack([np.zeros(3), tones.mix]))


def _kind(evidence: Bytes, mode: Mode, clears: bool) -> tuple[Kind, str]:
    if mode != "auto":
        return mode, "as chosen"
    if clears or is_clean(evidence):
        return "flat", "even areas with sharp edges"
    calm = cv2.GaussianBlur(evidence, (0, 0), 2.0)  # grain has a colour of its own
    border = np.concatenate([calm[0], calm[-1], calm[:, 0], calm[:, -1]])[:, :3]
    if np.ptp(np.percentile(border, [3, 97], axis=0), axis=0).max() <= _EVEN_BORDER:
        return "flat", "an even border, and colours that are not quite even"
    step = max(1, int((evidence.shape[0] * evidence.shape[1] / 250_000) ** 0.5))
    sample = calm[::step, ::step, :3].reshape(-1, 3).astype(np.int16)
    tint = np.median(sample, axis=0)
    chroma = np.ptp(sample - (tint - tint.mean()), axis=1)
    if np.percentile(chroma, 97) < 2 * _PAPER_CHROMA and np.median(chroma) < _PAPER_CHROMA:
        return "ink", "one dark tone on paper that is not quite even"
    return "flat", "colours that are not quite even"


def _ground_tone(tones: Tones, ground: str) -> int | None:
    if ground == "keep":
        return None
    if tones.kind == "ink":
        return 0
    if tones.clear is not None:
        return tones.clear
    labels = tones.labels
    counts = np.bincount(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    label = int(np.argmax(counts))
    return label - 1 if counts[label] >= _ONE_COLOUR_BORDER * counts.sum() else None


def _cleared(labels: Bytes, ground_tone: int | None, everywhere: bool) -> Bools | None:
    """Pixels of the ground's tone: all, or those that hang together with the border (4-connected)."""
    if ground_tone is None:
        return None
    ground: Bools = labels == ground_tone + 1
    if everywhere:
        return ground
    count, parts = cv2.connectedComponents(ground.view(np.uint8), connectivity=4)
    border: Ints = np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]])
    touched = np.zeros(count, bool)
    touched[border] = True
    touched |= np.bincount(parts.ravel(), minlength=count) <= _SPECK
    touched[0] = False
    if touched.sum() == count - 1:
        return ground
    return touched[parts]


def _as_colour(value: Floats) -> Colour:
    red, green, blue = (int(v) for v in np.clip(np.rint(value), 0, 255))
    return red, green, blue


def _on_white(picture: Picture, labels: Bytes, shown: list[Colour]) -> list[Colour]:
    """Colours as seen on white; they differ where an ink lets something through."""
    on_white = over_colour(picture, _WHITE).reshape(-1, 4)
    for tone in range(len(shown)):
        where = np.flatnonzero(labels.ravel() == tone + 1)
        if len(where):
            shown[tone] = _as_colour(np.median(on_white[where[:: max(1, len(where) // 5000)], :3], axis=0))
    return shown


def _photo_tones(on_white: Bytes, settings: SeparateSettings, why: str, tick: Tick, decided: Tones | None) -> Tones:
    """Steps of light as tones, shown in the median colour of each."""
    steps = min(max(settings.inks or STEPS, LEAST_STEPS), MOST_STEPS)
    photo = tone_steps(on_white, steps, decided.cuts if decided else None, tick)
    evidence = np.repeat(photo.even[..., None], 4, 2)
    if decided:
        return decided._replace(labels=photo.labels, evidence=evidence)
    shown = []
    for label in range(1, len(photo.levels) + 1):
        some = on_white[..., :3][photo.labels == label]
        shown.append(_as_colour(np.median(some[:: max(1, len(some) // 20_000)], axis=0)) if len(some) else _WHITE)
    mix = np.repeat(photo.levels[:, None], 3, 1)
    return Tones(photo.labels, mix, tuple(shown), evidence, "photo", why, None, 0.0, None, photo.cuts)


def _ink_tones(on_white: Bytes, settings: SeparateSettings, why: str, tick: Tick, decided: Tones | None) -> Tones:
    """Paper and ink as two tones; their shown colours are the medians of each."""
    threshold = decided.threshold if decided else settings.threshold
    drawing = separate_ink(on_white, threshold, tick)
    evidence = np.repeat(drawing.even[..., None], 4, 2)
    mix = np.array([[255.0] * 3, [0.0] * 3])
    if decided:
        return decided._replace(labels=drawing.labels, evidence=evidence)
    shown = []
    for label in (1, 2):
        some = on_white[..., :3][drawing.labels == label]
        shown.append(_as_colour(np.median(some[:: max(1, len(some) // 20_000)], axis=0)) if len(some) else _WHITE)
    return Tones(drawing.labels, mix, tuple(shown), evidence, "ink", why, None, drawing.threshold, drawing.histogram)
