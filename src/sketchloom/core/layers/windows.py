"""Windows that nobody sees, and bulk under many layers."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Ints
from sketchloom.core.layers.grouping import Grouping, parts_of
from sketchloom.core.layers.rules import Way
from sketchloom.core.planar import OUTSIDE, PlanarMap

__all__ = ["HiddenWindow", "find_windows", "thinned"]

_THICK = 3
"""Layers above a place at which it is bulk."""


class HiddenWindow(NamedTuple):
    """A window that is cut in a layer and that upper layers hide."""

    height: int  # of the layer, from the bottom, in the grouping that it was found in
    key: str  # of the layer
    faces: Bools  # (F,)
    arcs: Ints  # its outline


def find_windows(
    planar: PlanarMap, grouping: Grouping, ways: tuple[Way, ...], sets: list[Bools]
) -> tuple[HiddenWindow, ...]:
    """Find the windows of layers that upper layers hide wholly.

    A window that flush pieces fill, and that none of them reaches beyond, is
    an inlay's: its pieces lie in it. Where a layer that lies upon those below
    covers it, or a piece that is wider than the window, it need not be cut.

    Parameters
    ----------
    planar : PlanarMap
    grouping : Grouping
    ways : tuple of str
        How each layer is built, bottom first.
    sets : list of (F,) bool
        Faces of each.
    """
    if "carried" not in ways:  # flush pieces lie side by side: what fills a window lies in it
        return ()
    found = []
    pieces = [parts_of(planar, own) for own in sets]
    for height, own in enumerate(sets):
        holes = _holes(planar, own)
        within = holes >= 0
        size = np.bincount(holes[within])
        hidden = np.zeros(len(size), bool)
        for place, upper in enumerate(sets[height + 1 :], height + 1):
            covers = np.bincount(holes[within & upper], minlength=len(size)) == size
            for number in np.flatnonzero(covers & ~hidden).tolist():
                hidden[number] = ways[place] == "carried" or _is_wider(pieces[place], holes == number)
        for number in np.flatnonzero(hidden).tolist():
            window = holes == number
            edge = (own[planar.left] & window[planar.right]) | (window[planar.left] & own[planar.right])
            found.append(HiddenWindow(height, grouping.keys[height], window, np.flatnonzero(edge)))
    return tuple(found)


def _is_wider(pieces: Ints, window: Bools) -> bool:
    """Whether a piece that covers a window, all of which some do, reaches beyond it."""
    return bool((np.isin(pieces, np.unique(pieces[window])) & ~window).any())


def _holes(planar: PlanarMap, own: Bools) -> Ints:
    """Number of the window that each face outside a set lies in, -1 for what reaches the outside; (F,)."""
    rest = parts_of(planar, ~own)
    rest[rest == rest[OUTSIDE]] = -1
    if (rest >= 0).any():
        rest[rest >= 0] = np.unique(rest[rest >= 0], return_inverse=True)[1]
    return rest


def thinned(planar: PlanarMap, grouping: Grouping, sets: list[Bools]) -> tuple[int, list[Bools]]:
    """Tell how many faces lie in a layer under three or more others, and cut them away there.

    What shows, and what holds a layer together, stays.

    Returns
    -------
    bulk : int
        Places, a face in a layer, that could go.
    sets : list of (F,) bool
        Without them.
    """
    bulk, out = 0, []
    for height, own in enumerate(sets):
        above = (
            np.sum(sets[height + 1 :], axis=0, dtype=np.int64) if height + 1 < len(sets) else np.zeros(len(own), int)
        )
        heavy = own & (above >= _THICK) & (grouping.of_face != height)
        rest = own & ~heavy
        if heavy.any() and parts_of(planar, rest).max() == parts_of(planar, own).max():
            bulk += int(heavy.sum())
            out.append(rest)
        else:
            out.append(own)
    return bulk, out
