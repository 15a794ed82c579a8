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
    part = parts_of(planar, faces)
    many = int(part.max(initial=-1)) + 1
    if not cut or not many:
        return sets, shown
    lying = np.zeros(many, bool)
    for height in cut:
        lying |= np.bincount(part[faces & ~sets[height]], minlength=many) == 0
    edge = faces[planar.left] != faces[planar.right]
    own = np.where(faces[planar.left], planar.left, planar.right)[edge]
    beside = np.where(faces[planar.left], planar.right, planar.left)[edge]
    length = np.diff(planar.offset)[edge]
    shared = np.array([np.bincount(part[own], length * sets[height][beside], many) for height in cut])
    bears = np.where(~lying & (shared.max(0) > 0), shared.argmax(0), -1)
    for place, height in enumerate(cut):
        taken = faces & (bears[part] == place)
        sets[height], shown[height] = sets[height] | taken, shown[height] | taken
    return sets, shown
