"""Layers that are drawn, scored or engraved lie on others, which are whole below them."""

import numpy as np

from sketchloom.core.arrays import Bools
from sketchloom.core.layers.grouping import Grouping, parts_of
from sketchloom.core.layers.rules import LayerSettings
from sketchloom.core.planar import PlanarMap

__all__ = ["on_others"]


def on_others(
    planar: PlanarMap, grouping: Grouping, settings: LayerSettings, sets: list[Bools], shown: list[Bools]
) -> tuple[list[Bools], list[Bools]]:
    """Leave layers that are not cut out their own faces, and give those to what they lie on.

    That is what holds them already, as a carried layer below does; else, of
    all that is cut out, what they share most of their edge with.

    Parameters
    ----------
    planar : PlanarMap
    grouping : Grouping
    settings : LayerSettings
    sets, shown : list of (F,) bool
        Faces of each layer as it is built, and its own with all above; bottom first.
    """
    drawn = np.array([settings.kind_of(key) != "cut" for key in grouping.keys])
    if not drawn.any():
        return sets, shown
    sets, shown = list(sets), list(shown)
    for height in np.flatnonzero(drawn).tolist():
        sets[height] = shown[height] = grouping.of_face == height
    cut = np.flatnonzero(~drawn).tolist()
    faces = np.isin(grouping.of_face, np.flatnonzero(drawn))
    for height in cut:  # what is drawn hides nothing
        shown[height] = (shown[height] & ~faces) | sets[height]
    part, lengths = parts_of(planar, faces), np.diff(planar.offset)
    for number in range(int(part.max(initial=-1)) + 1):
        own = part == number
        if any(sets[height][own].all() for height in cut):
            continue
        edge = own[planar.left] != own[planar.right]
        beside = np.where(own[planar.left], planar.right, planar.left)[edge]
        shared = [int(lengths[edge][sets[height][beside]].sum()) for height in cut]
        if max(shared, default=0):
            height = cut[int(np.argmax(shared))]
            sets[height], shown[height] = sets[height] | own, shown[height] | own
    return sets, shown
