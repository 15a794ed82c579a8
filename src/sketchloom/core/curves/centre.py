"""Centre lines: open paths along strokes, with the stroke's width."""

import itertools
from typing import NamedTuple

import cv2
import numpy as np
from scipy.ndimage import binary_dilation, median_filter
from scipy.spatial import KDTree

from sketchloom.core.arrays import Bools, Floats
from sketchloom.core.curves.arcs import Piece, fit_lines
from sketchloom.core.regions.skeleton import thin

__all__ = ["Stroke", "centre_lines"]

_STRAIGHT_ON = 0.6
"""rad; two branches that bend less at a junction are one stroke."""
_SPUR = 1.1
"""Times the usual half width: a branch that leads no farther out is no stroke."""
_JUNCTION = 1.2
"""Times the half width: so near a junction the thinned line bends towards it."""
_LEAST = 3
_CLOSE = 0.1
_NARROWS = 0.88
_CORNER = 0.35
_EIGHT = ((-1, 0), (-1, 1), (0, 1), (1, 1), (1, 0), (1, -1), (0, -1), (-1, -1))


class Stroke(NamedTuple):
    """One line along the middle of a stroke.

    Attributes
    ----------
    piece : Piece
    closed : bool
    width : float
        Median, px or mm.
    widths : (n + 1,) float
        At each node.
    """

    piece: Piece
    closed: bool
    width: float
    widths: Floats


class _Branch(NamedTuple):
    """A thinned line between two knots (places in a list), or from an end (-1), or a ring (-2)."""

    points: Floats  # x, y of pixels' middles
    start: int
    stop: int


def centre_lines(mask: Bools, edges: Floats, tolerance: float) -> tuple[Stroke, ...]:
    """Find the lines along the middle of the strokes of a mask.

    The mask is thinned; spurs are pruned; near a junction the line is cut
    and drawn straight on; every point is then moved half way between the
    true edges on both its sides.

    Parameters
    ----------
    mask : (H, W) bool
    edges : (M, 2) float
        Sub-pixel samples of the mask's outline, px.
    tolerance : float
        px, of the fit.

    Returns
    -------
    tuple of Stroke
        px.

    References
    ----------
    .. [1] T. Y. Zhang and C. Y. Suen, "A fast parallel algorithm for thinning
       digital patterns", 1984.
    """
    if not mask.any() or len(edges) < 2:
        return ()
    rows, columns = np.flatnonzero(mask.any(1)), np.flatnonzero(mask.any(0))
    top, left = int(rows[0]), int(columns[0])
    part = np.pad(mask[top : rows[-1] + 1, left : columns[-1] + 1], 1)
    half = np.asarray(cv2.distanceTransform(part.astype(np.uint8), cv2.DIST_L2, 5), np.float64)
    branches, knots = _branches(thin(part))
    reach = [float(half[int(y), int(x)]) for x, y in knots]
    branches = _pruned(branches, knots, reach, half)
    branches, knots, reach = _gathered(branches, knots, reach)
    lines = _strung(branches, knots, reach, part)
    origin = np.array([left - 1 + 0.5, top - 1 + 0.5])
    tree = KDTree(edges)
    found, closed, widths = [], [], []
    for points, ring, meets in lines:
        line = _evenly(points + origin, ring)
        if len(line) < _LEAST:
            continue
        line, width = _between_edges(line, ring, meets, tree)
        if not ring:
            for at_stop in (False, True):
                if not meets[at_stop]:
                    line, width = _to_its_end(line, width, at_stop, tree, mask)
        found.append(line)
        closed.append(ring)
        widths.append(width)
    if not found:
        return ()
    pieces = fit_lines(found, closed, max(tolerance, _CLOSE))
    return tuple(
        Stroke(piece, ring, float(np.median(width)), _at_nodes(piece, line, width))
        for piece, ring, line, width in zip(pieces, closed, found, widths, strict=True)
    )


def _at_nodes(piece: Piece, line: Floats, width: Floats) -> Floats:
    nodes = np.vstack([piece.control[:, 0], piece.control[-1:, 3]])
    return np.asarray(width[KDTree(line).query(nodes)[1]])


