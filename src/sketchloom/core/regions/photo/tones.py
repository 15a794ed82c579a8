"""Tones of a photograph: steps of light, or a few flat colours."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.palette import Colour, keys_of
from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick
from sketchloom.core.regions.evidence import carried_out, over_colour
from sketchloom.core.regions.photo.cutout import KEY, cut_out, with_cut
from sketchloom.core.regions.photo.photo import LEAST_STEPS, MOST_STEPS, STEPS, colour_steps, tone_steps
from sketchloom.core.regions.photo.simpler import LEAST_DETAIL
from sketchloom.core.regions.settings import SeparateSettings
from sketchloom.core.regions.tones import WHITE, Tones, as_colour, with_picks

__all__ = ["photo_tones"]

MOST_COLOURS = 12
"""Of a photo told in flat colours."""


def photo_tones(
    picture: Picture, settings: SeparateSettings, tick: Tick, decided: Tones | None, px_per_mm: float
) -> Tones:
    """Steps of light, or a few flat colours, as tones; where the picture was cut out, the clear as one more."""
    detail = max(settings.detail * px_per_mm, LEAST_DETAIL) if settings.detail else 0.0  # finer, it is the grain's
    cut = None if settings.ground == "keep" else cut_out(picture, detail)
    if decided and decided.clear is None:
        cut = None
    seen = carried_out(picture) if cut else over_colour(picture, WHITE)
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
        return with_picks(tones, picture, settings, decided) if by_colour else tones
    found = _means(seen, labels, len(mix))
    keys = keys_of(found, [pick.key for pick in settings.picks if pick.key] if by_colour else ())
    rank = () if by_colour else tuple(reversed(range(len(found))))  # steps of light nest, the lightest at the bottom
    clear = None
    if cut:
        clear, mix = len(mix), np.vstack([mix, KEY])
        keys += keys_of([WHITE], keys)
        found.append(WHITE)
        rank = rank and (*rank, len(rank))
    tones = Tones(labels, mix, tuple(found), keys, evidence, "photo", clear, cuts=cuts, rank=rank, soft=soft)
    return with_picks(tones, picture, settings) if by_colour else tones


def _means(seen: Bytes, labels: Bytes, count: int) -> list[Colour]:
    """The mean of each label from 1 up, taken in L*a*b*, so that its light is that of what it stands for."""
    lab = cv2.cvtColor(seen[..., :3].astype(np.float32) / 255, cv2.COLOR_RGB2LAB).reshape(-1, 3)
    flat = labels.ravel()
    mass = np.maximum(np.bincount(flat, minlength=count + 1)[1 : count + 1], 1)
    mean = np.stack([np.bincount(flat, lab[:, c], count + 1)[1 : count + 1] / mass for c in range(3)], 1)
    rgb = cv2.cvtColor(mean[None].astype(np.float32), cv2.COLOR_LAB2RGB)[0] * 255
    return [as_colour(one) for one in rgb]
