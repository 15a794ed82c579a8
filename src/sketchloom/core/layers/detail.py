"""A detail as a piece on top or as a window: what each costs."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.layers.grouping import Grouping
from sketchloom.core.layers.order import OrderCost, order_cost
from sketchloom.core.layers.rules import LayerSettings
from sketchloom.core.planar import PlanarMap

__all__ = ["DetailCost", "detail_costs"]


class DetailCost(NamedTuple):
    """One way to make a detail."""

    show: str  # key of the layer that a window shows; empty for a piece on top
    whole: OrderCost  # of the stack then


def detail_costs(
    planar: PlanarMap,
    grouping: Grouping,
    settings: LayerSettings,
    areas: Floats,
    lengths: Floats,
    faces: Sequence[int],
) -> tuple[DetailCost, ...]:
    """Weigh a detail laid on top against windows that show each of the layers below it; the cheapest first.

    A window counts as what is seen in it: it belongs to the layer that it
    shows, and every layer above leaves it out. What lies all round a detail
    is no window: the detail would be gone.

    Parameters
    ----------
    planar : PlanarMap
    grouping : Grouping
    settings : LayerSettings
    areas : (F,) float
        Of faces, mm2.
    lengths : (A,) float
        Of arcs, mm.
    faces : sequence of int
        The detail; faces of one layer or of several.
    """
    chosen: Bools = np.zeros(len(grouping.of_face), bool)
    chosen[list(faces)] = True
    lowest = int(grouping.of_face[chosen].min()) if chosen.any() else 0
    found = [DetailCost("", order_cost(planar, grouping, settings, areas, lengths))]
    beside = np.append(
        grouping.of_face[planar.right[chosen[planar.left] & ~chosen[planar.right]]],
        grouping.of_face[planar.left[chosen[planar.right] & ~chosen[planar.left]]],
    )
    for height in range(lowest):
        if (beside == height).all():
            continue
        cut = grouping._replace(of_face=np.where(chosen, height, grouping.of_face))
        found.append(DetailCost(grouping.keys[height], order_cost(planar, cut, settings, areas, lengths)))
    return tuple(sorted(found, key=lambda one: one.whole.cost))
