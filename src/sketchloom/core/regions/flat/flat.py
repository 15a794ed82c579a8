"""Separate flat art into its inks."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats, looked_up
from sketchloom.core.colour import lab_of
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.flat.cores import clean_cores, is_clean
from sketchloom.core.regions.flat.explain import explain_edges
from sketchloom.core.regions.flat.noisy import noisy_cores
from sketchloom.core.regions.flat.patches import even_patches
from sketchloom.core.regions.flat.strays import separate_compressed, separate_thin

__all__ = ["FlatArt", "label_by_tones", "separate_flat", "shadows_joined"]

_MOST_FLAT = 40
_EVEN_SHARE = 0.25
"""Of a picture; with fewer exactly even patches it was scaled or photographed, not only compressed."""

_UNSEEN = 2.3
"""CIE76: a difference that is just noticed (Mahy, Van Eycken and Oosterlinck 1994)."""
_SAME = 1.0
_SHADOW = 0.05
"""Of the pixels of a tone: as many may another have that is only its shadow."""


class FlatArt(NamedTuple):
    """Flat art, every pixel given to a tone."""

    labels: Bytes  # (H, W), 1 + tone
    colours: Floats  # (K, 3), in the evidence


def separate_flat(evidence: Bytes, keep_tiny: bool = False, tick: Tick = no_tick) -> FlatArt:
    """Find the tones of flat art and give every pixel to one.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    keep_tiny : bool
        Keep tones that look like blends of others, for a maker who asked for more.
    """
    clean = is_clean(evidence)
    if not clean:
        patches = even_patches(evidence)
        if patches.share >= _EVEN_SHARE and len(patches.colours):
            found = separate_compressed(evidence, patches, tick)
            if found:
                return FlatArt(*found)
    cores = clean_cores(evidence, keep_tiny) if clean else noisy_cores(evidence)
    if clean and len(cores.colours) <= _MOST_FLAT:
        return FlatArt(*separate_thin(evidence, cores.colours, cores.labels, tick))
    tick(0.3)
    seen = evidence if not cores.noise else calmed(evidence)
    labels = explain_edges(seen, cores.labels, cores.colours, cores.noise, lambda done: tick(0.3 + 0.7 * done))
    return FlatArt(labels, cores.colours)


def shadows_joined(flat: FlatArt) -> FlatArt:
    """Join each small tone that nobody can tell from a larger one to it.

    A worn picture that was drawn anew keeps such a tone where its blocks were
    a step off the colour that they stand for.
    """
    mass = np.bincount(flat.labels.ravel(), minlength=len(flat.colours) + 1)[1:]
    lab = lab_of(flat.colours)
    into = np.arange(len(mass))
    for tone in np.argsort(mass, kind="stable"):
        away = np.sqrt(((lab - lab[tone]) ** 2).sum(1))
        far = np.where(mass[tone] <= _SHADOW * mass, _UNSEEN, _SAME)
        larger = (away <= far) & ((mass > mass[tone]) | ((mass == mass[tone]) & (into < tone))) & (mass > 0)
        if larger.any():
            into[tone] = np.flatnonzero(larger)[np.argmin(away[larger])]
    if (into == np.arange(len(mass))).all():
        return flat
    while (into != into[into]).any():
        into = into[into]
    kept, number = np.unique(into, return_inverse=True)
    return FlatArt(looked_up(np.append(0, number + 1), flat.labels), flat.colours[kept])


def calmed(evidence: Bytes) -> Bytes:
    """Smooth the ringing of a compressed picture and keep its edges; (H, W, 4) uint8."""
    calm = cv2.medianBlur(np.ascontiguousarray(evidence[..., :3]), 3)
    return np.dstack([cv2.bilateralFilter(calm, 5, 30, 2), evidence[..., 3]]).astype(np.uint8, copy=False)


def label_by_tones(evidence: Bytes, colours: Floats, tick: Tick = no_tick) -> Bytes:
    """Label a picture by tones that are known already, as a reduced preview does; (H, W) uint8."""
    rgb = evidence[..., :3].astype(np.int16)
    labels = np.zeros(rgb.shape[:2], np.uint8)
    nearest = np.full(rgb.shape[:2], 24, np.int16)
    for ink, colour in enumerate(colours):
        off = np.abs(rgb - colour.astype(np.int16)).max(2)
        closer = off < nearest
        labels[closer], nearest[closer] = ink + 1, off[closer]
    return explain_edges(evidence, labels, colours, tick=tick)
