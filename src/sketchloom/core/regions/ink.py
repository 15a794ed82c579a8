"""Separate an ink drawing: estimate the paper, divide by it, threshold."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bytes, Floats
from sketchloom.core.picture.paper import grain_of, otsu, paper_light
from sketchloom.core.progress import Tick, no_tick

__all__ = ["InkDrawing", "separate_ink"]


class InkDrawing(NamedTuple):
    """An ink drawing split from its paper."""

    labels: Bytes  # (H, W), 1 paper, 2 ink
    even: Bytes  # (H, W), grey with the paper at 255 and the split at 127.5
    threshold: float  # share of the paper's light, 0 to 1
    histogram: Floats  # (256,) of the evened grey


def separate_ink(evidence: Bytes, threshold: float | None, tick: Tick = no_tick) -> InkDrawing:
    """Split ink from paper.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque picture.
    threshold : float, optional
        Share of the paper's light below which a pixel is ink; None finds it.
    """
    grey: Bytes = cv2.cvtColor(evidence, cv2.COLOR_RGBA2GRAY).astype(np.uint8, copy=False)
    noise = grain_of(grey)
    if noise > 1.0:
        grey = cv2.GaussianBlur(grey, (0, 0), min(1.2, 0.5 + 0.15 * noise)).astype(np.uint8, copy=False)
    tick(0.2)
    paper = paper_light(grey)
    tick(0.6)
    even = np.clip(grey * (np.float32(250) / paper), 0, 255)
    histogram = np.bincount(np.rint(even).astype(np.uint8).ravel(), minlength=256).astype(float)
    if threshold is None:
        dark, light = _class_levels(histogram, otsu(histogram))
        split = (dark + light) / 2
        threshold = split / 250
    else:
        split = float(np.clip(threshold, 0.01, 0.99) * 250)
        dark, light = _class_levels(histogram, int(split))
    reach = max(4.0, min(split - dark, light - split) if dark < split < light else 40.0)
    even = np.clip(127.5 + (even - split) * (127.5 / reach), 0, 255)
    labels = np.where(even < 127.5, 2, 1).astype(np.uint8)
    tick(1.0)
    return InkDrawing(labels, np.rint(even).astype(np.uint8), threshold, histogram)


def _class_levels(histogram: Floats, last_dark: int) -> tuple[float, float]:
    level = np.arange(256)
    dark, light = histogram[: last_dark + 1], histogram[last_dark + 1 :]
    return (
        float((dark * level[: last_dark + 1]).sum() / max(1.0, dark.sum())),
        float((light * level[last_dark + 1 :]).sum() / max(1.0, light.sum())) if light.sum() else 255.0,
    )
