"""Tones become inks: which are joined where fewer are wanted."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.colour import lab_of

__all__ = ["join_cheapest"]

_AKIN = 0.02
"""Of what joining two inks costs, the part that joining two shades of one group costs."""


def join_cheapest(
    colours: Floats, areas: Floats, count: int, kept: Bools | None = None, kin: Ints | None = None
) -> Ints:
    """Join tones until `count` inks are left, each time the pair that changes the picture least.

    The change is the smaller one's area times the squared distance of the
    two colours in L*a*b*. Shades of one group cost a fraction of that: what is
    small but stands apart stays before one more of many shades does.

    Parameters
    ----------
    colours : (K, 3) float
        sRGB of each tone.
    areas : (K,) float
    count : int
    kept : (K,) bool, optional
        Tones that are joined with none.
    kin : (K,) int, optional
        Group of shades that each belongs to; negative for none.

    Returns
    -------
    (K,) int
        For each tone the tone whose ink it becomes, the largest of those joined.
    """
    areas = np.array(areas, float)
    labs = lab_of(colours)
    owner = np.arange(len(colours))
    kept = np.zeros(len(colours), bool) if kept is None else kept
    kin = np.full(len(colours), -1) if kin is None else kin
    while len(live := np.unique(owner)) > max(1, count):
        gap = ((labs[live, None] - labs[None, live]) ** 2).sum(2)
        cost = gap * np.minimum(areas[live, None], areas[None, live])
        cost[(kin[live, None] == kin[None, live]) & (kin[live, None] >= 0)] *= _AKIN
        cost[np.diag_indices(len(live))] = np.inf
        cost[kept[live]] = cost[:, kept[live]] = np.inf
        if not np.isfinite(cost).any():
            break
        i, j = np.unravel_index(int(np.argmin(cost)), cost.shape)
        small, large = sorted((live[i], live[j]), key=lambda k: areas[k])
        areas[large] += areas[small]
        owner[owner == small] = large
    return owner
