"""Tones: every even colour of a picture, before any are joined or cleared."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.palette import Colour, keys_of
from sketchloom.core.picture import Picture
from sketchloom.core.regions.ink.drawing import InkReading
from sketchloom.core.regions.kind import Kind
from sketchloom.core.regions.picks import picked
from sketchloom.core.regions.settings import Closing, SeparateSettings
from sketchloom.core.regions.shading.shades import Shades
from sketchloom.core.regions.shading.shading import Shading

__all__ = ["WHITE", "Tones", "as_colour", "with_picks"]

WHITE: Colour = (255, 255, 255)


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


def with_picks(tones: Tones, picture: Picture, settings: SeparateSettings, decided: Tones | None = None) -> Tones:
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
