"""Pieces that are nothing but the soft edge between two other inks."""

from itertools import combinations

import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints, dots
from sketchloom.core.regions import Faces, LabelMap, Runs, is_clean

__all__ = ["only_blends"]

_MOST = 3
"""px of such a piece: it is a pixel or two wide, as soft edges are, and short, as a line is not."""
_OFF = 4.0
"""8-bit steps that a pixel may be off a blend of two inks."""
_NEARER = 0.5
"""Of how far it is off its own ink, what a lone face may be off a blend."""
_AROUND = [(dy, dx) for r in (1, 2) for dy in (-r, 0, r) for dx in (-r, 0, r) if dy or dx]
_PORTION = 50_000


def only_blends(regions: LabelMap, faces: Faces, runs: Runs) -> Bools:
    """Faces of a clean picture that a blend of two other inks beside them explains; (F,).

    Where the soft edge between two inks passes a colour that is a third ink,
    pixels of it look like that ink. They are no piece, at any size. Where two
    shapes share a soft edge it holds a third colour, and only comes near such
    a blend; a lone face there goes if all of it is nearer to the blend than to
    its own ink. A true dot lies on one ink, or shows its own colour.
    """
    out = np.zeros(len(faces.label), bool)
    small = faces.area <= _MOST
    small[0] = False
    if not small.any() or not is_clean(regions.evidence):
        return out
    rows = np.flatnonzero(small[runs.face])
    pixel = np.repeat(runs.start[rows], runs.length[rows])
    pixel += np.arange(len(pixel)) - np.repeat(np.cumsum(runs.length[rows]) - runs.length[rows], runs.length[rows])
    face = np.repeat(runs.face[rows], runs.length[rows])
    parts = [_off_blends(regions, pixel[low : low + _PORTION]) for low in range(0, len(pixel), _PORTION)]
    off, own = (np.concatenate(values) for values in zip(*parts, strict=True))
    lone = ~_has_fellows(regions, runs, pixel, face, small)
    out[small] = True
    out[face[~(lone[face] & (off < np.maximum(_OFF, _NEARER * own)))]] = False
    return out


def _has_fellows(regions: LabelMap, runs: Runs, pixel: Ints, face: Ints, small: Bools) -> Bools:
    """Small faces that meet another of their ink at a corner, as the parts of a thin slanting line do; (F,)."""
    height, width = regions.labels.shape
    y, x = np.divmod(pixel, width)
    out = np.zeros(len(small), bool)
    for dy, dx in ((-1, -1), (-1, 1), (1, -1), (1, 1)):
        inside = (y + dy >= 0) & (y + dy < height) & (x + dx >= 0) & (x + dx < width)
        there = ((y + dy) * width + x + dx)[inside]
        alike = regions.labels.ravel()[there] == regions.labels.ravel()[pixel[inside]]
        other = runs.face_at(there)
        out[face[inside][alike & (other != face[inside]) & small[other]]] = True
    return out


def _off_blends(regions: LabelMap, pixel: Ints) -> tuple[Floats, Floats]:
    """How far pixels are off the best blend of two tones around them, not their own, and how far off their own."""
    height, width = regions.tones.shape
    y, x = np.divmod(pixel, width)
    colour = regions.evidence.reshape(-1, 4)[pixel, :3].astype(np.float64)
    own = regions.tones.ravel()[pixel]
    around: list[Bytes] = [
        regions.tones[np.clip(y + dy, 0, height - 1), np.clip(x + dx, 0, width - 1)] for dy, dx in _AROUND
    ]
    off = np.full(len(pixel), np.inf)
    for a, b in combinations(around, 2):
        some = np.flatnonzero((a != own) & (b != own) & (a != b))
        if len(some):
            off[some] = np.minimum(off[some], _off_line(colour[some], regions.mix[a[some]], regions.mix[b[some]]))
    return off, np.abs(colour - regions.mix[own]).max(1)


def _off_line(colour: Floats, first: Floats, second: Floats) -> Floats:
    """How far colours lie off the line between two others."""
    along, rest = second - first, colour - first
    share = np.clip(dots(rest, along) / np.maximum(dots(along, along), 1e-9), 0.0, 1.0)
    return np.asarray(np.abs(rest - share[:, None] * along).max(1))
