"""Colours sorted into cells, to find where they lie closest together."""

import numpy as np

from sketchloom.core.arrays import Floats, Ints

__all__ = ["ColourCells"]

_HEAVIEST = 400
"""Cells that are weighed against each other."""


class ColourCells:
    """Colours sorted into cells of 4 units."""

    def __init__(self, lab: Floats, weight: Floats) -> None:
        cell = np.floor(lab / 4).astype(np.int64) + 128
        _, self._cell = np.unique((cell[:, 0] << 20) | (cell[:, 1] << 10) | cell[:, 2], return_inverse=True)
        self._lab, self._weight = lab, weight

    def densest(self, live: Ints) -> Floats:
        """Where colours, of those that are live, lie closest together; (3,) float."""
        cell, weight = self._cell[live], self._weight[live]
        mass = np.bincount(cell, weight)
        heavy = np.argsort(-mass, kind="stable")[:_HEAVIEST]
        heavy = heavy[mass[heavy] > 0]
        sums = np.stack([np.bincount(cell, weight * self._lab[live, k], len(mass))[heavy] for k in range(3)], 1)
        middles = sums / mass[heavy, None]
        near = np.exp(-((middles[:, None] - middles[None]) ** 2).sum(2) / 32) @ mass[heavy]
        densest: Floats = middles[int(near.argmax())]
        return densest
