"""The calmest picture that a JPEG file may have been made of."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.worn.blocks import (
    SIDE,
    coefficients,
    cut_up,
    from_coefficients,
    laid_out,
    padded,
    reduced,
    spread_evenly,
    to_rgb,
    to_ycc,
)
from sketchloom.core.worn.jpeg import Stored

__all__ = ["Within"]

_ROUNDS = 32
_STEP = 4.0
"""8-bit steps that a pixel may go in a round; the ascent of the edges goes by the inverse of eight times that."""


class Within:
    """What a file stored, as bounds that the picture lay within: half a step to either side.

    Only squares that show more than one even colour, and those around them, are worked on.

    References
    ----------
    .. [1] K. Bredies, M. Holler, "A total variation-based JPEG decompression model", 2012.
    .. [2] A. Chambolle, T. Pock, "A first-order primal-dual algorithm for convex problems", 2011.
    """

    def __init__(self, stored: Stored) -> None:
        self.stored = stored
        busy = cv2.dilate(stored.busy.view(np.uint8), np.ones((3, 3), np.uint8)) > 0
        self._grid = busy.shape
        self._where = np.flatnonzero(busy)
        self._bounds = []
        for place, whole in enumerate(stored.whole):
            halving = stored.halving if place else (1, 1)
            sides = SIDE // halving[0], SIDE // halving[1]
            some = whole.reshape(busy.size, -1, 64)[self._where].reshape(-1, 64)
            steps = stored.steps[min(place, 1)]
            self._bounds.append(((some - 0.5) * steps, (some + 0.5) * steps, halving, sides))
        number = np.full(busy.size, -1, np.int64)
        number[self._where] = np.arange(len(self._where))
        number = np.pad(number.reshape(busy.shape), 1, constant_values=-1)
        self._right, self._down = (_pairs(number[1:-1, 1:-1], other) for other in (number[1:-1, 2:], number[2:, 1:-1]))

    def calmest(self, rgb: Bytes, tick: Tick = no_tick) -> Bytes:
        """Find the picture of least total variation within the bounds; (H, W, 3) uint8, like the one at hand."""
        value = self._taken(self.stored.decoded())
        ahead = value.copy()
        slope = np.zeros((2, *value.shape), np.float32)
        rate = np.float32(1 / (8 * _STEP))
        for turn in range(_ROUNDS):
            tick(turn / _ROUNDS)
            self._climb(slope, ahead, rate)
            slope /= np.maximum(1, np.sqrt(np.einsum("ijnyx,ijnyx->nyx", slope, slope)))
            made = self._held(value + np.float32(_STEP) * self._fall(slope))
            ahead = 2 * made - value
            value = made
        return self._put(rgb, value)

    def held(self, rgb: Bytes) -> Bytes:
        """Bring a picture within the bounds, with the least change; (H, W, 3) uint8."""
        return self._put(rgb, self._held(self._taken(self._part(rgb))))

    def _taken(self, rgb: Floats | Bytes) -> Floats:
        """Luma and chroma of the squares worked on; (3, n, 16, 16)."""
        return np.stack([cut_up(plane)[self._where] for plane in to_ycc(padded(rgb))])

    def _part(self, rgb: Bytes) -> Bytes:
        """The part of a picture that the squares cover."""
        (row, column), (rows, columns) = self.stored.at, self.stored.shape
        return rgb[row : row + rows, column : column + columns]

    def _put(self, rgb: Bytes, value: Floats) -> Bytes:
        """Put the squares into a picture."""
        out = rgb.copy()
        part = self._part(out)
        planes = []
        for plane, own in zip(to_ycc(padded(part)), value, strict=True):
            squares = cut_up(plane)
            squares[self._where] = own
            planes.append(laid_out(squares, self._grid[0]))
        made = to_rgb(np.stack(planes))[: part.shape[0], : part.shape[1]]
        part[:] = np.rint(np.clip(made, 0, 255))
        return out

    def _held(self, value: Floats) -> Floats:
        out = np.empty_like(value)
        for place, (low, high, halving, sides) in enumerate(self._bounds):
            small = reduced(value[place], halving)
            kept = from_coefficients(np.clip(coefficients(small), low, high), sides)
            out[place] = kept if halving == (1, 1) else value[place] + spread_evenly(kept - small, halving)
        return out

    def _climb(self, slope: Floats, value: Floats, rate: np.float32) -> None:
        """Add the steps down and right; beyond the squares worked on nothing changes."""
        slope[0][:, :, :-1] += rate * (value[:, :, 1:] - value[:, :, :-1])
        slope[1][..., :-1] += rate * (value[..., 1:] - value[..., :-1])
        own, other = self._down
        slope[0][:, own, -1] += rate * (value[:, other, 0] - value[:, own, -1])
        own, other = self._right
        slope[1][:, own, :, -1] += rate * (value[:, other, :, 0] - value[:, own, :, -1])

    def _fall(self, slope: Floats) -> Floats:
        """The divergence of what `_climb` adds."""
        out = slope[0] + slope[1]
        out[:, :, 1:] -= slope[0][:, :, :-1]
        out[..., 1:] -= slope[1][..., :-1]
        own, other = self._down
        out[:, other, 0] -= slope[0][:, own, -1]
        own, other = self._right
        out[:, other, :, 0] -= slope[1][:, own, :, -1]
        return out


def _pairs(number: Ints, other: Ints) -> tuple[Ints, Ints]:
    """Numbers of the squares that have one worked on beside them, and of those."""
    both: Bools = (number >= 0) & (other >= 0)
    return number[both], other[both]
