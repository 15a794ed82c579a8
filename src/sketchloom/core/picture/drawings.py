"""Find the separate drawings on a page."""

import cv2
import numpy as np

from sketchloom.core.arrays import Bools
from sketchloom.core.picture.paper import paper_light
from sketchloom.core.picture.picture import Picture, reduce_picture
from sketchloom.core.picture.rows import Point

__all__ = ["find_drawings"]

_PIXELS = 250_000
_GAP = 0.025
_LEAST = 0.05
_MARGIN = 0.012
_MOST = 60
_FULL = 0.6
_RIM = 0.02

Box = tuple[int, int, int, int]


def find_drawings(picture: Picture) -> tuple[tuple[Point, Point], ...]:
    """Find drawings that stand apart on one page, in reading order.

    What lies nearer together than a fortieth of the page belongs together;
    what is smaller than a twentieth of it is no drawing.

    Returns
    -------
    tuple of (top left, bottom right)
        Source coordinates; empty if there are fewer than two.
    """
    small, _ = reduce_picture(picture, _PIXELS)
    drawn = _drawn(small)
    longer = max(small.width, small.height)
    if drawn.mean() > _FULL:
        return ()
    gap = 2 * round(_GAP * longer / 2) + 1
    joined = cv2.dilate(drawn.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (gap, gap)))
    _, parts = cv2.connectedComponents(joined, connectivity=8)
    boxes = _boxes(np.where(drawn, parts, 0))
    margin = _MARGIN * longer
    boxes = [box for box in _united(boxes, margin) if max(box[2] - box[0], box[3] - box[1]) >= _LEAST * longer]
    if not 2 <= len(boxes) <= _MOST:
        return ()
    found = []
    for left, top, right, bottom in _in_reading_order(boxes):
        first = max(0.0, left - margin), max(0.0, top - margin)
        last = min(float(small.width), right + margin), min(float(small.height), bottom + margin)
        found.append((_source_point(small, *first), _source_point(small, *last)))
    return tuple(found)


def _source_point(picture: Picture, x: float, y: float) -> Point:
    u, v, w = (picture.source_of @ [x, y, 1.0]).tolist()
    return round(u / w, 5), round(v / w, 5)


def _drawn(picture: Picture) -> Bools:
    """What differs from the paper, in lightness or colour; grain and frames left out."""
    alpha = picture.rgba[..., 3:].astype(np.float32) / 255
    rgb = picture.rgba[..., :3] * alpha + 255 * (1 - alpha)
    grey = cv2.cvtColor(np.rint(rgb).astype(np.uint8), cv2.COLOR_RGB2GRAY).astype(np.uint8, copy=False)
    paper = paper_light(grey)
    even = rgb / paper[..., None]
    rim = max(1, round(_RIM * max(picture.width, picture.height)))
    border = [even[:rim], even[-rim:], even[:, :rim].swapaxes(0, 1), even[:, -rim:].swapaxes(0, 1)]
    ground = np.median(np.concatenate([part.reshape(-1, 3) for part in border]), axis=0)
    apart = cv2.blur(np.abs(even - ground).max(2), (3, 3))
    strong = (apart > 0.16).astype(np.uint8)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(strong, connectivity=8)
    wide, high = stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT]
    kept = stats[:, cv2.CC_STAT_AREA] > 8
    kept &= (wide < 0.97 * picture.width) | (high < 0.97 * picture.height)
    kept[0] = False
    return kept[parts] if count > 1 else np.zeros(strong.shape, bool)


def _boxes(parts: np.ndarray) -> list[Box]:
    """Left, top, right, bottom of every part but 0."""
    order = np.unique(parts[parts > 0])
    boxes = []
    for part in order.tolist():
        rows, columns = np.nonzero((parts == part).any(1))[0], np.nonzero((parts == part).any(0))[0]
        boxes.append((int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1))
    return boxes


def _united(boxes: list[Box], margin: float) -> list[Box]:
    """Unite boxes that overlap once they have their margins: each would take a part of the other."""
    left = sorted(boxes)
    done: list[Box] = []
    while left:
        box = left.pop()
        for other in done:
            across = min(box[2], other[2]) - max(box[0], other[0])
            down = min(box[3], other[3]) - max(box[1], other[1])
            if across > -2 * margin and down > -2 * margin:
                done.remove(other)
                left.append(
                    (min(box[0], other[0]), min(box[1], other[1]), max(box[2], other[2]), max(box[3], other[3]))
                )
                break
        else:
            done.append(box)
    return done


def _in_reading_order(boxes: list[Box]) -> list[Box]:
    """Line by line: a box whose middle lies above the line's lowest edge belongs to the line."""
    rest = sorted(boxes, key=lambda b: b[1])
    lines: list[list[Box]] = []
    for box in rest:
        if lines and (box[1] + box[3]) / 2 < min(b[3] for b in lines[-1]):
            lines[-1].append(box)
        else:
            lines.append([box])
    return [box for line in lines for box in sorted(line)]
