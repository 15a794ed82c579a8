"""Inks of a clean picture that are drawn a pixel wide only, and that a blend of others could explain."""

import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.colour import lab_of
from sketchloom.core.regions.evidence import pack

__all__ = ["exact_lines", "is_repeated"]

_LEAST = 7
"""Px of exactly one colour."""
_LEAST_SHARE = 1.4e-4
"""Of the picture; a smaller line is not worth an ink of its own, and goes to what explains it."""
_APART = 6.0
"""CIE76 distance from every ink."""
_MOSTLY = 0.6
_RANGE = 24
"""8-bit steps of a channel that a line stands out by."""
_LEAST_PARTS = 3
_RUN = 7
"""Px; a straight run."""
_BENDS = 3
"""Rows and columns that a line crosses, for its shares to have differed if they were shares."""
_NEAR = 3
_ALMOST, _PURE = 0.25, 0.4
"""Of the pixels that have so much of a line's colour that they lack a quarter at most, this share has all of it."""


def exact_lines(evidence: Bytes, colours: Floats, places: Ints) -> list[Ints]:
    """Find colours that occur again and again, exactly, and that nothing near goes beyond.

    A line of an ink that is there already, thinner than a pixel, is nowhere
    pure: where it bends, its pixels have every share up to some largest one.
    If many have exactly that share, it is no share, but the line's own ink.
    Straight lines along a row or a column tell nothing, nor does a share that
    a mirrored shape repeats elsewhere.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
    colours : (K, 3) float
    places : (n,) int
        Pixels that are no cores, rising.

    Returns
    -------
    list of (m,) int
        For each such colour the rows of `places` that have it, most first.
    """
    packed = pack(evidence).ravel() & 0xFFFFFF
    codes, which, counts = np.unique(packed[places], return_inverse=True, return_counts=True)
    often = np.flatnonzero(counts >= max(_LEAST, _LEAST_SHARE * len(packed)))
    seen = np.stack([codes[often] & 255, codes[often] >> 8 & 255, codes[often] >> 16 & 255], 1)
    gap = np.linalg.norm(lab_of(seen)[:, None] - lab_of(colours)[None], axis=2)
    wanted = np.zeros(len(codes), bool)
    wanted[often[gap.min(1) >= _APART]] = True
    touch = np.bincount(which, _touching(packed, places, evidence.shape[1]) & wanted[which], len(codes))
    wanted &= touch >= _MOSTLY * counts
    rows = np.flatnonzero(wanted[which])
    contrast = _contrast(evidence, places[rows])
    wanted &= np.bincount(which[rows], contrast > 0, len(codes)) >= _MOSTLY * np.maximum(counts, 1)
    found = []
    for code in np.flatnonzero(wanted):
        own = np.flatnonzero(which == code)
        depth = float(np.median(contrast[which[rows] == code]))
        here = places[own]
        if _bends(here, evidence.shape[1]) and _is_pure(evidence, places, here, depth):
            found.append(own)
    return sorted(found, key=lambda own: (-len(own), int(own[0])))


def is_repeated(packed: np.ndarray, width: int, places: Ints) -> bool:
    """Tell whether pixels show one colour exactly, again and again, along a line that bends.

    Where two inks meet a renderer lets what lies below shine through, by how
    much hangs on where the seam crosses each pixel; a ring of a third ink
    drawn between them has its own colour wherever it fills a pixel.

    Parameters
    ----------
    packed : (H * W,) uint32
        The picture, a code a colour.
    width : int
        Of the picture, px.
    places : (n,) int
        Pixels of nearly one colour that no blend explains, rising.
    """
    codes, counts = np.unique(packed[places], return_counts=True)
    if not len(codes) or counts.max() < max(_LEAST, _PURE * len(places)):
        return False
    own = places[packed[places] == codes[counts.argmax()]]
    return bool(_touching(packed, own, width).mean() >= _MOSTLY and _bends(own, width))


def _bends(own: Ints, width: int) -> bool:
    """Whether pixels lie along a line that is neither level nor upright."""
    y, x = np.divmod(own, width)
    return min(len(np.unique(y)), len(np.unique(x))) >= _BENDS and bool(1 - _straight(own, width).mean() >= _MOSTLY)


def _contrast(evidence: Bytes, places: Ints) -> Ints:
    """How far pixels stand out, where in some channel nothing within two pixels is darker, or nothing lighter."""
    height, width = evidence.shape[:2]
    pixels = evidence.reshape(-1, 4)
    y, x = np.divmod(places, width)
    own = pixels[places]
    low, high = own.copy(), own.copy()
    for dy in range(-2, 3):
        row = np.clip(y + dy, 0, height - 1) * width
        for dx in range(-2, 3):
            near = pixels[row + np.clip(x + dx, 0, width - 1)]
            np.minimum(low, near, out=low)
            np.maximum(high, near, out=high)
    span = high.astype(np.int64) - low
    stands = ((own == low) | (own == high)) & (span >= _RANGE)
    contrast: Ints = np.where(stands, span, 0)[:, :3].max(1)
    return contrast


def _straight(own: Ints, width: int) -> Bools:
    """Which pixels lie in a run of their own along a row or a column."""
    straight = np.zeros(len(own), bool)
    for step in (1, width):
        before = np.stack([np.isin(own - k * step, own) for k in range(1, _RUN)])
        after = np.stack([np.isin(own + k * step, own) for k in range(1, _RUN)])
        # a run holds so many pixels on both sides together
        straight |= np.cumprod(before, 0).sum(0) + np.cumprod(after, 0).sum(0) >= _RUN - 1
    return straight


def _touching(packed: np.ndarray, places: Ints, width: int) -> Bools:
    """Which pixels touch another of exactly their colour; mirrored shapes repeat a share too, but far apart."""
    own = packed[places]
    touch = np.zeros(len(places), bool)
    for step in (1, width - 1, width, width + 1):
        for near in (places + step, places - step):
            touch |= packed[np.clip(near, 0, len(packed) - 1)] == own
    return touch


def _is_pure(evidence: Bytes, places: Ints, own: Ints, depth: float) -> bool:
    """Whether pixels near by have other shares of the colour too, but hardly any has nearly all of it."""
    height, width = evidence.shape[:2]
    y, x = np.divmod(own, width)
    steps = np.arange(-_NEAR, _NEAR + 1)
    near_y = np.clip(y[:, None, None] + steps[:, None], 0, height - 1)
    near_x = np.clip(x[:, None, None] + steps[None, :], 0, width - 1)
    near = np.unique(near_y * width + near_x)
    near = near[np.isin(near, places)]
    rgb = evidence.reshape(-1, 4)[:, :3]
    off = np.abs(rgb[near].astype(np.int64) - rgb[own[0]]).max(1)
    almost = int(((off > 0) & (off <= _ALMOST * depth)).sum())
    parts = np.unique(off[(off > _ALMOST * depth) & (off < 0.95 * depth)])
    return len(parts) >= _LEAST_PARTS and len(own) >= _PURE * (len(own) + almost)
