"""Source coordinates on a prepared picture: points, boxes and strokes as pixels."""

from collections.abc import Sequence

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, ranges
from sketchloom.core.picture.picture import Picture
from sketchloom.core.picture.rows import Point, Stroke

__all__ = ["box_of", "inside_lines", "on_picture", "outline_mask", "source_points", "stroke_mask", "unit_at"]

_SHIFT = 4


def on_picture(picture: Picture, points: Sequence[Point]) -> Floats:
    """Source coordinates as px of a picture; (n, 2)."""
    here = np.column_stack([np.array(points, float), np.ones(len(points))]) @ np.linalg.inv(picture.source_of).T
    return here[:, :2] / here[:, 2:]


def source_points(picture: Picture, at: Floats, decimals: int = 6) -> list[Point]:
    """Px of a picture, (n, 2), as source coordinates."""
    there = np.column_stack([at, np.ones(len(at))]) @ picture.source_of.T
    return [(round(float(x / w), decimals), round(float(y / w), decimals)) for x, y, w in there]


def unit_at(picture: Picture, at: Floats | None = None) -> float:
    """Px of the picture that the opened picture's longer side is long, at a place in px or the middle."""
    x, y = (picture.width / 2, picture.height / 2) if at is None else at
    source = picture.source_of
    w = float(source[2] @ [x, y, 1.0])
    return float(1 / np.sqrt(max(abs(np.linalg.det(source) / w**3), 1e-18)))


def box_of(picture: Picture, first: Point, last: Point) -> tuple[int, int, int, int] | None:
    """Left, top, width, height in px of the upright rectangle between two source points; None if outside."""
    corners = on_picture(picture, [first, last])
    left, top = np.floor(np.maximum(corners.min(0), 0) + 1e-6).astype(int)
    right, bottom = np.ceil(np.minimum(corners.max(0), (picture.width, picture.height)) - 1e-6).astype(int)
    if right - left < 1 or bottom - top < 1:
        return None
    return int(left), int(top), int(right - left), int(bottom - top)


def stroke_mask(picture: Picture, strokes: Sequence[Stroke]) -> tuple[Bools, int]:
    """Draw strokes; gives the mask, (H, W), and how many of them lie outside."""
    mask = np.zeros((picture.height, picture.width), np.uint8)
    outside = 0
    for stroke in strokes:
        points = on_picture(picture, stroke.points)
        width = stroke.width * unit_at(picture, points.mean(0))
        if not _reaches(picture, points, width / 2):
            outside += 1
            continue
        _draw_stroke(mask, points, width / 2)
    return mask.view(bool), outside


def outline_mask(picture: Picture, points: Sequence[Point]) -> Bools | None:
    """Fill a closed line by the even-odd rule: pixels whose middle lies inside; (H, W), or None if there is none."""
    line = on_picture(picture, points)
    far = 4 * max(picture.width, picture.height)
    mask = inside_lines((picture.height, picture.width), [np.clip(line, -far, far)])
    return mask if mask.any() else None


def inside_lines(shape: tuple[int, int], lines: Sequence[Floats], corner: tuple[int, int] = (0, 0)) -> Bools:
    """Pixels whose middle lies inside closed lines, by the even-odd rule.

    Every crossing of a line with a row of middles flips what lies right of it.

    Parameters
    ----------
    shape : (int, int)
        Rows and columns that are looked at.
    lines : sequence of (n, 2) float
        px
    corner : (int, int)
        Column and row at which they begin.

    Returns
    -------
    (rows, columns) bool
    """
    height, width = shape
    left, top = corner
    flips = np.zeros((height, width + 1), np.uint8)
    for start in lines:
        end = np.roll(start, -1, 0)
        swap = (start[:, 1] > end[:, 1])[:, None]
        upper, lower = np.where(swap, end, start), np.where(swap, start, end)
        first = np.clip(np.ceil(upper[:, 1] - 0.5), top, top + height).astype(np.int64)
        last = np.clip(np.ceil(lower[:, 1] - 0.5), top, top + height).astype(np.int64)
        side = np.repeat(np.arange(len(start)), last - first)
        rows, _ = ranges(first, last - first)
        slope = (lower - upper)[side]
        x = upper[side, 0] + (rows + 0.5 - upper[side, 1]) * slope[:, 0] / slope[:, 1]
        np.add.at(flips, (rows - top, np.clip(np.ceil(x - 0.5) - left, 0, width).astype(np.int64)), 1)
    return (np.cumsum(flips[:, :-1], axis=1, dtype=np.uint8) & 1).view(bool)


def _draw_stroke(mask: Bytes, points: Floats, radius: float) -> None:
    """Draw a stroke with round ends; cv2 draws half a pixel beyond a line, and counts from pixels' middles."""
    far = 4 * max(mask.shape)
    middle = np.clip(points, -far, far) - 0.5
    radius = max(0.0, radius - 0.5)
    ahead = np.diff(middle, axis=0)
    length = np.linalg.norm(ahead, axis=1, keepdims=True)
    side = np.stack([-ahead[:, 1], ahead[:, 0]], 1) / np.maximum(length, 1e-9) * radius
    for start, end, out in zip(middle[:-1], middle[1:], side, strict=True):
        quad = np.rint(np.array([start + out, end + out, end - out, start - out]) * (1 << _SHIFT))
        cv2.fillConvexPoly(mask, quad.astype(np.int32), 1, cv2.LINE_8, _SHIFT)
    for x, y in np.rint(middle * (1 << _SHIFT)).astype(int).tolist():
        cv2.circle(mask, (x, y), round(radius * (1 << _SHIFT)), 1, -1, cv2.LINE_8, _SHIFT)


def _reaches(picture: Picture, points: Floats, radius: float) -> bool:
    low, high = points.min(0) - radius, points.max(0) + radius
    return bool((high > 0).all() and (low < (picture.width, picture.height)).all())