def _branches(line: Bools) -> tuple[list[_Branch], list[Floats]]:
    """Walk along a thinned mask from knot to knot; knots are clusters of pixels where lines meet."""
    around = [np.roll(line, (-dy, -dx), (0, 1)) for dy, dx in _EIGHT]
    turns = sum((~around[i] & around[(i + 1) % 8]).astype(np.int8) for i in range(8))
    meets = line & (np.asarray(turns) >= 3)
    count, label, _, middle = cv2.connectedComponentsWithStats(meets.astype(np.uint8), connectivity=8)
    knots = [np.asarray(middle[i]) for i in range(1, count)]
    rest = {(int(x), int(y)) for y, x in zip(*np.nonzero(line & ~meets), strict=True)}
    out: list[_Branch] = []

    def knot_at(x: int, y: int) -> int:
        return int(label[y, x]) - 1

    def walk(x: int, y: int, came: int) -> _Branch:
        points = [(x, y)]
        rest.discard((x, y))
        while True:
            # straight neighbours first, so that stairs are walked pixel by pixel
            near = [(x + dx, y + dy) for dy, dx in sorted(_EIGHT, key=lambda s: abs(s[0]) + abs(s[1]))]
            onward = [place for place in near if place in rest]
            ends = [knot_at(*place) for place in near if meets[place[1], place[0]]]
            ends = [knot for knot in ends if knot != came or len(points) > 3]
            if ends and (not onward or len(points) > 1 or came >= 0):
                return _Branch(np.array(points, float), came, ends[0])
            if not onward:
                return _Branch(np.array(points, float), came, -1)
            x, y = onward[0]
            rest.discard((x, y))
            points.append((x, y))

    for y, x in zip(*np.nonzero(meets), strict=True):
        for dy, dx in _EIGHT:
            if (int(x + dx), int(y + dy)) in rest:
                out.append(walk(int(x + dx), int(y + dy), knot_at(int(x), int(y))))
    ends = np.asarray(sum(part.astype(np.int8) for part in around))
    for y, x in zip(*np.nonzero(line & ~meets & (ends <= 1)), strict=True):
        if (int(x), int(y)) in rest:
            out.append(walk(int(x), int(y), -1))
    while rest:  # rings
        start = min(rest)
        ring = walk(*start, -1)
        out.append(ring._replace(start=-2, stop=-2) if len(ring.points) > 3 else ring)
    return out, knots


def _pruned(branches: list[_Branch], knots: list[Floats], reach: list[float], half: Floats) -> list[_Branch]:
    """Drop branches that end free and hardly leave the width of what they hang on.

    At the blunt end of a stroke there are two, one to each corner. Where
    only such branches meet there is a dot, and the longest stays.
    """
    kept = list(branches)
    every = np.concatenate([b.points for b in branches]).astype(int) if branches else np.zeros((0, 2), int)
    usual = float(np.median(half[every[:, 1], every[:, 0]])) if len(every) else 0.0
    while True:
        at: dict[int, list[_Branch]] = {}
        for b in kept:
            for knot in {b.start, b.stop} - {-1, -2}:
                at.setdefault(knot, []).append(b)
        gone: list[_Branch] = []
        for knot, here in at.items():
            short = [
                b for b in here if min(b.start, b.stop) == -1 and _is_spur(b, knots[knot], reach[knot], half, usual)
            ]
            if len(here) + sum(b.start == b.stop for b in here) < 3:
                continue
            if len(short) == len(here):
                longest = max(short, key=lambda b: (len(b.points), b.points[0].tolist()))
                short = [b for b in short if b is not longest]
            gone += short
        if not gone:
            return kept
        kept = [b for b in kept if not any(b is other for other in gone)]


def _is_spur(branch: _Branch, knot: Floats, reach: float, half: Floats, usual: float) -> bool:
    """Whether a branch hardly leads out of the widest circle about its knot."""
    tip = branch.points[0] if branch.start == -1 else branch.points[-1]
    beyond = float(np.hypot(*(tip - knot))) + float(half[int(tip[1]), int(tip[0])]) - reach
    return beyond < _SPUR * usual


