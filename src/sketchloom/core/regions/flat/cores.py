"""Find the inks of flat art from its core pixels.

A core pixel lies in a 2x2 block of one colour; an anti-aliased edge almost
never makes one, so its blends do not become inks of their own.
"""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints, looked_up, places_of
from sketchloom.core.colour import lab_of
from sketchloom.core.regions.evidence import pack
from sketchloom.core.regions.flat.hairlines import is_repeated

__all__ = ["MOST_FOUND", "Cores", "clean_cores", "drop_blends", "is_clean"]

MOST_FOUND = 48
"""More inks than this are no flat art; near ones are joined until so many are left."""

_SAME_CODE, _SAME_LAB = 2, 1.5
_TINY_SHARE = 2e-3
_EVEN = 0.25
_SMALL_STEP, _LARGE_STEP, _BESIDE = 6, 24, 3
_BLEND_RESIDUAL = 6.0


class Cores(NamedTuple):
    """Inks, and the pixels that surely show one.

    Attributes
    ----------
    colours : (K, 3) float64
        sRGB of each ink, largest first.
    areas : (K,) float64
        Core pixels of each.
    labels : (H, W) uint8
        1 + ink at core pixels, 0 elsewhere.
    noise : float
        Spread of a flat colour, in 8-bit steps.
    """

    colours: Floats
    areas: Floats
    labels: Bytes
    noise: float


def _unpack(codes: Ints) -> Floats:
    return np.stack([codes & 255, codes >> 8 & 255, codes >> 16 & 255], -1).astype(np.float64)


