"""Tones with their shading told: gradients in bands, even shades in groups."""

import numpy as np

from sketchloom.core.palette import Colour, keys_of
from sketchloom.core.regions.settings import SeparateSettings
from sketchloom.core.regions.shading.ramps import Ramp, usual_count
from sketchloom.core.regions.shading.shades import MOST_BANDS, Shades, count_of, flat_shades
from sketchloom.core.regions.shading.shading import drawn_in_bands
from sketchloom.core.regions.tones import Tones, as_colour

__all__ = ["shaded"]


def shaded(found: Tones, settings: SeparateSettings) -> Tones:
    """Draw gradients in the number of bands that is wanted, and group the tones that follow each other.

    Where more inks are wanted than there are, gradients are drawn in more
    bands, as far as their number was not chosen.
    """
    if found.mode != "flat" or found.rank:
        return found
    tones = found if found.shading is None else _banded(found, settings)
    banded = {key for group in tones.shades for key in group.keys}
    alone = np.array([key in banded or key in tones.picked for key in tones.keys], bool)
    if tones.clear is not None:
        alone[tones.clear] = True
    flat = flat_shades(tones.labels, tones.mix, tones.keys, alone)
    return tones._replace(shades=(*tones.shades, *flat))


def _banded(found: Tones, settings: SeparateSettings) -> Tones:
    shading = found.shading
    assert shading is not None
    gone = {key for ramp in shading.ramps for key in ramp.tones}
    stay = [tone for tone, key in enumerate(found.keys) if key not in gone]
    cleared = found.clear is not None or settings.ground != "keep"  # one tone is the ground's
    counts = _counts(shading.ramps, settings, len(stay) - cleared)
    number = np.zeros(len(found.keys) + 1, np.uint8)
    number[np.array(stay, int) + 1] = np.arange(1, len(stay) + 1)
    own = np.isin(np.arange(len(number)), [found.keys.index(key) + 1 for key in gone])
    before = len(stay) - len(found.picked)  # tones picked by hand stay the last
    own_labels, evidence, colours = drawn_in_bands(shading, found.labels, own, counts, 100)
    bands = own_labels >= 100
    shift = np.where(number > before, number + len(colours), number)
    labels = np.where(bands, own_labels - 100 + before + 1, shift[np.where(bands, 0, own_labels)]).astype(np.uint8)
    seen: list[Colour] = [as_colour(value) for value in colours]
    kept_keys = [found.keys[tone] for tone in stay]
    keys = keys_of(seen, [*kept_keys, *(pick.key for pick in settings.picks if pick.key)])
    ends = np.cumsum(counts)
    groups = tuple(
        Shades(ramp.key, keys[end - count : end], True, MOST_BANDS)
        for ramp, count, end in zip(shading.ramps, counts, ends, strict=True)
    )
    mix = found.mix[stay]
    shown = [found.found[tone] for tone in stay]
    return found._replace(
        labels=labels,
        evidence=evidence,
        mix=np.vstack([mix[:before], colours, mix[before:]]),
        found=(*shown[:before], *seen, *shown[before:]),
        keys=(*kept_keys[:before], *keys, *kept_keys[before:]),
        clear=None if found.clear is None else kept_keys.index(found.keys[found.clear]),
        shades=groups,
    )


def _counts(ramps: tuple[Ramp, ...], settings: SeparateSettings, others: int) -> list[int]:
    """Bands of each ramp: as many as were asked for, or as are usual; more where more inks are wanted."""
    chosen = [count_of(settings.shades, ramp.key) for ramp in ramps]
    counts = [min(asked, MOST_BANDS) if asked else usual_count(ramp) for asked, ramp in zip(chosen, ramps, strict=True)]
    free = [place for place, asked in enumerate(chosen) if not asked]
    while settings.inks and sum(counts) + others < settings.inks and free:
        place = min(free, key=lambda one: counts[one])
        counts[place] += 1
        if counts[place] >= MOST_BANDS:
            free.remove(place)
    return counts
