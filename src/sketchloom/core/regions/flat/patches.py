"""Find patches of exactly one colour, which compression leaves even unless an edge is near."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.colour import lab_of
from sketchloom.core.regions.evidence import pack

__all__ = ["EvenPatches", "even_patches"]

_PATCH = 5
"""Side in px of a patch that must be of exactly one colour."""
_SAME, _SHADES = 1.3, ((3.0, 0.1), (6.0, 0.01))
"""Distances (CIE76) of codes that are one ink: always, and where one has but a share of the other's patches."""
_LEAST_PATCHES = 9


class EvenPatches(NamedTuple):
    """Colours of the patches that are exactly even."""

    colours: Floats  # (K, 3) sRGB, most patches first
    counts: Floats  # (K,) places where a patch of that colour has its middle
    even: Bools  # (H, W), middles of patches of any colour

    @property
    def share(self) -> float:
        """Of the picture, that patches of any colour have."""
        return float(self.even.mean())


def even_patches(evidence: Bytes) -> EvenPatches:
    """Find the colours of the exactly even patches; codes that are the same but for rounding are joined.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    """
    packed = pack(evidence)
    even = _even(packed, _PATCH)
    codes, counts = np.unique(packed[even], return_counts=True)
    order = np.argsort(-counts, kind="stable")[:4096]
    codes, counts = codes[order], counts[order]
    found = counts >= _LEAST_PATCHES
    colours = np.stack([codes & 255, codes >> 8 & 255, codes >> 16 & 255], -1)[found].astype(np.float64)
    counts, labs = counts[found].astype(np.float64), lab_of(colours)
    kept: list[int] = []
    for i in range(len(labs)):
        apart = np.sqrt(((labs[kept] - labs[i]) ** 2).sum(1))
        shade = np.zeros(len(kept), bool)
        for distance, share in _SHADES:
            shade |= (apart < distance) & (counts[i] < share * counts[kept])
        if not ((apart < _SAME) | shade).any():
            kept.append(i)
    return EvenPatches(colours[kept], counts[kept].astype(float), even)


def _even(packed: np.ndarray, side: int) -> Bools:
    """Middles of the squares of one code; (H, W) bool."""
    height, width = packed.shape
    even = np.zeros(packed.shape, bool)
    if min(height, width) < side:
        return even
    alike = np.ones(packed.shape, np.uint8)
    alike[:, 1:] = packed[:, 1:] == packed[:, :-1]
    alike[1:] &= packed[1:] == packed[:-1]
    # a square is of one code if all its pixels but the first row and column are like both neighbours,
    # and its first row and column are alike along themselves
    half = side // 2
    whole = cv2.erode(alike, np.ones((side, side), np.uint8), borderValue=0)
    even[half : height - half, half : width - half] = whole[half : height - half, half : width - half] > 0
    return even
