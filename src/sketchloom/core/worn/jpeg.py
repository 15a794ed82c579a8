"""What a JPEG file stored of a picture: whole steps of cosines, which say between which bounds the picture lay."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.picture import JpegTables
from sketchloom.core.worn.blocks import (
    BLOCK,
    COSINES,
    SIDE,
    blocks_of,
    coefficients,
    cut_up,
    enlarged_chroma,
    halved_chroma,
    padded,
    planes_of,
    to_rgb,
    to_ycc,
)

__all__ = ["Stored", "find_stored"]

_LUMA = (
    "16 11 10 16 24 40 51 61 12 12 14 19 26 58 60 55 14 13 16 24 40 57 69 56 14 17 22 29 51 87 80 62 "
    "18 22 37 56 68 109 103 77 24 35 55 64 81 104 113 92 49 64 78 87 103 121 120 101 72 92 95 98 112 100 103 99"
)
_CHROMA = "17 18 24 47 99 99 99 99 18 21 26 66 99 99 99 99 24 26 56 99 99 99 99 99 47 66 99 99 99 99 99 99 " + " ".join(
    ["99"] * 32
)
"""ITU-T T.81, annex K, tables K.1 and K.2, row by row."""
QUALITIES = range(10, 93)
"""Of those tables, scaled as common encoders do. What is stored more finely is hardly worn."""
_HALVINGS = ((2, 2), (1, 2), (1, 1))
"""How many rows and columns one value of chroma stands for."""
_MOST_PIXELS = 4_000_000
"""A larger picture is not looked at: it would take some GB, and compression wears little of it."""
_TRIED, _LEAST_RANGE = 1000, 4
"""Blocks that tables are tried on, and 8-bit steps of luma that they have."""
_RINGING = 12.0
"""8-bit steps of luma; larger ones are the drawing's own."""
_BLACK, _WHITE = 1, 254
"""What may have been cut off there: rounding once more, as undoing an enlargement does, moves it by one."""
_LIKE = 4
"""Qualities above the first that fits whose tables are much like its."""
_LEAST_STEPS = 40
"""Coefficients that are not nothing, to tell a table by."""
_OFF = 1.5, 3.0
"""8-bit steps from a whole step that rounding of a picture makes at most; or, tried next, what was done to it since."""
_MOST_OFF, _LEAST_CHANCE = 0.3, 0.1
"""The part that may lie farther off, of what chance would leave there, and that must leave enough to tell by."""
_LEAST_STEP = 2.5
"""8-bit steps; a file that stored the means of blocks more finely has hardly worn its picture."""
_STRIP = 4
"""Squares from top to bottom, the busiest, that ways of storing are tried on."""
_BETTER = 0.97, 0.9
"""What another way of storing chroma, or another place, must leave over at most of what the one before does."""
_ALIKE = 0.8
"""8-bit steps that the stored picture, decoded, may lie from the one at hand, on average."""
_ROUNDS = 4


