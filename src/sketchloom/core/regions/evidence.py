"""What a picture shows once clear pixels are laid on a colour of their own."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes
from sketchloom.core.palette import Colour
from sketchloom.core.picture import Picture

__all__ = ["SOLID", "carried_out", "evidence_of", "nearest_of", "over_colour", "pack", "rim_of_inside", "unlike_colour"]

_KEYS = np.array(
    [[255, 0, 255], [0, 255, 0], [0, 255, 255], [255, 255, 0], [0, 0, 255], [255, 0, 0], [255, 255, 255], [0, 0, 0]]
)

SOLID = 250
"""Alpha from which a pixel shows nothing but itself."""


def pack(rgba: Bytes) -> np.ndarray:
    """View (H, W, 4) uint8 as (H, W) uint32: r + 256 g + 65536 b + 2^24 a."""
    return np.ascontiguousarray(rgba).view("<u4")[..., 0]


def evidence_of(picture: Picture, keep_ground: bool, key: Colour | None = None) -> tuple[Bytes, Colour, bool]:
    """Lay a picture over a colour that stands for what is clear in it.

    Parameters
    ----------
    picture : Picture
    keep_ground : bool
        Whether clear pixels are to be cut too: then they are seen as white.
    key : Colour, optional
        The colour that was taken for the full picture, when this is its reduced preview.

    Returns
    -------
    evidence : (H, W, 4) uint8
    key : Colour
    clears : bool
        Whether pixels are clear, and stand in `key`.
    """
    clears = not keep_ground and not picture.opaque and bool((picture.rgba[..., 3] < 128).any())
    if key is None:
        key = unlike_colour(picture) if clears else (255, 255, 255)
    return over_colour(picture, key), key, clears


def unlike_colour(picture: Picture) -> Colour:
    """Choose a pure colour far from all that the picture shows."""
    step = max(1, int((picture.width * picture.height / 250_000) ** 0.5))
    sample = picture.rgba[::step, ::step].reshape(-1, 4)
    solid = sample[sample[:, 3] > 127][:, :3]
    if not len(solid):
        return 255, 0, 255
    coarse = np.unique(solid // 16, axis=0).astype(int) * 16 + 8
    distance = np.abs(coarse[:, None] - _KEYS).sum(2).min(0)
    red, green, blue = _KEYS[int(np.argmax(distance))]
    return int(red), int(green), int(blue)


def over_colour(picture: Picture, colour: Colour) -> Bytes:
    """Lay a picture over a colour; (H, W, 4) uint8 with alpha 255."""
    if picture.opaque:
        return picture.rgba
    alpha = picture.rgba[..., 3:].astype(np.float32) / 255
    laid = picture.rgba.astype(np.float32)
    laid *= alpha
    laid += (1 - alpha) * np.array([*colour, 0], np.float32)
    laid[..., 3] = 255
    return cv2.convertScaleAbs(laid).astype(np.uint8, copy=False)


def carried_out(picture: Picture) -> Bytes:
    """Carry the colours along the edge of what is solid on into what is clear; (H, W, 4) uint8 with alpha 255."""
    if picture.opaque:
        return picture.rgba
    alpha = picture.rgba[..., 3]
    return nearest_of(picture.rgba, alpha >= min(SOLID, int(alpha.max())))


def rim_of_inside(rgba: Bytes, alpha: Bytes) -> Bytes:
    """Give what is solid along a hard edge of the clear the colours inside; (H, W, 4) uint8.

    Where a ground was cleared after its soft edges had been drawn and stored,
    the outermost pixels hold some of its colour yet.
    """
    if ((alpha > 0) & (alpha < 255)).any():
        return rgba
    inside = cv2.erode((alpha > 0).view(np.uint8), np.ones((3, 3), np.uint8), borderValue=1)
    rim = (alpha > 0) & (inside == 0) & (cv2.dilate(inside, np.ones((5, 5), np.uint8)) > 0)
    return np.where(rim[..., None], nearest_of(rgba, inside > 0), rgba) if rim.any() else rgba


def nearest_of(rgba: Bytes, solid: Bools) -> Bytes:
    """Give every pixel the colour of the nearest one of a mask; (H, W, 4) uint8 with alpha 255."""
    _, near = cv2.distanceTransformWithLabels((~solid).view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    owner = np.zeros(int(near.max()) + 1, np.int32)
    owner[near[solid]] = np.flatnonzero(solid)
    out = rgba.reshape(-1, 4)[owner[near]]
    out[..., 3] = 255
    return out
