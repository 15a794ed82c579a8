"""How blurred a picture is, sharpening it, and making it larger."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats

__all__ = ["blur_of", "enlarged", "sharpened"]

_ROUNDS = 12
_STEP = 1.9
_SHARP = 0.6
_LEAST_SIGMA, _MOST_SIGMA = 0.6, 12.0


def blur_of(grey: Bytes) -> float:
    """Px that the sharpest of the strong edges take from light to dark: contrast over slope."""
    if min(grey.shape) < 16:
        return 1.0
    value = grey.astype(np.float32)
    slope = np.hypot(cv2.Sobel(value, cv2.CV_32F, 1, 0), cv2.Sobel(value, cv2.CV_32F, 0, 1)) / 8
    contrast = cv2.dilate(value, np.ones((15, 15))) - cv2.erode(value, np.ones((15, 15)))
    strong = (contrast > max(30.0, 0.5 * float(contrast.max()))) & (slope >= cv2.dilate(slope, np.ones((5, 5))) - 1e-3)
    strong &= slope > 2
    if strong.sum() < 20:
        return 1.0
    return float(np.percentile(contrast[strong] / slope[strong], 25))


def sharpened(rgba: Bytes, sigma: float | None = None) -> Bytes:
    """Undo a Gaussian blur, never past what lies around a pixel, so that no halo and no new colour comes.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    sigma : float, optional
        Of the blur in px; by default measured.

    References
    ----------
    .. [1] P. H. van Cittert, "Zum Einfluss der Spaltbreite auf die
       Intensitaetsverteilung in Spektrallinien II", 1931; clamped to the
       local range in every round.
    """
    if sigma is None:
        grey = cv2.cvtColor(np.ascontiguousarray(rgba[..., :3]), cv2.COLOR_RGB2GRAY).astype(np.uint8, copy=False)
        sigma = max(0.0, blur_of(grey) ** 2 / (2 * np.pi) - _SHARP**2) ** 0.5  # a Gaussian edge's contrast over slope
    sigma = min(sigma, _MOST_SIGMA)
    if sigma < _LEAST_SIGMA:
        return rgba
    side = 2 * int(np.ceil(2.5 * sigma)) + 1
    square = np.ones((side, side), np.uint8)
    rgb = np.ascontiguousarray(rgba[..., :3])
    low, high = cv2.erode(rgb, square).astype(np.float32), cv2.dilate(rgb, square).astype(np.float32)
    blurred = rgb.astype(np.float32)
    clear = blurred
    for _ in range(_ROUNDS):
        clear = np.clip(clear + _STEP * (blurred - cv2.GaussianBlur(clear, (0, 0), sigma)), low, high)
    return np.dstack([np.rint(clear).astype(np.uint8), rgba[..., 3]])


def enlarged(rgba: Bytes, times: int) -> Bytes:
    """Make a picture larger by cubic interpolation kept to the local range; (H * times, W * times, 4) uint8."""
    alpha = rgba[..., 3:].astype(np.float32)
    weighted: Floats = np.concatenate([rgba[..., :3] * (alpha / 255), alpha], 2).astype(np.float32)
    size = rgba.shape[1] * times, rgba.shape[0] * times
    square = np.ones((3, 3), np.uint8)
    low, high = (
        cv2.resize(edge(weighted, square), size, interpolation=cv2.INTER_NEAREST) for edge in (cv2.erode, cv2.dilate)
    )
    big = np.clip(cv2.resize(weighted, size, interpolation=cv2.INTER_CUBIC), low, high)
    under = cv2.resize(np.ascontiguousarray(rgba[..., :3]), size, interpolation=cv2.INTER_CUBIC)
    colour = np.where(big[..., 3:] < 0.5, under, big[..., :3] * (255 / np.maximum(big[..., 3:], 1e-3)))
    return np.rint(np.clip(np.concatenate([colour, big[..., 3:]], 2), 0, 255)).astype(np.uint8)
