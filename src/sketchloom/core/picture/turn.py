"""Turn a picture, mirror it, or mirror one half of it onto the other."""

import numpy as np

from sketchloom.core.arrays import Bytes, Floats

__all__ = ["half_mirrored", "turned"]


def turned(rgba: Bytes, quarters: int, mirror: bool) -> tuple[Bytes, Floats]:
    """Turn by quarters to the right, then mirror left and right.

    Returns
    -------
    (h, w, 4) uint8, (3, 3) float64
        The picture, and the homography from its px to those of `rgba`.
    """
    back = np.eye(3)
    for _ in range(quarters % 4):
        back = back @ np.array([[0, 1, 0], [-1, 0, rgba.shape[0]], [0, 0, 1.0]])
        rgba = np.rot90(rgba, -1)
    if mirror:
        back = back @ np.array([[-1, 0, rgba.shape[1]], [0, 1, 0], [0, 0, 1.0]])
        rgba = rgba[:, ::-1]
    return rgba, back


def half_mirrored(rgba: Bytes, axis: float, upright: bool, keep_first: bool) -> tuple[Bytes, Floats] | None:
    """Put the mirror image of one half beside it.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    axis : float
        Where the axis crosses, px from the left if `upright`, else from the
        top; taken to the nearest half pixel, so that no pixel is resampled.
    upright : bool
        Whether the axis runs up and down.
    keep_first : bool
        Whether the left (or upper) half stays.

    Returns
    -------
    (h, w, 4) uint8, (3, 3) float64 or None
        The picture, as large as both halves, and the homography from its px
        to those of `rgba`; None if the axis leaves nothing of the half.
    """
    lying = rgba if upright else rgba.swapaxes(0, 1)
    twice = round(2 * axis)
    whole = twice // 2
    if keep_first:
        half = lying[:, : whole + twice % 2]
        both = np.concatenate([half, half[:, ::-1][:, twice % 2 :]], 1)
        start = 0
    else:
        half = lying[:, max(0, whole) :]
        both = np.concatenate([half[:, ::-1], half[:, twice % 2 :]], 1)
        start = twice - whole - half.shape[1]
    if not 0 < twice < 2 * lying.shape[1] or not both.shape[1]:
        return None
    back = np.eye(3)
    back[0 if upright else 1, 2] = start
    return (both if upright else both.swapaxes(0, 1)), back
