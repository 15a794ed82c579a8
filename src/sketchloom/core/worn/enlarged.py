"""How much a picture was enlarged, and by which kernel."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.worn.blur import light_of
from sketchloom.core.worn.kernels import KERNELS, Kernel, SmoothKernel, enlarging, solved, spread_by

__all__ = ["Enlargement", "find_enlargement"]

MOST, LEAST = 8.0, 1.15
"""Factors that are looked for."""
_LINES = 1024
"""Rows that the busiest are chosen from."""
_SPAN, _ROWS = 256, 32
"""Columns and rows of the busiest part that factors are tried on."""
_LIKELY = 3
_DIP = ((0.68, 1.1), (0.85, 0.5))
"""How far what a size cannot explain must lie under that of the sizes beside it, both axes together, where it leaves
less than so many 8-bit steps: a picture that was only rounded leaves 0.1 to 0.5, one that was compressed after it 1."""
_AS_GOOD = 0.03
"""8-bit steps; the usual kernel is taken unless another leaves less by more than this."""
_ROUNDING = 0.3
"""8-bit steps that rounding alone leaves (1 / sqrt 12): where sizes leave no more, nothing can be told."""
_ROUNDS = 6
_OFF_LATTICE = 0.03
"""Of all change between columns: so much may lie where no pixel of the small picture begins."""
_ON_LATTICE = 0.6
"""Of the places where a pixel of the small picture begins: so many must show a change."""
_LEAST_SIDE = 16
_HARD_COLOURS = 24
"""A picture of no more colours was drawn pixel by pixel, and its blocks are meant."""
_STRONG, _ONE_STEP = 40.0, 0.9
"""8-bit steps of a strong edge, and the part of it that one step between pixels makes where it is hard."""
_NEAR = (2, 3, 4)
"""px; sizes that one is compared with lie so far beside it."""


class Enlargement(NamedTuple):
    """How a picture became as large as it is."""

    width: int  # px, before
    height: int  # px, before
    kernel: Kernel


def find_enlargement(rgb: Bytes, sharp: bool = False) -> Enlargement | None:
    """Find the size and the kernel that a picture was enlarged from; None if it was not, or if noise hides it.

    A picture of n columns enlarged to N lies in a space of n dimensions. What
    of it no picture of n columns explains falls to the rounding where n is
    right, and rises again beside it.

    Parameters
    ----------
    rgb : (H, W, 3) uint8
    sharp : bool
        Edges are as sharp as pixels can show, so that only blocks of equal pixels are looked for.
    """
    blocks = _found_blocks(rgb)
    if blocks or sharp:
        return blocks
    height, width = rgb.shape[:2]
    if min(height, width) < 3 * _LEAST_SIDE or _is_hard(rgb):
        return None
    across, down = _Axis(rgb), _Axis(rgb.transpose(1, 0, 2))
    best = 1.0, 0, 0
    for columns in across.likely():
        near = round(height * columns / width)
        rows = min(range(near - 1, near + 2), key=lambda count: down.unexplained(count, "bicubic"))
        dip = (across.dip(columns) * down.dip(rows)) ** 0.5
        best = min(best, (dip, columns, rows))
    dip, columns, rows = best
    if dip >= max(_DIP)[0]:
        return None
    left = {kernel: max(across.left(columns, kernel), down.left(rows, kernel)) for kernel in KERNELS}
    kernel = min(left, key=lambda name: left[name])
    if left[kernel] > left["bicubic"] - _AS_GOOD:
        kernel = "bicubic"
    if not any(dip < most and left[kernel] < rest for most, rest in _DIP):
        return None
    return Enlargement(columns, rows, kernel)


def _found_blocks(rgb: Bytes) -> Enlargement | None:
    width, height = _block_count(rgb), _block_count(rgb.transpose(1, 0, 2))
    if width is None or height is None or abs(height - rgb.shape[0] * width / rgb.shape[1]) > 1:
        return None
    step = max(1, rgb.shape[0] // height // 2)
    sample = np.ascontiguousarray(rgb[::step, :: max(1, rgb.shape[1] // width // 2)])
    if len(np.unique(sample.reshape(-1, rgb.shape[2])[:, :3].astype(np.int64) @ (65536, 256, 1))) <= _HARD_COLOURS:
        return None
    return Enlargement(width, height, "nearest")


def _block_count(rgb: Bytes) -> int | None:
    """The least number of columns that all changes between columns lie on the borders of."""
    size = rgb.shape[1]
    rows = rgb[:: max(1, rgb.shape[0] // 256), :, :3].astype(np.int16)
    change = np.minimum(np.abs(np.diff(rows, axis=1)).sum(2), 60).sum(0).astype(np.float64)
    whole = change.sum()
    if whole == 0 or np.sort(change)[: len(change) - int(size / LEAST)].sum() > _OFF_LATTICE * whole:
        return None
    busy = np.flatnonzero(change > 0)
    counts = np.arange(max(_LEAST_SIDE, int(size / MOST)), int(size / LEAST) + 1)
    for count in counts.tolist():
        places = (np.arange(size) + 0.5) * count / size
        early = np.flatnonzero(np.diff(np.floor(places - 1e-9)) > 0)
        late = np.flatnonzero(np.diff(np.floor(places + 1e-9)) > 0)
        if len(early) != len(late):
            continue
        on = np.maximum(change[early], change[late])
        if whole - on.sum() > _OFF_LATTICE * whole:
            continue
        inside = (late >= busy[0]) & (early <= busy[-1])
        return count if inside.any() and (on[inside] > 0).mean() >= _ON_LATTICE else None
    return None


def _is_hard(rgb: Bytes) -> bool:
    """Whether most edges are done within one step: no smooth kernel makes such."""
    rows = rgb[np.unique(np.linspace(0, rgb.shape[0] - 1, min(_LINES // 4, rgb.shape[0])).astype(np.int64))]
    light = light_of(rows)
    step = np.abs(np.diff(light, axis=1))
    around = np.ones((1, 7), np.uint8)
    span = (cv2.dilate(light, around) - cv2.erode(light, around))[:, 1:]
    edges = (span > _STRONG) & (step >= cv2.dilate(step, around))
    return bool(edges.any() and np.median(step[edges] / span[edges]) > _ONE_STEP)


class _Axis:
    """The busiest part of a picture along its rows, and what sizes explain of it."""

    def __init__(self, rgb: Bytes) -> None:
        lines = rgb[np.unique(np.linspace(0, rgb.shape[0] - 1, min(_LINES, rgb.shape[0])).astype(np.int64))]
        light = 255 - light_of(lines).astype(np.float64)
        self.size = light.shape[1]
        bend = np.minimum(np.abs(np.diff(light, 2, axis=1)), 40)
        span = min(_SPAN, self.size)
        summed = np.concatenate([[0], np.cumsum(bend.sum(0))])
        self._first = int(np.argmax(summed[span - 2 :] - summed[: len(summed) - span + 2])) if span < self.size else 0
        busy = -bend[:, self._first : self._first + span - 2].sum(1)
        rows = np.argsort(busy, kind="stable")[: 2 * _ROWS : 2]
        self._part = light[rows, self._first : self._first + span].T.copy()
        part = lines[rows, self._first : self._first + span, :3]
        self._clipped = ((part == 0) | (part == 255)).any(2).T
        self._known: dict[tuple[int, SmoothKernel], float] = {}

    def unexplained(self, count: int, kernel: SmoothKernel) -> float:
        """Root mean square of what no picture of `count` columns explains, 8-bit steps, a degree of freedom."""
        if (count, kernel) not in self._known:
            self._known[count, kernel] = _unexplained(self._part, self._first, self.size, count, kernel)
        return self._known[count, kernel]

    def left(self, count: int, kernel: SmoothKernel) -> float:
        """The same, where pixels that were cut off at black or white may have been anything beyond."""
        span = len(self._part)
        matrix = enlarging(self.size, count, kernel)[self._first : self._first + span]
        matrix = matrix[:, np.unique(matrix.indices)]
        wanted = self._part
        for _ in range(_ROUNDS):
            made = matrix @ solved(matrix, wanted)
            wanted = np.where(self._clipped, made, self._part)
        away = (made - self._part)[~self._clipped]
        free = len(away) * (1 - matrix.shape[1] / span)
        return float(np.sqrt((away**2).sum() / max(1.0, free)))

    def dip(self, count: int) -> float:
        """What a size leaves unexplained, against the sizes beside it."""
        own = self.unexplained(count, "bicubic")
        sides = [np.median([self.unexplained(count + s * k, "bicubic") for k in _NEAR]) for s in (-1, 1)]
        return max(_ROUNDING, own) / max(_ROUNDING, float(min(sides)))

    def likely(self) -> list[int]:
        """Counts of columns that explain more than those beside them do."""
        counts = range(max(_LEAST_SIDE, int(self.size / MOST)), int(self.size / LEAST) + 1)
        left = np.array([self.unexplained(count, "bicubic") for count in counts])
        wide = max(1, round(self.size / _SPAN))
        dips = np.maximum(left, _ROUNDING) / _beside(left, wide)
        return [counts[place] for place in _lowest(dips, _LIKELY, wide + 1)]


def _unexplained(part: Floats, first: int, size: int, count: int, kernel: SmoothKernel) -> float:
    """Root mean square of what no picture of `count` columns explains, 8-bit steps, a degree of freedom."""
    from scipy.linalg import cho_solve_banded, cholesky_banded

    span = len(part)
    start, weight = spread_by(kernel, (np.arange(first, first + span) + 0.5) * count / size - 0.5)
    start = start - start[0]
    wide = weight.shape[1]
    columns = int(start[-1]) + wide
    band = np.zeros((wide, columns))
    for k in range(wide):
        for m in range(k, wide):
            band[m - k] += np.bincount(start + k, weight[:, k] * weight[:, m], columns)
    band[0] += 1e-4
    matrix = np.zeros((span, columns))
    for k in range(wide):
        matrix[np.arange(span), start + k] = weight[:, k]
    right = matrix.T @ part
    made = cho_solve_banded((cholesky_banded(band, lower=True, check_finite=False), True), right, check_finite=False)
    left = float((part * part).sum() - (right * made).sum())
    return float(np.sqrt(max(0.0, left) / max(1, span - columns) / part.shape[1]))


def _beside(values: Floats, wide: int) -> Floats:
    """The lesser of the medians of the values on either side."""
    reach = 5 * wide + 1
    padded = np.pad(values, reach, mode="edge")
    count = len(values)

    def side(places: range) -> Floats:
        return np.asarray(np.median([padded[reach + k : reach + k + count] for k in places], 0))

    return np.maximum(np.minimum(side(range(-5 * wide, -wide)), side(range(wide + 1, 5 * wide + 1))), _ROUNDING)


def _lowest(values: Floats, many: int, apart: int) -> list[int]:
    """Places of the lowest values, none near another."""
    found: list[int] = []
    for place in np.argsort(values, kind="stable").tolist():
        if all(abs(place - other) > apart for other in found):
            found.append(place)
        if len(found) == many:
            break
    return found