def is_clean(evidence: Bytes, there: Bools | None = None) -> bool:
    """Tell a clean raster from one that was compressed, scaled or photographed.

    In clean art most neighbours are equal, and the others lie at an edge;
    noise and ringing put small steps beside the edges too. Rows are sampled,
    so the cost stays small. With `there`, (H, W) bool, only pixels there count.
    """
    every = max(1, evidence.shape[0] // 300)
    rows = np.ascontiguousarray(evidence[::every])
    if rows.shape[1] < 2:
        return True
    apart = cv2.absdiff(np.ascontiguousarray(rows[:, 1:]), np.ascontiguousarray(rows[:, :-1]))
    step: Bytes = np.maximum(np.maximum(apart[..., 0], apart[..., 1]), apart[..., 2]).astype(np.uint8)
    if there is not None:
        step = np.where(there[::every, 1:] & there[::every, :-1], step, 0).astype(np.uint8)
    at_edge = cv2.dilate(step, np.ones((1, 2 * _BESIDE + 1), np.uint8)) > _SMALL_STEP
    lone, large = np.count_nonzero((step > 0) & ~at_edge), np.count_nonzero(step > _LARGE_STEP)
    count = step.size if there is None else np.count_nonzero(there[::every, 1:] & there[::every, :-1])
    return bool(np.count_nonzero(step) <= (1 - _EVEN) * count and lone <= 0.55 * large + 5e-4 * count)


def _blocks(packed: np.ndarray) -> Bools:
    """Where the 2x2 block that begins here has one colour; (H, W) bool, last row and column False."""
    block = np.zeros(packed.shape, bool)
    right = packed[:, 1:] == packed[:, :-1]
    block[:-1, :-1] = right[:-1]
    block[:-1, :-1] &= right[1:]
    block[:-1, :-1] &= packed[1:, :-1] == packed[:-1, :-1]
    return block


def _block_histogram(packed: np.ndarray, block: Bools) -> tuple[Ints, Floats]:
    """Colours of the blocks and how many blocks each has, most first."""
    turn = np.diff(block.ravel().view(np.int8), prepend=np.int8(0))
    starts, ends = np.flatnonzero(turn == 1), np.flatnonzero(turn == -1)
    codes, which = np.unique(packed.ravel()[starts], return_inverse=True)
    counts: Floats = np.bincount(which, ends - starts, len(codes)).astype(np.float64)
    order = np.argsort(-counts, kind="stable")
    return codes[order].astype(np.int64), counts[order]


def _join_near(codes: Ints, counts: Floats, reach: float) -> Ints:
    """For each code (most first), the position of the larger code that it is the same as."""
    colours = _unpack(codes)
    labs = lab_of(colours)
    owner = np.arange(len(codes))
    kept = np.zeros(len(codes), bool)
    code_reach = max(_SAME_CODE, 2 * reach)
    for i in range(len(codes)):
        there = np.flatnonzero(kept[:i])
        if len(there):
            near = (np.abs(colours[there] - colours[i]).max(1) <= code_reach) & (
                ((labs[there] - labs[i]) ** 2).sum(1) < reach**2
            )
            if near.any():
                owner[i] = there[np.argmax(near)]
                continue
        kept[i] = True
    return owner


def clean_cores(evidence: Bytes, keep_tiny: bool = False) -> Cores:
    """Find the inks of a clean raster.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    keep_tiny : bool
        Keep inks that look like blends; for a maker who asked for more inks.
    """
    packed = pack(evidence)
    block = _blocks(packed)
    core = block.copy()
    core[1:] |= block[:-1]
    core[:, 1:] |= core[:, :-1].copy()
    codes, counts = _block_histogram(packed, block)
    if not len(codes):  # too small for blocks: every pixel counts
        codes, pixels = np.unique(packed, return_counts=True)
        order = np.argsort(-pixels, kind="stable")
        codes, core = codes[order].astype(np.int64), np.ones_like(core)
        counts = pixels[order].astype(np.float64)
        keep_tiny = True
    codes, counts = codes[:4096], counts[:4096]
    least = 1 if keep_tiny else max(3.0, 1e-5 * packed.size)
    reach = _SAME_LAB
    while True:
        owner = _join_near(codes, counts, reach)
        areas: Floats = np.bincount(owner, counts, len(codes)).astype(np.float64)
        kept = np.flatnonzero((owner == np.arange(len(codes))) & (areas >= min(least, areas.max())))
        if len(kept) <= MOST_FOUND:
            break
        reach *= 1.5
    number = np.zeros(len(codes), np.uint8)
    number[kept] = np.arange(1, len(kept) + 1)
    labels = _look_up(packed, codes, number[owner])
    labels *= core
    cores = Cores(_unpack(codes[kept]), areas[kept], labels, 0.0)
    return cores if keep_tiny else drop_blends(cores, packed)


def _look_up(packed: np.ndarray, codes: Ints, numbers: Bytes) -> Bytes:
    """Number of each pixel's code, 0 for other codes; by runs, so that flat stretches cost little."""
    flat = packed.ravel()
    starts = np.append(0, np.flatnonzero(flat[1:] != flat[:-1]) + 1)
    order = np.argsort(codes)
    place = np.minimum(np.searchsorted(codes[order], flat[starts]), len(codes) - 1)
    found = np.where(codes[order][place] == flat[starts], numbers[order][place], 0).astype(np.uint8)
    return np.repeat(found, np.diff(starts, append=flat.size)).reshape(packed.shape)


def drop_blends(cores: Cores, packed: np.ndarray | None = None) -> Cores:
    """Drop tiny inks that are blends of two others nearby, or of one nearby and one elsewhere.

    The second is a line thinner than a pixel that happens to lie half on
    two rows: of a clean picture, whose packed pixels are given, what is no
    such straight line and shows one colour exactly is an ink.
    """
    count = len(cores.colours)
    tiny = np.flatnonzero(cores.areas < _TINY_SHARE * cores.labels.size)
    if not len(tiny) or count < 3:
        return cores
    height, width = cores.labels.shape
    drop = np.zeros(count, bool)
    ring = [(dy, dx) for dy in range(-3, 4) for dx in range(-3, 4) if max(abs(dy), abs(dx)) >= 2]
    is_tiny = np.zeros(count + 1, bool)
    is_tiny[tiny + 1] = True
    ys, xs = places_of(looked_up(is_tiny, cores.labels) > 0)
    which = cores.labels[ys, xs]
    for ink in tiny[::-1]:
        here = which == ink + 1
        y, x = ys[here], xs[here]
        step = max(1, len(y) // 2000)
        y, x = y[::step], x[::step]
        around = np.zeros((len(y), count + 1), bool)
        for dy, dx in ring:
            near = cores.labels[np.clip(y + dy, 0, height - 1), np.clip(x + dx, 0, width - 1)]
            around[np.arange(len(y)), near] = True
        around[:, ink + 1] = False
        around = around[:, 1:] & ~drop
        others = np.flatnonzero(~drop & (cores.areas > cores.areas[ink]) & (np.arange(count) != ink))
        thick = cores.areas[ink] > 6 * len(y) * step
        if len(others) >= 2 and not thick and _mostly_blend(cores.colours, ink, others, around, len(y) * step):
            places = ys[here] * width + xs[here]
            exact = packed is not None and (
                _is_wide(cores.labels == ink + 1) or is_repeated(packed.ravel(), width, places)
            )
            drop[ink] = not exact
    if not drop.any():
        return cores
    number = np.zeros(count + 1, np.uint8)
    number[1:][~drop] = np.arange(1, count - drop.sum() + 1)
    return Cores(cores.colours[~drop], cores.areas[~drop], looked_up(number, cores.labels), cores.noise)


def _is_wide(own: Bools) -> bool:
    """Whether pixels fill a square of three."""
    return bool(cv2.erode(own.view(np.uint8), np.ones((3, 3), np.uint8), borderValue=0).any())


def _mostly_blend(colours: Floats, ink: int, others: Ints, around: Bools, pixels: int) -> bool:
    first, second = np.triu_indices(len(others), 1)
    a, b = colours[others[first]], colours[others[second]]
    along = b - a
    length = np.maximum((along**2).sum(1), 1e-9)
    share = ((colours[ink] - a) * along).sum(1) / length
    off = np.abs(colours[ink] - a - share[:, None] * along).max(1)
    blend = (off < _BLEND_RESIDUAL) & (share > 0.08) & (share < 0.92) & (length > 30**2)
    for i, j in zip(others[first[blend]], others[second[blend]], strict=True):
        both = around[:, i] & around[:, j]
        either = around[:, i] ^ around[:, j]
        if both.mean() > 0.5 or (pixels < 60 and (both | either).mean() > 0.9):
            return True
    return False
