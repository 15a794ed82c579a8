"""Lines settled half way between the true edges on both their sides."""

import itertools
from typing import Any

import numpy as np

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.centre.strung import JUNCTION

__all__ = ["LEAST", "between_edges", "evenly", "to_its_end"]

LEAST = 3
"""Points of a line that is worth one."""
_NARROWS = 0.88
"""Part of the half width at which a stroke ends."""
_CORNER = 0.35
"""rad; two runs that turn more meet in a corner."""


def evenly(points: Floats, ring: bool) -> Floats:
    """Points about a pixel apart along a line, the stairs of pixels smoothed."""
    line = np.vstack([points, points[:1]]) if ring else points
    for _ in range(3):
        middle = (line[:-2] + 2 * line[1:-1] + line[2:]) / 4
        line = np.vstack([line[:1], middle, line[-1:]])
    along = np.append(0, np.cumsum(np.hypot(*np.diff(line, axis=0).T)))
    count = max(2, round(along[-1]) + 1)
    at = np.linspace(0, along[-1], count)
    even = np.stack([np.interp(at, along, line[:, axis]) for axis in (0, 1)], 1)
    return np.asarray(even[:-1] if ring else even)


def between_edges(line: Floats, ring: bool, meets: tuple[bool, bool], tree: Any) -> tuple[Floats, Floats]:
    """Move points half way between the edges on both sides; and how far those are apart.

    Where a stroke bends sharply or another joins it the edges say nothing
    about its middle; there the line runs straight on from both sides.
    """
    from scipy.ndimage import binary_dilation, median_filter  # only centre lines need them

    around = "wrap" if ring else "nearest"
    own = tree.query(line)[0]
    reach = float(np.median(own))
    half = median_filter(own, 9, mode=around)
    fair = np.ones(len(line), bool)
    for _ in range(3):
        way = _ways(line, ring)
        across = np.stack([-way[:, 1], way[:, 0]], 1)
        a, b = (tree.query(line + sign * across * half[:, None] / 2)[0] for sign in (1, -1))
        width = a + b + half
        usual = median_filter(width, 2 * int(3 * reach) + 1, mode=around)
        fair = (np.abs(a - b) < np.maximum(1.5, 0.25 * half)) & (width < 1.06 * usual + 0.2)
        line = line + np.where(fair, np.clip((a - b) / 2, -1.0, 1.0), 0.0)[:, None] * across
        width = np.where(fair, width, usual)
    if fair.sum() < LEAST:
        return line, width
    fair = ~binary_dilation(~fair, iterations=2 + int(reach / 2)) if fair.sum() > 6 * reach else fair
    for meeting, tip in zip(meets, (line[0], line[-1]), strict=True):
        if meeting:
            fair &= np.hypot(*(line - tip).T) > JUNCTION * reach
    return _mended(line, width, fair, ring, reach, tree)


def to_its_end(line: Floats, width: Floats, at_stop: bool, tree: Any, mask: Bools) -> tuple[Floats, Floats]:
    """Lengthen a line to the middle of its round end, which thinning does not reach, or all the way to a blunt one.

    Along a stroke the edge stays half the width away; beyond the middle of
    the end it comes nearer. A blunt end has corners.
    """
    if not at_stop:
        line, width = to_its_end(line[::-1], width[::-1], True, tree, mask)
        return line[::-1], width[::-1]
    span = max(6, int(np.median(width) / 2))
    half = float(np.median(width[-3 * span :])) / 2
    thin = tree.query(line)[0] < _NARROWS * half
    tail = int(np.argmin(thin[::-1])) if not thin.all() else 0
    if 0 < tail <= 1.5 * half and tail + 6 < len(line):  # it turned aside into a corner; a longer tail tapers
        line, width = line[:-tail], width[:-tail]
    run = line[-span:]
    way = _axis(run)
    steps = np.arange(0.25, 3 * half, 0.25)[:, None] * way + line[-1]
    near = tree.query(steps)[0] < half - 0.1
    count = int(np.argmax(near)) if near.any() else 0
    middle = steps[count - 1] if count else line[-1]
    across = np.array([-way[1], way[0]])
    corners = np.array([middle + half * (0.7 * way + side * 0.8 * across) for side in (-1, 1)])
    x, y = np.floor(corners).astype(int).T
    inside = (x >= 0) & (y >= 0) & (x < mask.shape[1]) & (y < mask.shape[0])
    if inside.all() and mask[y, x].all():
        count += int(half / 0.25)
    more = steps[:count][3::4]
    line, width = np.vstack([line, more]), np.append(width, np.full(len(more), 2 * half))
    x, y = np.clip(np.floor(line), 0, (mask.shape[1] - 1, mask.shape[0] - 1)).astype(int).T
    outside = int(np.argmax(mask[y, x][::-1]))
    return (line[:-outside], width[:-outside]) if outside and len(line) - outside > LEAST else (line, width)


