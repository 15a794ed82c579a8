"""Inks of flat art that was compressed, scaled or photographed, from its calmest pixels."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats, looked_up
from sketchloom.core.regions.flat.cores import MOST_FOUND, Cores, drop_blends

__all__ = ["noisy_cores"]


def noisy_cores(evidence: Bytes) -> Cores:
    """Find the inks of a compressed, scaled or photographed raster of flat art.

    Density peaks of the flattest pixels in L*a*b*, then peaks are joined
    that are near each other or have hardly a pixel of their own all around.
    """
    calm = cv2.medianBlur(np.ascontiguousarray(evidence[..., :3]), 3).astype(np.uint8, copy=False)
    spread = (cv2.dilate(calm, np.ones((3, 3))) - cv2.erode(calm, np.ones((3, 3)))).max(2)
    noise = float(max(1.0, np.percentile(spread[spread <= np.percentile(spread, 60)], 75)))
    flat = spread <= max(6.0, 2 * noise)
    if flat.mean() < 0.02:
        flat = spread <= np.percentile(spread, 30)
    lab = cv2.cvtColor(calm, cv2.COLOR_RGB2LAB)
    coded = lab.astype(np.int32) >> 2
    code = (coded[..., 0] << 12 | coded[..., 1] << 6 | coded[..., 2])[flat]
    codes, counts = np.unique(code, return_counts=True)
    centres = np.stack([codes >> 12, codes >> 6 & 63, codes & 63], -1) * 4.0 + 1.5
    scale = np.array([100 / 255, 1.0, 1.0])
    space = centres * scale
    apart = max(7.0, 1.5 * noise)
    peaks: list[int] = []
    for i in np.argsort(-counts, kind="stable"):
        if counts[i] < 1e-4 * flat.size or len(peaks) == MOST_FOUND:
            break
        if not peaks or ((space[peaks] - space[i]) ** 2).sum(1).min() > apart**2:
            peaks.append(int(i))
    if not peaks:
        peaks = [int(np.argmax(counts))]
    owner = ((space[:, None] - space[peaks][None]) ** 2).sum(2).argmin(1)
    lut = np.zeros(1 << 18, np.uint8)
    lut[codes] = owner + 1
    labels = lut[coded[..., 0] << 12 | coded[..., 1] << 6 | coded[..., 2]] * flat
    labels = _keep_compact(labels.astype(np.uint8), len(peaks))
    areas = np.bincount(labels.ravel(), minlength=len(peaks) + 1)[1:]
    order = np.argsort(-areas, kind="stable")
    order = order[areas[order] > 0]
    number = np.zeros(len(peaks) + 1, np.uint8)
    number[order + 1] = np.arange(1, len(order) + 1)
    labels = number[labels]
    deep: Bytes = (labels * cv2.erode((labels > 0).astype(np.uint8), np.ones((3, 3)))).astype(np.uint8)
    colours = np.array([_middle(calm, deep if (deep == k + 1).any() else labels, k + 1) for k in range(len(order))])
    cores = Cores(colours.reshape(-1, 3), areas[order].astype(float), labels, noise)
    return drop_blends(cores)


def _middle(rgb: Bytes, labels: Bytes, label: int) -> Floats:
    return np.rint(np.median(rgb[labels == label][:100_000], axis=0))


def _keep_compact(labels: Bytes, count: int) -> Bytes:
    """Clear the labels of inks with hardly a 3x3 square of their own: noise lies interleaved with its parent."""
    squares = (cv2.erode(labels, np.ones((3, 3))) == cv2.dilate(labels, np.ones((3, 3)))) & (labels > 0)
    own = np.bincount(labels[squares], minlength=count + 1)
    every = np.bincount(labels.ravel(), minlength=count + 1)
    weak = (own < 0.15 * every) | (own < 6)
    if weak[1:].all():
        return labels
    weak[0] = False
    return looked_up(np.where(weak, 0, np.arange(count + 1)), labels)
