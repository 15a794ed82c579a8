"""Light and chroma as compression stores them, and the colour of an ink fitted to what it left."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats

__all__ = ["fitted_ink", "light_first"]

_SOFT = 0.6
"""Sigma in px of what compression does to an edge."""


def fitted_ink(seen: Floats, labels: Bytes, mix: Floats, ink: int) -> Floats:
    """Light as it was and chroma of one ink, by least squares on the picture less what the other inks give; (3,)."""
    others = np.vstack([np.zeros((1, 3), np.float32), mix])
    others[ink + 1] = 0
    rest = others[labels]
    own = (labels == ink + 1).astype(np.float32)
    best, least = mix[ink], np.inf
    for blurred in (_halved, _softened):  # chroma is stored at half the size, or not
        weight = blurred(own)
        value, error = [float(mix[ink, 0])], 0.0
        for channel in (1, 2):
            left = seen[..., channel] - blurred(rest[..., channel])
            level = float((weight * left).sum() / max(1e-6, float((weight**2).sum())))
            value.append(level)
            error += float((weight * (left - level * weight) ** 2).sum())
        if error < least:
            best, least = np.array(value), error
    return best


def _softened(plane: Floats) -> Floats:
    return cv2.GaussianBlur(plane, (0, 0), _SOFT).astype(np.float32, copy=False)


def _halved(plane: Floats) -> Floats:
    height, width = plane.shape
    even = cv2.copyMakeBorder(plane, 0, height & 1, 0, width & 1, cv2.BORDER_REPLICATE)
    half = cv2.resize(even, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)
    full = cv2.resize(half, (even.shape[1], even.shape[0]), interpolation=cv2.INTER_LINEAR)
    return full[:height, :width].astype(np.float32, copy=False)


def light_first(chroma: float) -> Floats:
    """ITU-R BT.601 luma and weighted chroma of sRGB."""
    luma, blue, red = [0.299, 0.587, 0.114], [-0.1687, -0.3313, 0.5], [0.5, -0.4187, -0.0813]
    return np.array([luma, np.multiply(blue, chroma), np.multiply(red, chroma)])