def _gathered(
    branches: list[_Branch], knots: list[Floats], reach: list[float]
) -> tuple[list[_Branch], list[Floats], list[float]]:
    """Make one knot of those that lie within one another's reach, as where a slanting line crosses a thick one."""
    own = list(range(len(knots)))

    def first(knot: int) -> int:
        while own[knot] != knot:
            knot = own[knot]
        return knot

    for b in branches:
        if min(b.start, b.stop) >= 0 and b.start != b.stop:
            near = np.hypot(*(knots[b.start] - knots[b.stop])) <= max(reach[b.start], reach[b.stop])
            if near and len(b.points) <= 1.5 * max(reach[b.start], reach[b.stop]):
                own[first(b.stop)] = first(b.start)
    groups: dict[int, list[int]] = {}
    for knot in range(len(knots)):
        groups.setdefault(first(knot), []).append(knot)
    number = {knot: place for place, group in enumerate(groups.values()) for knot in group}
    middles = [np.mean([knots[knot] for knot in group], axis=0) for group in groups.values()]
    reaches = [max(reach[knot] for knot in group) for group in groups.values()]
    kept = []
    for b in branches:
        start, stop = (number.get(knot, knot) for knot in (b.start, b.stop))
        short = len(b.points) <= 1.5 * reaches[start] if start >= 0 else False
        if not (start >= 0 and start == stop and b.start != b.stop and short):
            kept.append(b._replace(start=start, stop=stop))
    return kept, middles, reaches


class _Line(NamedTuple):
    """Branches strung together."""

    points: Floats
    ring: bool
    meets: tuple[bool, bool]  # whether its two ends lie where it meets another


class _Tip(NamedTuple):
    """One end of a branch at a knot."""

    branch: int
    at_stop: bool
    place: Floats  # where the branch still runs true
    way: Floats  # unit, towards the knot


def _tip(number: int, points: Floats, at_stop: bool, reach: float, middle: Floats) -> _Tip:
    order = points[::-1] if at_stop else points
    clear = np.flatnonzero(np.hypot(*(order - middle).T) > _JUNCTION * reach)
    begin = int(clear[0]) if len(clear) else len(order) - 1
    run = order[begin : begin + max(5, int(2 * reach))]
    if len(run) < 2:
        run = order
    axis = np.linalg.svd(run - run.mean(0))[2][0] if len(run) > 1 else np.array([1.0, 0.0])
    if axis @ (middle - run.mean(0)) < 0:
        axis = -axis
    foot = run.mean(0) + axis * ((order[begin] - run.mean(0)) @ axis)
    return _Tip(number, at_stop, foot, axis)


def _strung(branches: list[_Branch], knots: list[Floats], reach: list[float], mask: Bools) -> list[_Line]:
    """Draw lines straight through knots, two branches at a time; the others end there."""
    tips: dict[int, list[_Tip]] = {k: [] for k in range(len(knots))}
    trimmed = [b.points for b in branches]
    for number, b in enumerate(branches):
        for at_stop, knot in ((False, b.start), (True, b.stop)):
            if knot >= 0:
                tips[knot].append(_tip(number, b.points, at_stop, reach[knot], knots[knot]))
    ends: dict[tuple[int, bool], tuple[int, bool] | Floats] = {}
    for knot, here in tips.items():
        blunt = len(here) == 1
        meet = _blunt_end(here[0], mask) if blunt else _meeting(here, knots[knot], reach[knot])
        pairs = sorted(
            (float(np.arccos(np.clip(-(a.way @ b.way), -1, 1))), i, j)
            for i, a in enumerate(here)
            for j, b in enumerate(here[:i])
        )
        taken: set[int] = set()
        for bend, i, j in pairs:
            through = bend < _STRAIGHT_ON or len(here) == 2
            if through and i not in taken and j not in taken:
                taken |= {i, j}
                ends[here[i].branch, here[i].at_stop] = here[j].branch, here[j].at_stop
                ends[here[j].branch, here[j].at_stop] = here[i].branch, here[i].at_stop
        for i, tip in enumerate(here):
            if i not in taken:
                ends[tip.branch, tip.at_stop] = meet
    for knot, here in tips.items():
        for tip in here:
            points = trimmed[tip.branch]
            far = np.hypot(*(points - knots[knot]).T) > _JUNCTION * reach[knot]
            if far.any():
                trimmed[tip.branch] = points[far] if not far.all() else points
    return _chained(branches, trimmed, ends)