class Stored(NamedTuple):
    """The planes that a file stored, in squares of 16 px."""

    at: tuple[int, int]  # row and column of the picture at which the first square begins
    shape: tuple[int, int]  # px, rows and columns from there
    halving: tuple[int, int]  # rows and columns that a value of chroma stands for
    steps: tuple[Floats, Floats]  # (64,), of luma and chroma
    whole: tuple[Floats, Floats, Floats]  # (squares * blocks, 64) whole steps of luma and of both of chroma

    @property
    def busy(self) -> Bools:
        """Squares with more than one even colour; (rows, columns) bool."""
        rows, columns = (-(-side // SIDE) for side in self.shape)
        some = np.zeros(rows * columns, bool)
        for whole in self.whole:
            some |= (whole[:, 1:] != 0).any(1).reshape(rows * columns, -1).any(1)
        return some.reshape(rows, columns)

    def decoded(self) -> Floats:
        """The picture that the file gives, before it is cut off at black and white; (H, W, 3) float32 RGB."""
        planes = []
        for place, whole in enumerate(self.whole):
            step, halving = (self.steps[0], (1, 1)) if place == 0 else (self.steps[1], self.halving)
            planes.append(enlarged_chroma(planes_of(whole * step @ COSINES, halving, self.shape), halving))
        return to_rgb(np.stack(planes))[: self.shape[0], : self.shape[1]]


def find_stored(rgb: Bytes, tables: JpegTables | None = None) -> Stored | None:
    """Find what a JPEG file stored of a picture; None if it came through none that can be told.

    The whole steps are found again from the decoded picture: where a table is
    the right one, its coefficients lie at whole steps but for rounding, and
    what was cut off at black or white is taken as the steps decode it.

    Parameters
    ----------
    rgb : (H, W, 3) uint8
    tables : JpegTables, optional
        Of the file itself; otherwise those of the standard are tried.

    References
    ----------
    .. [1] Z. Fan, R. de Queiroz, "Identification of bitmap compression history", 2003.
    """
    if min(rgb.shape[:2]) < SIDE or rgb.shape[0] * rgb.shape[1] > _MOST_PIXELS:
        return None
    if tables is not None:
        return _found(rgb, (np.array(tables.luma, np.float32), np.array(tables.chroma, np.float32)), [(0, 0)])
    row = column = 0
    quality = _quality(padded(rgb))
    if quality is None and min(rgb.shape[:2]) >= 4 * SIDE:
        luma = to_ycc(rgb)[0]
        row, column = _phase(luma), _phase(luma.T)
        quality = _quality(_whole(rgb, (row, column))) if row or column else None
    if quality is None:
        return None
    starts = [(row, column)]
    if min(rgb.shape[:2]) >= 4 * SIDE:
        starts += [(row + down, column + across) for down, across in ((0, BLOCK), (BLOCK, 0), (BLOCK, BLOCK))]
    return _found(rgb, (table_of(_LUMA, quality), table_of(_CHROMA, quality)), starts)


def _found(rgb: Bytes, steps: tuple[Floats, Floats], starts: list[tuple[int, int]]) -> Stored | None:
    """Find what was stored, at the place and by the way of storing chroma that explain the busiest rows best."""
    if steps[0][0] < _LEAST_STEP:
        return None
    change = np.append(0, np.cumsum(np.abs(np.diff(rgb[..., 1].astype(np.int16), axis=1)).sum(1)))
    rows = min(_STRIP, (rgb.shape[0] - starts[0][0]) // SIDE) * SIDE
    tops = range(0, rgb.shape[0] - rows - starts[-1][0] + 1, SIDE)
    top = max(tops, key=lambda begin: change[begin + rows] - change[begin])
    best: tuple[float, tuple[int, int], tuple[int, int]] | None = None
    for at in starts:
        strip = rgb[at[0] + top : at[0] + top + rows, at[1] :]
        for halving in _HALVINGS:
            off = _as_stored(strip, steps, halving)[1]
            if best is None or off < best[0] * _BETTER[at != best[1]]:
                best = off, at, halving
    if best is None:
        return None
    _, at, halving = best
    stored, off = _as_stored(_whole(rgb, at) if at != (0, 0) else rgb, steps, halving)
    return stored._replace(at=at) if off < _ALIKE else None


def _whole(rgb: Bytes, at: tuple[int, int]) -> Bytes:
    """The whole squares from a place on."""
    rows, columns = ((side - begin) // SIDE * SIDE for side, begin in zip(rgb.shape, at, strict=False))
    return np.ascontiguousarray(rgb[at[0] : at[0] + rows, at[1] : at[1] + columns])


def _phase(luma: Floats) -> int:
    """The row, of eight, at which the borders of blocks lie: values step there more than beside."""
    step = np.minimum(np.abs(np.diff(luma, axis=0)), _RINGING)
    more = step[1:-1] - (step[:-2] + step[2:]) / 2
    rise = more.mean(1)
    mean = [rise[(place - 2) % BLOCK :: BLOCK].mean() for place in range(BLOCK)]
    return int(np.argmax(mean))


def table_of(base: str, quality: int) -> Floats:
    """Scale a table of the standard to a quality from 1 to 100, as common encoders do; (64,)."""
    scale = 5000 // quality if quality < 50 else 200 - 2 * quality
    steps = (np.array(base.split(), np.int64) * scale + 50) // 100
    return np.clip(steps, 1, 255).astype(np.float32)


def _quality(rgb: Bytes) -> int | None:
    """The lowest quality whose steps explain the luma of the blocks; white and black may be anything beyond."""
    sides = BLOCK, BLOCK
    luma = cut_up(to_ycc(rgb)[0], sides)
    dark, light = rgb <= _BLACK, rgb >= _WHITE
    low, high = cut_up(np.asarray(dark.all(2)), sides), cut_up(np.asarray(light.all(2)), sides)
    part = cut_up(np.asarray((dark | light).any(2)), sides) & ~low & ~high
    some = np.flatnonzero(~part.any((1, 2)) & (np.ptp(luma, axis=(1, 2)) > _LEAST_RANGE))
    some = some[:: max(1, len(some) // _TRIED)]
    luma, low, high = (blocks_of(part_of[some]) for part_of in (luma, low, high))
    cut_off = np.flatnonzero((low | high).any(1))
    blocks = _Blocks(luma @ COSINES.T, cut_off, luma[cut_off], low[cut_off], high[cut_off])
    for off in _OFF:
        first, left = 101, {}
        for quality in QUALITIES:
            if quality > first + _LIKE:
                break
            left[quality] = _unexplained(blocks, table_of(_LUMA, quality), off)
            if left[quality] <= _MOST_OFF:
                first = min(first, quality)
        if first <= 100:
            return min(left, key=lambda quality: left[quality])
    return None


class _Blocks(NamedTuple):
    """Coefficients of blocks, (n, 64), and which blocks have black or white that may be anything beyond."""

    values: Floats
    cut_off: Ints
    part: Floats  # luma of these
    low: Bools
    high: Bools


def _unexplained(blocks: _Blocks, steps: Floats, off: float) -> float:
    """How many coefficients of blocks lie at no whole step, against what chance would leave there.

    1 where too few are not nothing, or where the steps are so fine that chance leaves none.
    """
    values = blocks.values
    if len(blocks.cut_off):
        wanted = blocks.part
        for _ in range(_ROUNDS):
            part = wanted @ COSINES.T
            made = (np.rint(part / steps) * steps) @ COSINES
            beyond = (blocks.low & (made < blocks.part)) | (blocks.high & (made > blocks.part))
            wanted = np.where(beyond, made, blocks.part)
        values = values.copy()
        values[blocks.cut_off] = part
    whole = np.rint(values / steps) * steps
    there = (whole != 0) | (np.abs(values) > 2.0)  # less than half a step, and yet not nothing, speaks against it
    there[:, 0] = False
    chance = np.maximum(0, 1 - 2 * off / steps)
    by_chance = float((there.sum(0) * chance).sum())
    if (whole[:, 1:] != 0).sum() < _LEAST_STEPS or by_chance < _LEAST_CHANCE * there.sum():
        return 1.0
    return float((np.abs(values - whole) > off)[there].sum() / by_chance)


def _as_stored(rgb: Bytes, steps: tuple[Floats, Floats], halving: tuple[int, int]) -> tuple[Stored, float]:
    """Find the whole steps of a picture, and how far off, on average, it lies from what these decode to."""
    shape = rgb.shape[0], rgb.shape[1]
    seen = rgb.astype(np.float32)
    wanted = seen
    for _ in range(_ROUNDS):
        planes = to_ycc(padded(wanted))
        whole = []
        for place, plane in enumerate(planes):
            if place:
                plane = halved_chroma(plane, halving)
            sides = (SIDE, SIDE) if place == 0 else (SIDE // halving[0], SIDE // halving[1])
            whole.append(np.rint(coefficients(cut_up(plane, sides)) / steps[min(place, 1)]))
        stored = Stored((0, 0), shape, halving, steps, (whole[0], whole[1], whole[2]))
        made = stored.decoded()
        hidden = ((seen <= _BLACK) & (made < seen)) | ((seen >= _WHITE) & (made > seen))
        wanted = np.where(hidden, made, seen)
    return stored, float(np.abs(np.clip(made, 0, 255) - seen).mean())
