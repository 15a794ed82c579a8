"""A drawing on a page that lies on something: only the page counts."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats
from sketchloom.core.picture.straighten import find_page
from sketchloom.core.regions.evidence import nearest_of

__all__ = ["page_alone"]

_UNLIKE = 12.0
"""8-bit steps between a table and the strokes on the page; else it may be a field of their ink."""
_MARGIN = 0.006
"""Of the longer side, inside the page's edges, that is left out: the edge's own shade."""


def page_alone(evidence: Bytes) -> Bytes | None:
    """Carry a page's colours on over what it lies on; None where no page is found, or the frame may be drawn.

    Parameters
    ----------
    evidence : (H, W, 4) uint8
        Opaque.
    """
    corners = find_page(evidence)
    if corners is None:
        return None
    inside = _within(corners, evidence.shape[:2])
    if not inside.any() or inside.all() or not _is_no_ink(evidence, inside):
        return None
    return nearest_of(evidence, inside)


def _within(corners: Floats, shape: tuple[int, ...]) -> Bools:
    middle = corners.mean(0)
    drawn_in = _MARGIN * max(shape)
    way = middle - corners
    at = corners + way / np.maximum(np.hypot(*way.T), 1.0)[:, None] * drawn_in * 2**0.5
    mask = np.zeros(shape, np.uint8)
    cv2.fillConvexPoly(mask, np.rint(at).astype(np.int32), 1)
    return mask > 0


def _is_no_ink(evidence: Bytes, inside: Bools) -> bool:
    """Whether what lies round the page is lighter or darker than its strokes."""
    light = evidence[..., :3].mean(2)
    return abs(float(np.median(light[~inside])) - float(np.percentile(light[inside], 1))) > _UNLIKE
