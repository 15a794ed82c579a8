"""Which faces belong to which layer, before anything is said of how layers are built."""

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Ints, connected_parts
from sketchloom.core.layers.rules import CLEAR, LayerSettings
from sketchloom.core.palette import Ink, Palette
from sketchloom.core.picture import Point
from sketchloom.core.planar import OUTSIDE, PlanarMap

__all__ = ["Grouping", "group_faces", "parts_of", "stacking", "ways_of"]

FaceAt = Callable[[Point], int | None]
"""Gives the face at a place of the source, or None outside."""


class Grouping(NamedTuple):
    """Faces by the layer whose ink shows on them.

    Attributes
    ----------
    keys : tuple of str
        Of the layers that have faces, bottom first as the settings order them.
    inks : tuple of tuple of str
        Keys of the inks of each.
    dress : tuple of Ink
        The ink that each is shown in.
    of_face : (F,) int
        Index into `keys`, or -1 for ground.
    enclosed : (F,) bool
        Ground that nothing joins to the outside.
    hole : (F,) int
        1 and 0 for enclosed ground that is filled or kept whatever the
        layer, else -1.
    unplaced : tuple of str
        Windows and holes that found nothing at their place.
    """

    keys: tuple[str, ...]
    inks: tuple[tuple[str, ...], ...]
    dress: tuple[Ink, ...]
    of_face: Ints
    enclosed: Bools
    hole: Ints
    unplaced: tuple[str, ...]

    def ordered(self, order: Sequence[str]) -> "Grouping":
        """The same in another order, in which every layer has its place."""
        place = {key: at for at, key in enumerate(self.keys)}
        take = [place[key] for key in order]
        rank = np.full(len(self.keys) + 1, -1)
        rank[take] = np.arange(len(take))
        return self._replace(
            keys=tuple(order),
            inks=tuple(self.inks[at] for at in take),
            dress=tuple(self.dress[at] for at in take),
            of_face=rank[self.of_face],
        )

    def filled(self, planar: PlanarMap, chosen: Bools, fills: bool) -> Bools:
        """A set of faces with the enclosed ground that it alone surrounds, where that is filled; (F,)."""
        wanted = self.enclosed & np.where(self.hole >= 0, self.hole == 1, fills)
        if not wanted.any():
            return chosen
        held = wanted.copy()
        held[planar.left[~chosen[planar.right]]] = False
        held[planar.right[~chosen[planar.left]]] = False
        return chosen | held


def _nowhere(at: Point) -> int | None:
    return None


def group_faces(
    planar: PlanarMap, keys: Sequence[str], palette: Palette, settings: LayerSettings, face_at: FaceAt = _nowhere
) -> Grouping:
    """Sort faces into layers.

    An ink that is laid together with another counts as that one; a detail
    that is cut away counts as what is seen there; an ink of which no face is
    left has no layer.

    Parameters
    ----------
    planar : PlanarMap
    keys : sequence of str
        Label i is the ink ``keys[i - 1]``.
    palette : Palette
    settings : LayerSettings
    face_at : callable
        Finds what windows and holes are placed on.
    """
    label = planar.faces.label
    label_of = {keys[i - 1]: i for i in np.unique(label).tolist() if i}
    root = {key: settings.root(key) if settings.root(key) in label_of else key for key in label_of}
    present = [key for key in dict.fromkeys(keys) if key in label_of and key in root.values()]
    outside = np.zeros(len(label), bool)
    outside[planar.left[planar.right == OUTSIDE]] = outside[planar.right[planar.left == OUTSIDE]] = True
    enclosed = (label == 0) & ~outside
    enclosed[OUTSIDE] = False
    dress = {key: palette[key] for key in present}
    inks = {key: tuple(own for own in label_of if root[own] == key) for key in present}
    if settings.clear and enclosed.any():
        present = [CLEAR, *present]
        dress[CLEAR], inks[CLEAR] = Ink(CLEAR, "White pieces", (255, 255, 255), (255, 255, 255)), ()
    order = stacking(present, settings.order)
    rank = {key: place for place, key in enumerate(order)}
    of_label = np.full(int(label.max(initial=0)) + 1, -1)
    for key, number in label_of.items():
        of_label[number] = rank[root[key]]
    of_face = of_label[label]
    if CLEAR in rank:
        of_face = np.where(enclosed, rank[CLEAR], of_face)
        enclosed = np.zeros_like(enclosed)
    of_face[OUTSIDE] = -1
    unplaced = []
    cut = of_face.copy()
    for window in settings.windows:
        face = face_at(window.at)
        show = rank.get(root.get(window.show, window.show))
        if face is None or show is None or label[face] != label_of.get(window.ink, -1):
            unplaced.append(f"Window to {palette[window.show].name if window.show in palette else window.show}")
        elif show < of_face[face]:
            cut[face] = show
    hole = np.full(len(label), -1)
    for one in settings.holes:
        face = face_at(one.at)
        if face is None or not enclosed[face]:
            unplaced.append("Hole")
        else:
            hole[face] = int(one.filled)
    return Grouping(
        tuple(order), tuple(inks[key] for key in order), tuple(dress[key] for key in order), cut, enclosed, hole,
        tuple(unplaced),
    )  # fmt: skip


def stacking(keys: Sequence[str], order: Sequence[str]) -> list[str]:
    """Layers bottom first: those not named in `order` as they come, then the named; all by key."""
    rank = {key: place for place, key in enumerate(order)}
    return sorted(keys, key=lambda key: rank.get(key, -1))


def parts_of(planar: PlanarMap, chosen: Bools) -> Ints:
    """Connected part of each face of a set, from 0; -1 for the others; (F,). Faces hang together along arcs."""
    both = chosen[planar.left] & chosen[planar.right]
    count = len(chosen)
    _, part = connected_parts(count, planar.left[both], planar.right[both])
    out = np.full(count, -1)
    if chosen.any():
        out[chosen] = np.unique(part[chosen], return_inverse=True)[1]
    return out


def ways_of(planar: PlanarMap, grouping: Grouping, settings: LayerSettings) -> tuple[list[Bools], list[Bools]]:
    """Faces of each layer as it is built, and its own with all above; each (F,), bottom first."""
    sets, shown = [], []
    for height, key in enumerate(grouping.keys):
        own = grouping.of_face == height
        carried = settings.way(key) == "carried"
        above = grouping.filled(planar, grouping.of_face >= height, settings.fills(key))
        shown.append(above)
        if not carried:
            sets.append(grouping.filled(planar, own, settings.fills(key)))
        elif settings.rule(key).islands:
            sets.append(above)
        else:
            part = parts_of(planar, above)
            hangs = np.zeros(part.max(initial=-1) + 2, bool)
            hangs[part[own]] = True
            hangs[-1] = False
            sets.append(hangs[part])
    return sets, shown
