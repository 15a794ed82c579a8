"""Tones: every even colour of a picture, before any are joined or cleared."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.palette import Colour, keys_of
from sketchloom.core.picture import Picture, source_points, unit_at
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.evidence import carried_out, evidence_of, over_colour, rim_of_inside
from sketchloom.core.regions.flat.cores import is_clean
from sketchloom.core.regions.flat.flat import label_by_tones, separate_flat, shadows_joined
from sketchloom.core.regions.flat.touching import lines_joined
from sketchloom.core.regions.ink.drawing import InkDrawing, InkReading, separate_ink, silhouette
from sketchloom.core.regions.ink.lineart import (
    FILLS,
    Areas,
    Leak,
    enclosed_areas,
    find_leaks,
    proposed_fills,
    with_closings,
    with_fills,
)
from sketchloom.core.regions.ink.page import page_alone
from sketchloom.core.regions.kind import Kind, find_kind, road_of
from sketchloom.core.regions.photo.cutout import KEY, cut_out, with_cut
from sketchloom.core.regions.photo.photo import LEAST_STEPS, MOST_STEPS, STEPS, colour_steps, tone_steps
from sketchloom.core.regions.photo.simpler import LEAST_DETAIL
from sketchloom.core.regions.picks import picked
from sketchloom.core.regions.settings import Closing, SeparateSettings
from sketchloom.core.regions.shading.shades import Shades
from sketchloom.core.regions.shading.shading import Shading, find_shading, shading_of
from sketchloom.core.units import PX_PER_MM_UNSET
from sketchloom.core.worn import Wear, find_stored, ramp_sigma, redrawn, redrawn_within

__all__ = ["Tones", "as_colour", "find_drawing", "find_tones"]

_KEY_AWAY = 60.0
"""8-bit steps from the colour that stands for what is clear, within which a tone is what is clear."""
_WHITE: Colour = (255, 255, 255)
MOST_COLOURS = 12
"""Of a photo told in flat colours."""
COLOURS = 5
"""That a first colouring of line art takes, where no number is chosen."""


class Tones(NamedTuple):
    """Every even colour of the picture, before any are joined or cleared."""

    labels: Bytes  # (H, W), 1 + tone
    mix: Floats  # (K, 3), in the evidence
    found: tuple[Colour, ...]  # as seen on white
    keys: tuple[str, ...]  # what each is known by
    evidence: Bytes
    mode: Kind  # the road that was taken
    clear: int | None = None  # the tone that stands for clear pixels
    reading: InkReading | None = None  # of an ink drawing
    cuts: tuple[float, ...] = ()  # photo: light at which one step becomes the next
    leaks: tuple[Closing, ...] = ()  # line art: a closing for each
    picked: tuple[str, ...] = ()  # keys of the tones that were picked by hand, in the order of the picks
    rank: tuple[int, ...] = ()  # how high each tone lies; empty puts the largest at the bottom
    unplaced: tuple[int, ...] = ()  # picks, or fills, whose place lies outside
    soft: float = 0.0  # px that edges may be off from what was drawn, where a worn picture was drawn anew
    anew: bool = False  # a worn picture was drawn anew before it was separated
    blur: float = 0.0  # px, of the edges of an ink drawing: a standard deviation
    shading: Shading | None = None  # gradients, before they are drawn in bands
    shades: tuple[Shades, ...] = ()  # tones that follow each other like shading


def find_tones(
    picture: Picture,
    settings: SeparateSettings,
    mode: Kind | None = None,
    tick: Tick = no_tick,
    decided: Tones | None = None,
    px_per_mm: float = PX_PER_MM_UNSET,
    drawing: InkDrawing | None = None,
    wear: Wear | None = None,
) -> Tones:
    """Find the even colours of a picture and give every pixel to one.

    Parameters
    ----------
    picture : Picture
    settings : SeparateSettings
        The number of inks counts only where more are wanted than stand out.
    mode : str, optional
        The road; None finds it.
    decided : Tones, optional
        Of the full picture, when `picture` is its reduced preview.
    px_per_mm : float
        At the finished size.
    drawing : InkDrawing, optional
        What `find_drawing` gave, when it is known already.
    wear : Wear, optional
        Of an opaque picture, when it was measured already.
    """
    if mode is None:
        asked = settings.mode != "auto" or bool(settings.layers)
        mode = road_of(None if asked else find_kind(picture, settings.ground == "keep"), settings).mode
    if mode == "photo":
        return _photo_tones(picture, settings, tick, decided, px_per_mm)
    if mode in ("ink", "lineart"):
        known = decided.reading if decided else None
        drawing = drawing or find_drawing(picture, settings, mode, tick, known)
        return _ink_tones(picture, settings, mode, tick, decided, px_per_mm, drawing)
    known_key = as_colour(decided.mix[decided.clear]) if decided and decided.clear is not None else None
    evidence, key, clears = evidence_of(picture, settings.ground == "keep", known_key or (_WHITE if decided else None))
    if decided:
        own = len(decided.mix) - len(decided.picked)
        labels = label_by_tones(evidence, decided.mix[:own], tick)
        shading = decided.shading
        if shading:
            shading = shading_of(evidence, evidence, labels, decided.mix[:own], decided.keys[:own], shading.ramps)
        again = decided._replace(labels=labels, evidence=evidence, shading=shading)
        return _with_picks(again, picture, settings, decided)
    if settings.layers:
        colours = np.array([colour for colour, _ in settings.layers], float)
        if clears:
            colours = np.vstack([np.array(key, float), colours])
        labels = label_by_tones(evidence, colours, tick)
        found = tuple(as_colour(c) for c in colours)
        rank = tuple(range(len(found)))
        return Tones(labels, colours, found, keys_of(found), evidence, "flat", 0 if clears else None, rank=rank)
    came = evidence
    drawn, soft = _drawn_anew(came, picture, key if clears else None, wear, lambda done: tick(0.5 * done))
    evidence = drawn
    flat = separate_flat(evidence, tick=lambda done: tick(0.5 + 0.5 * done))
    if settings.inks is not None and settings.inks > len(flat.colours) - (settings.ground != "keep"):
        flat = separate_flat(evidence, keep_tiny=True, tick=lambda done: tick(0.5 + 0.5 * done))
    if drawn is not came:
        flat = shadows_joined(flat)
    seen, clear = [as_colour(c) for c in flat.colours], None
    if clears:
        away = np.sqrt(((flat.colours - np.array(key)) ** 2).sum(1))
        clear = int(np.argmin(away)) if away.min() <= _KEY_AWAY else None  # none where only a speck is clear
        seen = _on_white(picture, flat.labels, seen)
    taken = [pick.key for pick in settings.picks if pick.key]
    keys = keys_of(seen, taken)
    alone = np.arange(len(keys)) == (-1 if clear is None else clear)
    shading = find_shading(came, evidence, flat.labels, flat.colours, keys, alone)
    labels, evidence = lines_joined(flat.labels, evidence, flat.colours)
    anew = drawn is not came
    tones = Tones(
        labels, flat.colours, tuple(seen), keys, evidence, "flat", clear, soft=soft, anew=anew, shading=shading
    )
    return _with_picks(tones, picture, settings)


def _drawn_anew(
    evidence: Bytes, picture: Picture, key: Colour | None, wear: Wear | None, tick: Tick
) -> tuple[Bytes, float]:
    """Draw flat art anew where it is worn; px that its edges may then be off from what was drawn.

    A ground that was cleared after a picture was compressed is laid aside:
    the colours that still lie under it are part of what was stored.
    """
    if key is not None:
        under = np.dstack([picture.rgba[..., :3], np.full(picture.rgba.shape[:2], 255, np.uint8)])
        anew = _from_stored(under, picture, tick)
        if anew is not None:
            shown = rim_of_inside(anew[0], picture.rgba[..., 3])
            return over_colour(Picture(np.dstack([shown[..., :3], picture.rgba[..., 3]])), key), anew[1]
    return _from_stored(evidence, picture, tick) or redrawn(evidence, wear) or (evidence, 0.0)


def _from_stored(evidence: Bytes, picture: Picture, tick: Tick) -> tuple[Bytes, float] | None:
    """Draw what was compressed anew, within what was stored of it."""
    stored = None if is_clean(evidence) else find_stored(np.ascontiguousarray(evidence[..., :3]), picture.tables)
    if stored is None:
        return None
    flat = separate_flat(evidence, tick=lambda done: tick(0.5 * done))
    return redrawn_within(evidence, stored, flat.labels, flat.colours, lambda done: tick(0.5 + 0.5 * done))


def find_drawing(
    picture: Picture,
    settings: SeparateSettings,
    mode: Kind,
    tick: Tick = no_tick,
    decided: InkReading | None = None,
    under: bool = False,
) -> InkDrawing:
    """Split ink from paper, and fill the silhouette if that is wanted.

    With `under`, the colours under what was cleared are those of the paper,
    and the split is made as if nothing had been cleared.
    """
    if under and not picture.opaque:
        alpha = picture.rgba[..., 3:]
        drawing = separate_ink(np.dstack([picture.rgba[..., :3], np.full_like(alpha, 255)]), settings, tick, decided)
        share = alpha[..., 0] / np.float32(255)
        even = np.rint(255 - (255 - drawing.even) * share).astype(np.uint8)
        drawing = drawing._replace(labels=np.where(even < 128, 2, 1).astype(np.uint8), even=even)
    else:
        seen = over_colour(picture, _WHITE)
        page = page_alone(seen) if picture.opaque else None
        drawing = separate_ink(seen if page is None else page, settings, tick, decided)
    return silhouette(drawing) if settings.silhouette and mode == "ink" else drawing


def _with_picks(tones: Tones, picture: Picture, settings: SeparateSettings, decided: Tones | None = None) -> Tones:
    """Add the tones that were picked by hand."""
    picks = settings.picks
    if not picks:
        return tones
    known = decided.mix[-len(picks) :] if decided else None
    base = tones.mix[: len(tones.mix) - len(tones.picked)]
    found = picked(tones.evidence, tones.labels, base, picture, picks, known)
    if decided:
        return tones._replace(labels=found.labels)
    own = [as_colour(c) for c in found.mix[len(base) :]]
    given = [pick.key for pick in picks if pick.key]
    keys: list[str] = []
    for pick, colour in zip(picks, own, strict=True):
        fresh = pick.key and pick.key not in keys
        keys.append(pick.key if fresh else keys_of([colour], (*tones.keys, *given, *keys))[0])
    shown = (*tones.found, *own)
    rank = tones.rank and (*tones.rank, *range(len(tones.rank), len(shown)))
    return tones._replace(
        labels=found.labels,
        mix=found.mix,
        found=shown,
        keys=(*tones.keys, *keys),
        picked=tuple(keys),
        rank=rank,
        unplaced=found.unplaced,
    )


def as_colour(value: Floats) -> Colour:
    """Round a colour to whole steps."""
    red, green, blue = (int(v) for v in np.clip(np.rint(value), 0, 255))
    return red, green, blue


def _on_white(picture: Picture, labels: Bytes, shown: list[Colour]) -> list[Colour]:
    """Colours as seen on white; they differ where an ink lets something through."""
    on_white = over_colour(picture, _WHITE).reshape(-1, 4)
    for tone in range(len(shown)):
        where = np.flatnonzero(labels.ravel() == tone + 1)
        if len(where):
            shown[tone] = as_colour(np.median(on_white[where[:: max(1, len(where) // 5000)], :3], axis=0))
    return shown


def _medians(on_white: Bytes, labels: Bytes, count: int) -> list[Colour]:
    """The median colour of each label from 1 up; white where there is no pixel."""
    shown = []
    for label in range(1, count + 1):
        some = on_white[..., :3][labels == label]
        shown.append(as_colour(np.median(some[:: max(1, len(some) // 20_000)], axis=0)) if len(some) else _WHITE)
    return shown


def _means(seen: Bytes, labels: Bytes, count: int) -> list[Colour]:
    """The mean of each label from 1 up, taken in L*a*b*, so that its light is that of what it stands for."""
    lab = cv2.cvtColor(seen[..., :3].astype(np.float32) / 255, cv2.COLOR_RGB2LAB).reshape(-1, 3)
    flat = labels.ravel()
    mass = np.maximum(np.bincount(flat, minlength=count + 1)[1 : count + 1], 1)
    mean = np.stack([np.bincount(flat, lab[:, c], count + 1)[1 : count + 1] / mass for c in range(3)], 1)
    rgb = cv2.cvtColor(mean[None].astype(np.float32), cv2.COLOR_LAB2RGB)[0] * 255
    return [as_colour(one) for one in rgb]


def _photo_tones(
    picture: Picture, settings: SeparateSettings, tick: Tick, decided: Tones | None, px_per_mm: float
) -> Tones:
    """Steps of light, or a few flat colours, as tones; where the picture was cut out, the clear as one more."""
    detail = max(settings.detail * px_per_mm, LEAST_DETAIL) if settings.detail else 0.0  # finer, it is the grain's
    cut = None if settings.ground == "keep" else cut_out(picture, detail)
    if decided and decided.clear is None:
        cut = None
    seen = carried_out(picture) if cut else over_colour(picture, _WHITE)
    there = cut.there if cut else None
    by_colour = settings.steps_by == "colour"
    cuts: tuple[float, ...] = ()
    if by_colour:
        own = decided.mix[: len(decided.mix) - len(decided.picked)] if decided else None
        own = own[: decided.clear] if decided and own is not None and decided.clear is not None else own
        count = min(max(settings.inks or STEPS, LEAST_STEPS), MOST_COLOURS)
        few = colour_steps(seen, count, detail, own, tick, there)
        labels, evidence, mix, soft = few.labels, few.even, few.mix, few.soft
    else:
        steps = min(max(settings.inks or STEPS, LEAST_STEPS), MOST_STEPS)
        photo = tone_steps(seen, steps, detail, decided.cuts if decided else None, tick, there)
        labels, evidence, soft, cuts = photo.labels, np.repeat(photo.even[..., None], 4, 2), photo.soft, photo.cuts
        mix = np.repeat(photo.levels[:, None], 3, 1)
    if cut:
        labels, evidence = with_cut(labels, evidence, mix, cut, detail)
    if decided:
        tones = decided._replace(labels=labels, evidence=evidence, soft=soft)
        return _with_picks(tones, picture, settings, decided) if by_colour else tones
    found = _means(seen, labels, len(mix))
    keys = keys_of(found, [pick.key for pick in settings.picks if pick.key] if by_colour else ())
    rank = () if by_colour else tuple(reversed(range(len(found))))  # steps of light nest, the lightest at the bottom
    clear = None
    if cut:
        clear, mix = len(mix), np.vstack([mix, KEY])
        keys += keys_of([_WHITE], keys)
        found.append(_WHITE)
        rank = rank and (*rank, len(rank))
    tones = Tones(labels, mix, tuple(found), keys, evidence, "photo", clear, cuts=cuts, rank=rank, soft=soft)
    return _with_picks(tones, picture, settings) if by_colour else tones


def _ink_tones(
    picture: Picture,
    settings: SeparateSettings,
    mode: Kind,
    tick: Tick,
    decided: Tones | None,
    px_per_mm: float,
    drawing: InkDrawing,
) -> Tones:
    """Paper and ink as two tones, and for line art one more for each colour of enclosed areas."""
    on_white = over_colour(picture, _WHITE)
    mix = np.array([[255.0] * 3, [0.0] * 3])
    leaks: tuple[Closing, ...] = decided.leaks if decided else ()
    areas = None
    if mode == "lineart":
        drawing = with_closings(drawing, picture, settings.closings)
        if not decided:
            gap = settings.gap * px_per_mm if settings.gap is not None else None
            leaks = tuple(_as_closing(leak, picture) for leak in find_leaks(drawing.labels == 2, gap, tick))
        if settings.close_gaps:
            drawing = with_closings(drawing, picture, leaks)
        areas = enclosed_areas(drawing.labels == 2)
    labels, evidence = lines_joined(drawing.labels, np.repeat(drawing.even[..., None], 4, 2), mix)
    blur = ramp_sigma(np.repeat(drawing.even[..., None], 3, 2)) or 0.0
    if decided:
        if areas is not None:
            labels = _like_full(labels, areas, decided.labels)
        return decided._replace(labels=labels, evidence=evidence, blur=blur)
    shown = _medians(on_white, labels, 2)
    rank: tuple[int, ...] = ()
    lost: tuple[int, ...] = ()
    if areas is not None:
        labels, colours, lost = _coloured_in(labels, areas, picture, settings)
        shown += colours
        mix = np.vstack([mix, np.full((len(colours), 3), 255.0)])
        rank = (0, len(shown) - 1, *range(1, len(shown) - 1))
    return Tones(
        labels, mix, tuple(shown), keys_of(shown), evidence, mode,
        reading=drawing.reading, leaks=leaks, rank=rank, unplaced=lost, blur=blur,
    )  # fmt: skip


def _as_closing(leak: Leak, picture: Picture) -> Closing:
    first, last = source_points(picture, np.stack([leak.first, leak.last]))
    return Closing(first, last, round(leak.width / unit_at(picture, (leak.first + leak.last) / 2), 6))


def _coloured_in(
    labels: Bytes, areas: Areas, picture: Picture, settings: SeparateSettings
) -> tuple[Bytes, list[Colour], tuple[int, ...]]:
    """Label enclosed areas by their colours, largest first; and the fills that lie in none."""
    count = min(max(settings.inks or COLOURS, 1), len(FILLS))
    chosen, lost = with_fills(areas, proposed_fills(areas, labels == 2, count), picture, settings.fills)
    weight: dict[Colour, int] = {}
    for colour, size in zip(chosen, areas.size, strict=True):
        if colour is not None:
            weight[colour] = weight.get(colour, 0) + int(size)
    colours = sorted(weight, key=lambda colour: (-weight[colour], colour))
    number = np.ones(len(chosen) + 1, np.uint8)
    for area, colour in enumerate(chosen, 1):
        if colour is not None:
            number[area] = 3 + colours.index(colour)
    return np.where(areas.parts > 0, number[areas.parts], labels).astype(np.uint8), colours, lost


def _like_full(labels: Bytes, areas: Areas, full: Bytes) -> Bytes:
    """Label the areas of a reduced picture as most of their pixels are labelled in the full one."""
    there = cv2.resize(full, labels.shape[::-1], interpolation=cv2.INTER_NEAREST)
    count = len(areas.size) + 1
    votes = np.bincount((areas.parts * 256 + there).ravel(), minlength=count * 256).reshape(count, 256)
    votes[:, :1] = votes[:, 2] = 0
    number = np.maximum(votes.argmax(1), 1).astype(np.uint8)
    return np.where(areas.parts > 0, number[areas.parts], labels).astype(np.uint8)
