"""What is cleared: the ground, told from the inks."""

from typing import Literal, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints
from sketchloom.core.colour import name_of
from sketchloom.core.palette import Ink
from sketchloom.core.picture import Picture
from sketchloom.core.regions.tones import Tones

__all__ = ["Ground", "clear_ground", "ground_key", "subject_box"]

_BAND = 4_000_000
_ONE_COLOUR_BORDER = 0.97
_SPECK = 4
"""Px; an enclosed piece of the ground's colour no larger than this is no ink of its own."""


_EVEN = 24
"""8-bit steps; a border whose pixels lie no farther from their middle is of one colour."""


class Ground(NamedTuple):
    """What is cleared."""

    tone: int | None
    everywhere: bool  # all of that tone, not only what reaches the border
    cleared: Bools | None  # (H, W)
    left: Floats  # (K,) pixels of each tone that stay
    shown: Ink | None  # the colour that was cleared


def clear_ground(tones: Tones, ground: Literal["auto", "keep"], decided: Ground | None = None) -> Ground:
    """Tell the ground from the inks.

    Clear pixels are ground; else the tone of a border of one colour. With
    several inks only what hangs together with the border is cleared, as an
    enclosed area of its colour may be meant.

    Parameters
    ----------
    tones : Tones
    ground : {'auto', 'keep'}
    decided : Ground, optional
        Of the full picture, when `tones` are those of its reduced preview.
    """
    if decided:
        tone, everywhere = decided.tone, decided.everywhere
    else:
        tone = _ground_tone(tones, ground)
        everywhere = tones.clear is not None or tones.mode in ("ink", "lineart") or len(tones.mix) <= 2
    cleared = _cleared(tones.labels, tone, everywhere)
    left = _counts(tones.labels)[1 : len(tones.mix) + 1]
    if tone is not None and cleared is not None:
        left[tone] -= np.count_nonzero(cleared)
    shown = None
    if tone is not None and tones.clear is None:
        colour = tones.found[tone]
        shown = Ink(tones.keys[tone], name_of(colour), colour, colour, "ground")
    return Ground(tone, everywhere, cleared, left, shown)


def ground_key(ground: Ground) -> str:
    """Key of the colour that was cleared; empty where what is clear has none."""
    return ground.shown.key if ground.shown is not None else ""


def subject_box(picture: Picture, keep_ground: bool) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of what is no ground, from the picture alone, before its tones are known; px.

    Clear pixels are ground; else a border of one colour and all that has it.
    """
    whole = 0, 0, picture.width, picture.height
    if keep_ground:
        return whole
    if not picture.opaque:
        subject = picture.rgba[..., 3] > 127
    else:
        rgb = picture.rgba[..., :3]
        border = np.concatenate([rgb[0], rgb[-1], rgb[:, 0], rgb[:, -1]])
        middle = np.median(border, axis=0)
        if (np.abs(border - middle).max(1) <= _EVEN).mean() < _ONE_COLOUR_BORDER:
            return whole
        low, high = np.clip(middle - _EVEN, 0, 255), np.clip(middle + _EVEN, 0, 255)
        subject = cv2.inRange(np.ascontiguousarray(rgb), low, high) == 0
    rows, columns = np.flatnonzero(subject.any(1)), np.flatnonzero(subject.any(0))
    if not len(rows):
        return whole
    return int(columns[0]), int(rows[0]), int(columns[-1] + 1), int(rows[-1] + 1)


def _counts(labels: Bytes) -> Floats:
    """How often each label occurs; (256,). Its counts are float32, which is exact in bands of a few million."""
    total = np.zeros(256)
    band = max(1, _BAND // max(1, labels.shape[1]))
    for top in range(0, len(labels), band):
        total += cv2.calcHist([labels[top : top + band]], [0], None, [256], [0, 256]).ravel()
    return total


def _ground_tone(tones: Tones, ground: str) -> int | None:
    if ground == "keep":
        return None
    if tones.mode in ("ink", "lineart"):
        return 0
    if tones.clear is not None:
        return tones.clear
    labels = tones.labels
    counts = np.bincount(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    label = int(np.argmax(counts))
    return label - 1 if counts[label] >= _ONE_COLOUR_BORDER * counts.sum() else None


def _cleared(labels: Bytes, ground_tone: int | None, everywhere: bool) -> Bools | None:
    """Pixels of the ground's tone: all, or those that hang together with the border (4-connected)."""
    if ground_tone is None:
        return None
    ground: Bools = labels == ground_tone + 1
    if everywhere:
        return ground
    count, parts = cv2.connectedComponents(ground.view(np.uint8), connectivity=4)
    border: Ints = np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]])
    touched = np.zeros(count, bool)
    touched[border] = True
    touched |= np.bincount(parts.ravel(), minlength=count) <= _SPECK
    touched[0] = False
    if touched.sum() == count - 1:
        return ground
    return touched[parts]
