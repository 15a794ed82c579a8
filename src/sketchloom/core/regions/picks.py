"""Details picked by hand: what has the colour of a place becomes a tone of its own."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.colour import lab_of
from sketchloom.core.palette import Colour
from sketchloom.core.picture import Picture, on_picture
from sketchloom.core.regions.evidence import pack
from sketchloom.core.regions.flat.explain import explain_edges
from sketchloom.core.regions.settings import Pick

__all__ = ["Picked", "colour_mask", "picked", "usual_reach"]

USUAL_REACH = 10.0
_SEEN_APART = 1.0
"""CIE76; a place nearer than this to its ink is no detail that was lost."""
_MOST_TONES = 63
_SAME = 10
"""8-bit steps; a pixel this near to its tone is no edge of it."""


class Picked(NamedTuple):
    """Labels with a tone more for every pick."""

    labels: Bytes  # (H, W), 1 + tone
    mix: Floats  # (K + P, 3)
    unplaced: tuple[int, ...]  # picks whose place lies outside


def colour_mask(evidence: Bytes, x: int, y: int, reach: float, everywhere: bool) -> Bools:
    """Pixels of a place's colour: all, or those that hang together with it (8-connected).

    Parameters
    ----------
    evidence : (H, W, 4) uint8
    x, y : int
        The place, px.
    reach : float
        CIE76 distance.
    everywhere : bool

    Returns
    -------
    (H, W) bool
    """
    rgb = evidence[..., :3]
    box = 5 * reach + 5  # in the darkest colours a unit of L*a*b* is nearly four steps of a channel
    low, high = (np.clip(rgb[y, x] + side, 0, 255).astype(np.float64) for side in (-box, box))
    near = cv2.inRange(np.ascontiguousarray(rgb), low, high) > 0
    codes, place = np.unique(pack(evidence)[near] & 0xFFFFFF, return_inverse=True)
    colours = np.stack([codes & 255, codes >> 8 & 255, codes >> 16 & 255], 1)
    alike = np.linalg.norm(lab_of(colours) - lab_of(rgb[y, x]), axis=1) <= reach
    near[near] = alike[place]
    if everywhere:
        return near
    _, parts = cv2.connectedComponents(near.astype(np.uint8), connectivity=8)
    area: Bools = parts == parts[y, x]
    return area


def usual_reach(seen: Colour, ink: Colour | None) -> float:
    """Reach that parts a detail from the ink it was lost in: half of how far their colours lie apart."""
    if ink is None:
        return USUAL_REACH
    apart = float(np.linalg.norm(lab_of(seen) - lab_of(ink)))
    return round(min(USUAL_REACH, apart / 2), 1) if apart > _SEEN_APART else USUAL_REACH


def picked(
    evidence: Bytes, labels: Bytes, mix: Floats, picture: Picture, picks: tuple[Pick, ...], known: Floats | None = None
) -> Picked:
    """Give what was picked a tone of its own, one for each pick in order.

    Edge pixels around it are explained again, with its colour among the
    inks. A pick whose place lies outside the picture is listed; its tone has
    no pixel.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
    labels : (H, W) uint8
    mix : (K, 3) array
    picture : Picture
    picks : tuple of Pick
    known : (P, 3) array, optional
        Colours of the picks in the full picture, when this is its reduced preview.
    """
    height, width = labels.shape
    rgb = evidence[..., :3]
    lost = []
    labels = labels.copy()
    for number, pick in enumerate(picks):
        x, y = np.floor(on_picture(picture, [pick.at])[0]).astype(int)
        colour = known[number] if known is not None else np.zeros(3)
        if 0 <= x < width and 0 <= y < height and len(mix) < _MOST_TONES:
            if known is None:
                colour = rgb[y, x].astype(float)
            mask = colour_mask(evidence, int(x), int(y), pick.reach, pick.everywhere)
            mix = np.vstack([mix, colour])
            labels = _with_mask(evidence, labels, mix, mask)
        else:
            lost.append(number)
            mix = np.vstack([mix, colour])
    return Picked(labels, mix, tuple(lost))


def _with_mask(evidence: Bytes, labels: Bytes, mix: Floats, mask: Bools) -> Bytes:
    """Label a mask by the last tone, and its edges by what explains them."""
    around = cv2.dilate(mask.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    around &= ~mask
    off = np.abs(evidence[..., :3][around].astype(np.int16) - np.rint(mix).astype(np.int16)[labels[around] - 1]).max(1)
    cores = labels.copy()
    cores[mask] = len(mix)
    edge = np.zeros_like(mask)
    edge[around] = off > _SAME
    cores[edge] = 0
    return explain_edges(evidence, cores, mix)
