"""Tones of flat art: even colours, and what each pixel shows of them."""

import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.palette import Colour, keys_of
from sketchloom.core.picture import Picture
from sketchloom.core.progress import Tick
from sketchloom.core.regions.evidence import evidence_of, over_colour, rim_of_inside
from sketchloom.core.regions.flat.cores import is_clean
from sketchloom.core.regions.flat.flat import label_by_tones, separate_flat, shadows_joined
from sketchloom.core.regions.flat.touching import lines_joined
from sketchloom.core.regions.settings import SeparateSettings
from sketchloom.core.regions.shading.shading import find_shading, shading_of
from sketchloom.core.regions.tones import WHITE, Tones, as_colour, with_picks
from sketchloom.core.worn import Wear, find_stored, redrawn, redrawn_within

__all__ = ["flat_tones"]

_KEY_AWAY = 60.0
"""8-bit steps from the colour that stands for what is clear, within which a tone is what is clear."""


def flat_tones(
    picture: Picture, settings: SeparateSettings, tick: Tick, decided: Tones | None, wear: Wear | None
) -> Tones:
    """Even colours, found anew where the art is worn; or those of the layers that were given."""
    known_key = as_colour(decided.mix[decided.clear]) if decided and decided.clear is not None else None
    evidence, key, clears = evidence_of(picture, settings.ground == "keep", known_key or (WHITE if decided else None))
    if decided:
        own = len(decided.mix) - len(decided.picked)
        labels = label_by_tones(evidence, decided.mix[:own], tick)
        shading = decided.shading
        if shading:
            shading = shading_of(evidence, evidence, labels, decided.mix[:own], decided.keys[:own], shading.ramps)
        again = decided._replace(labels=labels, evidence=evidence, shading=shading)
        return with_picks(again, picture, settings, decided)
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
    return with_picks(tones, picture, settings)


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


def _on_white(picture: Picture, labels: Bytes, shown: list[Colour]) -> list[Colour]:
    """Colours as seen on white; they differ where an ink lets something through."""
    on_white = over_colour(picture, WHITE).reshape(-1, 4)
    for tone in range(len(shown)):
        where = np.flatnonzero(labels.ravel() == tone + 1)
        if len(where):
            shown[tone] = as_colour(np.median(on_white[where[:: max(1, len(where) // 5000)], :3], axis=0))
    return shown