def _blunt_end(tip: _Tip, mask: Bools) -> Floats:
    """Where a stroke without a round end reaches its edge."""
    at = tip.place
    while True:
        on = at + 0.25 * tip.way
        x, y = np.rint(on).astype(int)
        if not (0 <= y < mask.shape[0] and 0 <= x < mask.shape[1] and mask[y, x]):
            return np.asarray(at)
        at = on


def _meeting(tips: list[_Tip], knot: Floats, reach: float) -> Floats:
    """Where the lines of some branches come closest together, near their knot."""
    matrix, right = 1e-3 * np.eye(2), 1e-3 * knot
    for tip in tips:
        across = np.eye(2) - np.outer(tip.way, tip.way)
        matrix, right = matrix + across, right + across @ tip.place
    place = np.linalg.solve(matrix, right)
    return place if np.hypot(*(place - knot)) < 1.5 * reach + 1 else knot


def _chained(
    branches: list[_Branch], points: list[Floats], ends: dict[tuple[int, bool], tuple[int, bool] | Floats]
) -> list[_Line]:
    used: set[int] = set()
    out: list[_Line] = []

    def follow(number: int, from_start: bool) -> tuple[list[Floats], bool]:
        """Branches from one end on; and whether they come back to it."""
        parts: list[Floats] = []
        here, forwards = number, from_start
        while True:
            used.add(here)
            parts.append(points[here] if forwards else points[here][::-1])
            then = ends.get((here, forwards))
            if not isinstance(then, tuple):
                if then is not None:
                    parts.append(np.asarray(then)[None])
                return parts, False
            if then[0] in used:
                return parts, then[0] == number
            here, forwards = then[0], not then[1]

    for number, b in enumerate(branches):
        if number not in used and b.start == -2:
            used.add(number)
            out.append(_Line(points[number], True, (False, False)))
    starts = [(n, at_stop) for n in range(len(branches)) for at_stop in (False, True)]
    for number, at_stop in sorted(starts, key=lambda s: isinstance(ends.get(s), tuple)):
        if number in used:
            continue
        begin = ends.get((number, at_stop))
        closed_chain = isinstance(begin, tuple)
        parts, ring = follow(number, not at_stop)
        if isinstance(begin, np.ndarray):
            parts.insert(0, begin[None])
        meets = isinstance(begin, np.ndarray), len(parts[-1]) == 1 and not ring
        out.append(_Line(np.concatenate(parts), ring and closed_chain, meets))
    return out


def _evenly(points: Floats, ring: bool) -> Floats:
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


def _between_edges(line: Floats, ring: bool, meets: tuple[bool, bool], tree: KDTree) -> tuple[Floats, Floats]:
    """Move points half way between the edges on both sides; and how far those are apart.

    Where a stroke bends sharply or another joins it the edges say nothing
    about its middle; there the line runs straight on from both sides.
    """
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
    if fair.sum() < _LEAST:
        return line, width
    fair = ~binary_dilation(~fair, iterations=2 + int(reach / 2)) if fair.sum() > 6 * reach else fair
    for meeting, tip in zip(meets, (line[0], line[-1]), strict=True):
        if meeting:
            fair &= np.hypot(*(line - tip).T) > _JUNCTION * reach
    return _mended(line, width, fair, ring, reach, tree)


def _to_its_end(line: Floats, width: Floats, at_stop: bool, tree: KDTree, mask: Bools) -> tuple[Floats, Floats]:
    """Lengthen a line to the middle of its round end, which thinning does not reach, or all the way to a blunt one.

    Along a stroke the edge stays half the width away; beyond the middle of
    the end it comes nearer. A blunt end has corners.
    """
    if not at_stop:
        line, width = _to_its_end(line[::-1], width[::-1], True, tree, mask)
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
    return (line[:-outside], width[:-outside]) if outside and len(line) - outside > _LEAST else (line, width)


def _mended(line: Floats, width: Floats, fair: Bools, ring: bool, reach: float, tree: KDTree) -> tuple[Floats, Floats]:
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


def _across(gap: Floats, before: Floats, after: Floats, reach: float, tree: KDTree) -> Floats:
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