def _mended(line: Floats, width: Floats, fair: Bools, ring: bool, reach: float, tree: Any) -> tuple[Floats, Floats]:
    """Draw the line anew where it is not to be trusted: straight on to where both sides meet, or across."""
    if fair.all() or not fair.any():
        return line, width
    if ring:
        begin = int(np.argmax(fair))
        line, width, fair = np.roll(line, -begin, axis=0), np.roll(width, -begin), np.roll(fair, -begin)
    edge = np.flatnonzero(np.diff(fair.astype(np.int8)))
    bounds = [0, *(edge + 1).tolist(), len(line)]
    parts: list[Floats] = []
    widths: list[Floats] = []
    for low, high in itertools.pairwise(bounds):
        if fair[low]:
            parts.append(line[low:high])
            widths.append(width[low:high])
            continue
        before = line[max(0, low - max(6, int(reach))) : low]
        after = line[high : high + max(6, int(reach))]
        if ring and high == len(line):
            after = line[: max(6, int(reach))]
        parts.append(_across(line[low:high], before, after, reach, tree))
        beside = np.append(width[max(0, low - len(before)) : low], width[high : high + len(after)])
        widths.append(np.full(len(parts[-1]), float(np.median(beside if len(beside) else width))))
    return np.concatenate(parts), np.concatenate(widths)


def _across(gap: Floats, before: Floats, after: Floats, reach: float, tree: Any) -> Floats:
    """Points about a pixel apart over a gap between two runs of points; either run may be missing."""
    if len(before) < 3 and len(after) < 3:
        return gap
    if len(before) < 3 or len(after) < 3:  # the end of a line: straight on, as far as it went
        run, tip = (before, gap[-1]) if len(before) >= 3 else (after[::-1], gap[0])
        way = _axis(run)
        stop = run[-1] + way * max(0.0, float((tip - run[-1]) @ way))
        out = _steps(run[-1], stop)
        return out if len(before) >= 3 else out[::-1]
    start, end = before[-1], after[0]
    ahead, behind = _axis(before), _axis(after)
    turn = float(np.arccos(np.clip(ahead @ behind, -1, 1)))
    if turn > _CORNER:
        matrix = np.stack([ahead, -behind], 1)
        if abs(np.linalg.det(matrix)) > 0.1:
            along = np.linalg.solve(matrix, after.mean(0) - before.mean(0))
            corner = before.mean(0) + along[0] * ahead
            near = max(np.hypot(*(corner - start)), np.hypot(*(corner - end))) < 4 * reach + 2
            if near and tree.query(corner)[0] > reach / 2:
                return np.vstack([_steps(start, corner), corner[None], _steps(corner, end)])
    return _steps(start, end)


def _axis(run: Floats) -> Floats:
    """Direction of a run of points; unit."""
    axis = np.linalg.svd(run - run.mean(0))[2][0]
    return np.asarray(axis if axis @ (run[-1] - run[0]) >= 0 else -axis)


def _steps(start: Floats, end: Floats) -> Floats:
    """Points about a pixel apart between two others, which are left out."""
    count = max(0, round(float(np.hypot(*(end - start)))) - 1)
    share = (np.arange(count) + 1)[:, None] / (count + 1)
    return np.asarray(start + share * (end - start))


def _ways(line: Floats, ring: bool) -> Floats:
    """Unit direction along a line at each point, over seven of them."""
    count = len(line)
    place = np.arange(count)
    back, ahead = place - 3, place + 3
    if ring:
        back, ahead = back % count, ahead % count
    else:
        back, ahead = np.maximum(back, 0), np.minimum(ahead, count - 1)
    way = line[ahead] - line[back]
    return np.asarray(way / np.maximum(np.hypot(*way.T), 1e-9)[:, None])
