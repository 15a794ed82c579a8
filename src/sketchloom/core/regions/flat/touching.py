"""Lines one pixel wide of art without anti-aliasing, whose pixels touch at corners only: each is one line."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints, places_of

__all__ = ["lines_joined"]

_LEAST = 8
"""px that hang together, corners counted, of something that is a line."""
_AROUND = np.array([(y, x) for y in (-1, 0) for x in (-1, 0)])
"""Of the four squares of two by two that a pixel lies in, the upper left pixels."""


def lines_joined(labels: Bytes, evidence: Bytes, mix: Floats) -> tuple[Bytes, Bytes]:
    """Fill one pixel where two of a line touch at a corner, so that the line stays in one piece.

    Only among pixels that are exactly their tone's colour, as hard-edged art
    has them, and only where one tone is a pixel wide and the other is not all
    of it: a chessboard, and a pattern of single pixels, are left as they are.
    Where both could be lines, as where two lines meet, the rarer tone is.

    Parameters
    ----------
    labels : (H, W) uint8
        1 + tone.
    evidence : (H, W, 4) uint8
    mix : (K, 3) float
        Colour of each tone in the evidence.

    Returns
    -------
    labels, evidence
        The same arrays where nothing was to be joined.
    """
    y, x = places_of(labels[:-1, :-1] != labels[:-1, 1:])  # few pixels lie at an edge; only those are asked the rest
    flat, at, wide = labels.ravel(), y * labels.shape[1] + x, labels.shape[1]
    crossed = (flat[at] == flat[at + wide + 1]) & (flat[at + 1] == flat[at + wide])
    y, x = y[crossed], x[crossed]
    if not len(y):
        return labels, evidence
    falling, rising = ((y, x), (y + 1, x + 1)), ((y, x + 1), (y + 1, x))
    colour = np.rint(mix).astype(np.int16)
    pure = np.ones(len(y), bool)
    for at in (*falling, *rising):
        pure &= (evidence[at][:, :3] == colour[labels[at].astype(np.intp) - 1]).all(1)
    thin = [[_is_thin(labels, *at) for at in line] for line in (falling, rising)]
    area = np.bincount(labels.ravel(), minlength=len(mix) + 1)
    rarer = area[labels[falling[0]]] < area[labels[rising[0]]]
    falls, rises = (pure & (own[0] | own[1]) & ~(across[0] & across[1]) for own, across in (thin, thin[::-1]))
    joins = []
    for line, chosen in ((falling, falls & (rarer | ~rises)), (rising, rises & ~(falls & rarer))):
        wanted = np.flatnonzero(chosen)
        joins.append(wanted[_is_long(labels, line[0][0][wanted], line[0][1][wanted])])
    if not any(len(wanted) for wanted in joins):
        return labels, evidence
    joined, drawn = labels.copy(), evidence.copy()
    for line, fill, wanted in ((falling, rising[0], joins[0]), (rising, falling[0], joins[1])):
        own = labels[line[0]][wanted]
        at = fill[0][wanted], fill[1][wanted]
        joined[at] = own
        drawn[(*at, slice(3))] = colour[own.astype(np.intp) - 1]
    return joined, drawn


def _is_thin(labels: Bytes, y: Ints, x: Ints) -> Bools:
    """Whether pixels lie in no square of two by two of their own label."""
    height, width = labels.shape
    thin = np.ones(len(y), bool)
    own = labels[y, x]
    for down, right in _AROUND:
        top, left = y + down, x + right
        there = (top >= 0) & (left >= 0) & (top + 1 < height) & (left + 1 < width)
        top, left = np.where(there, top, 0), np.where(there, left, 0)
        alike = there.copy()
        for dy, dx in ((0, 0), (0, 1), (1, 0), (1, 1)):
            alike &= labels[np.minimum(top + dy, height - 1), np.minimum(left + dx, width - 1)] == own
        thin &= ~alike
    return thin


def _is_long(labels: Bytes, y: Ints, x: Ints) -> Bools:
    """Whether what pixels hang together with, corners counted, is long enough for a line."""
    long = np.zeros(len(y), bool)
    own = labels[y, x]
    for label in np.unique(own).tolist():
        rows = np.flatnonzero(own == label)
        _, parts, stats, _ = cv2.connectedComponentsWithStats((labels == label).view(np.uint8), connectivity=8)
        long[rows] = stats[parts[y[rows], x[rows]], cv2.CC_STAT_AREA] >= _LEAST
    return long
