"""What a picture shows once clear pixels are laid on a colour of their own."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes
from sketchloom.core.picture import Picture

__all__ = ["over_colour", "pack", "unlike_colour"]

_KEYS = np.array(
    [[255, 0, 255], [0, 255, 0], [0, 255, 255], [255, 255, 0], [0, 0, 255], [255, 0, 0], [255, 255, 255], [0, 0, 0]]
)


def pack(rgba: Bytes) -> np.ndarray:
    """View (H, W, 4) uint8 as (H, W) uint32: r + 256 g + 65536 b + 2^24 a."""
    return np.ascontiguousarray(rgba).view("<u4")[..., 0]


def unlike_colour(picture: Picture) -> tuple[int, int, int]:
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


def over_colour(picture: Picture, colour: tuple[int, int, int]) -> Bytes:
    """Lay a picture over a colour; (H, W, 4) uint8 with alpha 255."""
    if picture.opaque:
        return picture.rgba
    alpha = picture.rgba[..., 3:].astype(np.float32) / 255
    laid = picture.rgba.astype(np.float32)
    laid *= alpha
    laid += (1 - alpha) * np.array([*colour, 0], np.float32)
    laid[..., 3] = 255
    return cv2.convertScaleAbs(laid).astype(np.uint8, copy=False)
