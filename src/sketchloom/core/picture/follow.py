"""A line that follows the edges between two places of a picture."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats

__all__ = ["EdgeFollower", "on_edges"]

_PIXELS = 250_000
_SNAP = 4
_REACH = 3.0
_STEP = 1.5


class EdgeFollower:
    """Finds the line of least cost along edges, from a start to any place near by.

    The picture is reduced and its edges are found once; `start` then works
    out all lines from a place, and `to` only reads one of them.

    References
    ----------
    .. [1] E. N. Mortensen and W. A. Barrett, "Intelligent scissors for image
       composition", 1995, as in OpenCV.
    """

    def __init__(self, rgba: Bytes) -> None:
        height, width = rgba.shape[:2]
        self._scale = min(1.0, (_PIXELS / (width * height)) ** 0.5)
        size = max(8, round(width * self._scale)), max(8, round(height * self._scale))
        small = cv2.resize(np.ascontiguousarray(rgba[..., :3]), size, interpolation=cv2.INTER_AREA).astype(
            np.uint8, copy=False
        )
        self._to_small = np.array([size[0] / width, size[1] / height])
        self._size = np.array(size)
        self._slope = slope_of(small)
        self._lines = cv2.segmentation.IntelligentScissorsMB()
        self._lines.setEdgeFeatureCannyParameters(24, 72, 3, True)
        self._lines.setGradientMagnitudeMaxLimit(200)
        self._lines.applyImage(cv2.bilateralFilter(small, 5, 30, 2))

    def snapped(self, at: Floats) -> Floats:
        """Move a place, in px, to the strongest edge within a few px of the reduced picture."""
        x, y = self._pixel(at)
        left, top = max(0, x - _SNAP), max(0, y - _SNAP)
        near = self._slope[top : y + _SNAP + 1, left : x + _SNAP + 1]
        row, column = np.unravel_index(int(near.argmax()), near.shape)
        return (np.array([left + column, top + row]) + 0.5) / self._to_small

    def start(self, at: Floats) -> None:
        """Work out the lines from a place in px; this takes about a tenth of a second."""
        self._lines.buildMap(self._pixel(at))

    def to(self, at: Floats) -> Floats:
        """Give the line from the start to a place; (n, 2) px, both ends included."""
        line = self._lines.getContour(self._pixel(at)).reshape(-1, 2)
        return (line + 0.5) / self._to_small

    def _pixel(self, at: Floats) -> tuple[int, int]:
        x, y = np.clip(np.floor(at * self._to_small), 0, self._size - 1).astype(int).tolist()
        return x, y


def slope_of(rgb: Bytes) -> Floats:
    """Steepness of the steepest channel; (H, W) float32."""
    smooth = cv2.GaussianBlur(rgb, (0, 0), 1.0).astype(np.float32)
    across, down = cv2.Sobel(smooth, cv2.CV_32F, 1, 0), cv2.Sobel(smooth, cv2.CV_32F, 0, 1)
    return np.hypot(across, down).max(2)


def on_edges(rgba: Bytes, line: Floats) -> Floats:
    """Move a closed line onto the edges beside it, at full size.

    The steepness across the line is taken at even steps along it, evened out
    along the line so that neighbours agree, and its peak is where the edge is.

    Parameters
    ----------
    rgba : (H, W, 4) uint8
    line : (n, 2) float64
        Px; as `EdgeFollower` gives it.

    Returns
    -------
    (m, 2) float64
    """
    height, width = rgba.shape[:2]
    scale = min(1.0, (_PIXELS / (width * height)) ** 0.5)
    step, reach = _STEP / scale, _REACH / scale
    even = _even_steps(line, step)
    if len(even) < 8:
        return line
    smooth = _round_gauss(even, 1.5)
    ahead = np.roll(smooth, -1, 0) - np.roll(smooth, 1, 0)
    normal = np.stack([-ahead[:, 1], ahead[:, 0]], 1) / np.maximum(np.linalg.norm(ahead, axis=1), 1e-9)[:, None]
    offsets = np.arange(-np.ceil(2 * reach), np.ceil(2 * reach) + 1) / 2
    spots = (even[:, None] + offsets[None, :, None] * normal[:, None] - 0.5).astype(np.float32)
    colours = cv2.remap(
        np.ascontiguousarray(rgba[..., :3]), spots[..., 0], spots[..., 1], cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    ).astype(np.float32)  # fmt: skip
    slope = np.abs(colours[:, 2:] - colours[:, :-2]).max(2)
    slope = _round_gauss(cv2.GaussianBlur(slope, (5, 1), 0), 1.0)
    slope *= 1 - 0.4 * (np.abs(offsets[1:-1]) / reach) ** 2
    moved = offsets[1:-1][slope.argmax(1)]
    moved = np.median([np.roll(moved, k) for k in range(-2, 3)], axis=0)
    return even + _round_gauss(moved[:, None], 0.7) * normal


def _even_steps(line: Floats, step: float) -> Floats:
    """Places at even steps round a closed line; (m, 2)."""
    closed = np.concatenate([line, line[:1]])
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
    at = np.linspace(0, along[-1], max(3, round(along[-1] / step)), endpoint=False)
    return np.stack([np.interp(at, along, closed[:, i]) for i in (0, 1)], 1)


def _round_gauss(values: Floats, sigma: float) -> Floats:
    """Smooth along the first axis of something closed."""
    reach = int(np.ceil(3 * sigma))
    weight = np.exp(-0.5 * (np.arange(-reach, reach + 1) / sigma) ** 2)
    shifted = [w * np.roll(values, k, 0) for k, w in zip(range(-reach, reach + 1), weight / weight.sum(), strict=True)]
    return np.sum(shifted, axis=0)
