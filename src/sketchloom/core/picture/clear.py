"""Clear the ground: by colour, or by a box round the subject."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes

__all__ = ["box_subject", "clear_colour", "with_clear"]

_CUT_PIXELS = 200_000
_BAND = 3
_ROUNDS = 6


def clear_colour(rgba: Bytes, colour: tuple[int, int, int], reach: float, everywhere: bool) -> Bools:
    """Find the ground by its colour.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    colour : (int, int, int)
        sRGB.
    reach : float
        Largest difference of any channel, 8-bit steps.
    everywhere : bool
        All of that colour, not only what hangs together with the border.

    Returns
    -------
    (H, W) bool
    """
    off = np.abs(rgba[..., :3].astype(np.int16) - np.array(colour, np.int16)).max(2)
    near = off <= reach
    if everywhere or not near.any():
        return near
    count, parts = cv2.connectedComponents(near.view(np.uint8), connectivity=4)
    border = np.unique(np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]]))
    touched = np.zeros(count, bool)
    touched[border] = True
    touched[0] = False
    return touched[parts]


def box_subject(rgba: Bytes, box: tuple[int, int, int, int]) -> Bools:
    """Cut out the subject in a box.

    The cut is made on a reduced picture, then once more in a narrow band
    along its edge at full size, by the colours on either side.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    box : (int, int, int, int)
        Left, top, width and height in px; the subject lies wholly inside.

    Returns
    -------
    (H, W) bool
        True on the subject.

    References
    ----------
    .. [1] C. Rother, V. Kolmogorov and A. Blake, "GrabCut: interactive
       foreground extraction using iterated graph cuts", 2004.
    """
    height, width = rgba.shape[:2]
    scale = min(1.0, (_CUT_PIXELS / (width * height)) ** 0.5)
    size = max(8, round(width * scale)), max(8, round(height * scale))
    small = cv2.resize(np.ascontiguousarray(rgba[..., :3]), size, interpolation=cv2.INTER_AREA)
    left, top = max(1, round(box[0] * scale)), max(1, round(box[1] * scale))
    inner = left, top, min(round(box[2] * scale), size[0] - left - 1), min(round(box[3] * scale), size[1] - top - 1)
    mask = np.zeros(small.shape[:2], np.uint8)
    cv2.setRNGSeed(1)
    cv2.grabCut(small, mask, inner, np.zeros((1, 65)), np.zeros((1, 65)), _ROUNDS, cv2.GC_INIT_WITH_RECT)
    subject = ((mask == cv2.GC_FGD) | (mask == cv2.GC_PR_FGD)).astype(np.uint8)
    if scale == 1.0 or not subject.any():
        return subject.astype(bool)
    return _refined(rgba, subject, round(_BAND / scale))


def _refined(rgba: Bytes, small: Bytes, band: int) -> Bools:
    """Decide the band along the edge at full size by the mean colours near by on either side."""
    height, width = rgba.shape[:2]
    soft = cv2.resize(small.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)
    inside, outside = (soft > 0.99).astype(np.float32), (soft < 0.01).astype(np.float32)
    reach = (4 * band + 1, 4 * band + 1)
    colour = rgba[..., :3].astype(np.float32)
    means = []
    for side in (inside, outside):
        mass = cv2.blur(side, reach)
        means.append(cv2.blur(colour * side[..., None], reach) / np.maximum(mass, 1e-4)[..., None])
    to_in, to_out = (((colour - mean) ** 2).sum(2) for mean in means)
    unsure = (soft >= 0.01) & (soft <= 0.99)
    result = soft > 0.5
    share = to_out / np.maximum(to_in + to_out, 1e-6)  # 1 where it is all subject
    result[unsure] = (0.5 * soft + 0.5 * share)[unsure] > 0.5
    return result


def with_clear(rgba: Bytes, cleared: Bools) -> Bytes:
    """Make pixels clear, with an edge a pixel soft; (H, W, 4) uint8."""
    keep = cv2.GaussianBlur((~cleared).astype(np.float32), (0, 0), 0.6)
    out = rgba.copy()
    out[..., 3] = np.minimum(out[..., 3], np.rint(255 * np.clip((keep - 0.15) / 0.7, 0, 1)).astype(np.uint8))
    return out
