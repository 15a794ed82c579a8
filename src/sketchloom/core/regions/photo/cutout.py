"""A photograph that was cut out of its ground: the cut parts its steps, and is an edge of its own."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.picture import Picture
from sketchloom.core.regions.photo.simpler import LEAST_DETAIL, least_piece, without_bits

__all__ = ["KEY", "CutOut", "cut_out", "with_cut"]

KEY = np.array([255.0, 0.0, 255.0])
"""What stands for the clear in the evidence: far from all greys."""
_SMOOTH = 0.35
"""Gauss that the cut's outline is smoothed with, in details."""
_BAND = 5


class CutOut(NamedTuple):
    """What stays of a photograph."""

    share: Floats  # (H, W) float32, how much of each pixel stays, with an outline as smooth as the detail asks
    there: Bools  # (H, W)


def cut_out(picture: Picture, detail: float) -> CutOut | None:
    """Tell what stays, without crumbs and holes smaller than the detail; None where nothing is clear.

    Parameters
    ----------
    picture : Picture
    detail : float
        px.
    """
    alpha = picture.rgba[..., 3]
    if picture.opaque or not (alpha < 128).any() or not (alpha >= 128).any():
        return None
    share = alpha.astype(np.float32) / 255
    if detail >= LEAST_DETAIL:
        share = cv2.GaussianBlur(share, (0, 0), _SMOOTH * detail).astype(np.float32, copy=False)
        there = share >= 0.5
        whole = _without_crumbs(there, least_piece(detail))
        share = np.where(whole == there, share, whole).astype(np.float32)
    return CutOut(share, share >= 0.5) if (share >= 0.5).any() else None


def with_cut(labels: Bytes, evidence: Bytes, mix: Floats, cut: CutOut, detail: float) -> tuple[Bytes, Bytes]:
    """Lay the cut over the steps; what it leaves too small of a step joins a neighbour.

    Parameters
    ----------
    labels : (H, W) uint8
        1 + step, of the picture whose subject was carried out into the clear.
    evidence : (H, W, 4) uint8
    mix : (K, 3) float
        Of the steps in the evidence.
    cut : CutOut
    detail : float
        px.

    Returns
    -------
    labels : (H, W) uint8
        The clear has the label K + 1.
    evidence : (H, W, 4) uint8
    """
    count = len(mix)
    laid = np.where(cut.there, labels - np.uint8(1), count).astype(np.uint8)
    if detail >= LEAST_DETAIL:
        laid = without_bits(laid, count + 1, detail, count)
    own = np.where(cut.there, laid, labels - np.uint8(1))
    sides = cut.there.view(np.uint8)
    square = np.ones((_BAND, _BAND), np.uint8)
    edge = cv2.dilate(sides, square) != cv2.erode(sides, square)
    fresh = edge | ~cut.there | (own != labels - np.uint8(1))
    share = np.where(edge, cut.share, cut.there)[fresh][:, None]
    out = evidence.copy()
    out[fresh, :3] = np.rint(share * mix[own[fresh]] + (1 - share) * KEY)
    return laid + np.uint8(1), out


def _without_crumbs(there: Bools, area: float) -> Bools:
    """Fill holes and drop bits under an area; the largest bit stays."""
    out = there.copy()
    for side in (True, False):
        count, parts, stats, _ = cv2.connectedComponentsWithStats((out == side).view(np.uint8), connectivity=4)
        small = stats[:, cv2.CC_STAT_AREA] < area
        small[0] = False
        if side and count > 1:
            small[1 + int(np.argmax(stats[1:, cv2.CC_STAT_AREA]))] = False
        out[small[parts]] = not side
    return out
