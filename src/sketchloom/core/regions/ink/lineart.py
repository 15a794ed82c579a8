"""Line art to colour in: a face for every area that strokes enclose, and the leaks between them."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, connected_parts
from sketchloom.core.palette import Colour
from sketchloom.core.picture import Picture, on_picture, unit_at
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.ink.drawing import InkDrawing
from sketchloom.core.regions.ink.skeleton import loose_ends
from sketchloom.core.regions.settings import Closing, Fill

__all__ = ["FILLS", "Areas", "Leak", "enclosed_areas", "find_leaks", "proposed_fills", "with_closings", "with_fills"]

FILLS: tuple[Colour, ...] = (
    (242, 199, 92), (140, 190, 214), (124, 165, 104), (224, 122, 95),
    (244, 222, 200), (176, 148, 196), (181, 131, 90), (233, 164, 184),
)  # fmt: skip
"""Colours that a first colouring takes, in order."""

_GAP = 6.0
"""Widest leak in stroke widths, where none is set."""
_FACING, _STRAY = 0.45, 0.25
"""Widest leak as part of the root of the area behind it: where two ends face each other; where one faces a stroke."""
_CONE = 0.5
"""Cosine of the widest angle between a stroke and the closing that goes on from it."""
_MOST_ENDS = 2000
_MOST_TURNS = 3
"""Times that ends which a closing parts nothing at look for another."""
_LINE_PIXELS = 400_000
_LEAST_AREA = 12
_LIKE_AREA, _LIKE_SHAPE = 1.2, 0.12
_MIRRORED = 0.03
_MOST_ALIKE = 1500
"""More areas than this are a texture; each has a colour of its own."""


class Leak(NamedTuple):
    """Where an outline is open: a gap between a stroke's end and another end, or a stroke."""

    first: Floats  # (2,) px
    last: Floats  # (2,) px
    width: float  # of the strokes, px

    @property
    def length(self) -> float:
        """Px that are open."""
        return float(np.hypot(*(self.last - self.first)))


class Areas(NamedTuple):
    """Paper that strokes enclose."""

    parts: Ints  # (H, W), 1 + area, 0 elsewhere
    size: Ints  # (A,) px
    middle: Floats  # (A, 2) px


def with_closings(drawing: InkDrawing, picture: Picture, closings: tuple[Closing, ...]) -> InkDrawing:
    """Close leaks with strokes of ink."""
    if not closings:
        return drawing
    even = drawing.even.astype(np.float32)
    for closing in closings:
        ends = on_picture(picture, [closing.first, closing.last])
        _draw(even, ends, closing.width * unit_at(picture, ends.mean(0)) / 2)
    labels = np.where(even < 127.5, 2, 1).astype(np.uint8)
    return drawing._replace(even=np.rint(even).astype(np.uint8), labels=labels)


def _draw(even: Floats, ends: Floats, radius: float) -> None:
    """Lay a stroke with round ends into evened grey, soft over a pixel."""
    height, width = even.shape
    low = np.clip(np.floor(ends.min(0) - radius - 2).astype(int), 0, (width, height))
    high = np.clip(np.ceil(ends.max(0) + radius + 2).astype(int), 0, (width, height))
    if (high <= low).any():
        return
    y, x = np.mgrid[low[1] : high[1], low[0] : high[0]] + 0.5
    ahead = ends[1] - ends[0]
    along = ((x - ends[0, 0]) * ahead[0] + (y - ends[0, 1]) * ahead[1]) / max(1e-9, float(ahead @ ahead))
    along = np.clip(along, 0, 1)
    off = np.hypot(x - ends[0, 0] - along * ahead[0], y - ends[0, 1] - along * ahead[1]) - radius
    part = even[low[1] : high[1], low[0] : high[0]]
    np.minimum(part, np.clip(127.5 + 255 * off, 0, 255), out=part)


def find_leaks(ink: Bools, gap: float | None = None, tick: Tick = no_tick) -> tuple[Leak, ...]:
    """Find where outlines are open, with a closing for each.

    A stroke's end looks ahead for another end or another stroke. Of what it
    finds, only what parts two areas once all are closed is a leak.

    Parameters
    ----------
    ink : (H, W) bool
    gap : float, optional
        The widest, px; without it six stroke widths.
    """
    scale = min(1.0, (_LINE_PIXELS / ink.size) ** 0.5)
    small = ink
    if scale < 1:
        size = max(1, round(ink.shape[1] * scale)), max(1, round(ink.shape[0] * scale))
        small = cv2.resize(ink.astype(np.uint8) * 255, size, interpolation=cv2.INTER_AREA) > 100
    ends, width, ahead = loose_ends(small)
    tick(0.5)
    if not 0 < len(ends) <= _MOST_ENDS:
        return ()
    reach = gap * scale if gap is not None else _GAP * width
    real: list[tuple[Floats, Floats]] = []
    in_vain: set[tuple[int, int]] = set()
    for turn in range(_MOST_TURNS):
        closings = _closings(small, ends + 0.5, ahead, width, reach, in_vain)
        closed = (~small).astype(np.uint8)
        for one in closings:
            cv2.line(closed, _pixel(one.first), _pixel(one.last), 0, max(2, round(width)), cv2.LINE_4)
        _, found_parts, stats, _ = cv2.connectedComponentsWithStats(closed, connectivity=4)
        parts, sizes = found_parts.astype(np.int64), stats[:, cv2.CC_STAT_AREA].astype(np.int64)
        tick(0.5 + 0.5 * (turn + 1) / _MOST_TURNS)
        part_two = [
            _is_leak(_area_beside(parts, sizes, one.first, one.last, width), one.first, one.last,
                     _FACING if one.faces else _STRAY)
            for one in closings
        ]  # fmt: skip
        real = [(one.first, one.last) for one, good in zip(closings, part_two, strict=True) if good]
        fresh = {one.ends for one, good in zip(closings, part_two, strict=True) if not good}
        if not fresh:
            break
        in_vain |= fresh  # these ends are free for the next nearest
    tick(1.0)
    leaks = [Leak(first / scale, last / scale, width / scale) for first, last in real]
    return tuple(sorted(leaks, key=lambda leak: (leak.length, *leak.first)))


def _pixel(at: Floats) -> tuple[int, int]:
    return int(at[0]), int(at[1])


class _Closing(NamedTuple):
    """What an end may be closed by: another end, or a stroke ahead of it."""

    first: Floats
    last: Floats
    faces: bool  # whether another end lies there
    ends: tuple[int, int]  # which ends, -1 for a stroke


def _closings(
    ink: Bools, ends: Floats, ahead: Floats, width: float, reach: float, in_vain: set[tuple[int, int]]
) -> list[_Closing]:
    """For each end the nearest thing ahead of it, but for pairs that were tried and part nothing.

    Two ends of one connected outline go before those of two: joining them
    parts what lies on both sides, as joining two outlines alone does not.
    """
    apart = ends[None] - ends[:, None]
    far = np.linalg.norm(apart, axis=2)
    with np.errstate(invalid="ignore", divide="ignore"):
        straight = (apart * ahead[:, None]).sum(2) / far
    good = (far > 0) & (far <= reach + 2 * width) & (straight > _CONE) & (straight.T > _CONE)
    for i, j in np.argwhere(good).tolist():  # an end of a middle line lies within its stroke
        good[i, j] = _paper_between(ink, ends[i], ends[j]) <= reach + 0.5
    cost = np.where(good, far * (3 - straight - straight.T), np.inf)
    for i, j in in_vain:
        if j >= 0:
            cost[i, j] = cost[j, i] = np.inf
    found: list[_Closing] = []
    done = np.zeros(len(ends), bool)
    _, outlines = cv2.connectedComponents(ink.astype(np.uint8), connectivity=8)
    own = outlines[ends[:, 1].astype(int), ends[:, 0].astype(int)]
    rows, columns = np.nonzero(np.isfinite(cost))
    for place in np.lexsort((cost[rows, columns], own[rows] != own[columns])):
        i, j = int(rows[place]), int(columns[place])
        if not done[i] and not done[j]:
            done[i] = done[j] = True
            found.append(_Closing(ends[i], ends[j], True, (min(i, j), max(i, j))))
    for one in np.flatnonzero(~done).tolist():
        hit = _stroke_ahead(ink, ends[one], ahead[one], width, reach) if (one, -1) not in in_vain else None
        if hit is not None:
            others = np.delete(ends, one, 0)
            near = bool(len(others)) and float(np.linalg.norm(others - hit, axis=1).min()) < 1.5 * width
            found.append(_Closing(ends[one], hit, near, (one, -1)))
    return found


def _paper_between(ink: Bools, first: Floats, last: Floats) -> float:
    """Length of paper on the way from one place to another, px."""
    far = float(np.hypot(*(last - first)))
    x, y = (first + np.linspace(0, 1, max(2, int(4 * far)))[:, None] * (last - first)).astype(int).T
    return far * float((~ink[y, x]).mean())


def _stroke_ahead(ink: Bools, end: Floats, ahead: Floats, width: float, reach: float) -> Floats | None:
    """The nearest ink in a cone before an end, beyond paper."""
    height, length = ink.shape
    away = np.arange(0, reach + 2 * width, 0.5)
    best, found = np.inf, None
    for turn in np.deg2rad(np.arange(-40, 41, 8)):
        way = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) @ ahead
        at = end + away[:, None] * way
        x, y = at.astype(int).T
        inside = (x >= 0) & (y >= 0) & (x < length) & (y < height)
        seen = np.zeros(len(away), bool)
        seen[inside] = ink[y[inside], x[inside]]
        paper = np.flatnonzero(~seen & inside)
        if not len(paper):
            continue
        beyond = np.flatnonzero(seen[paper[0] :])
        if len(beyond):
            hit = int(paper[0] + beyond[0])
            cost = away[hit] * (1 + 0.5 * abs(turn))
            if away[hit] - away[paper[0]] <= reach and cost < best:
                best, found = cost, at[hit] + way * width / 4
    return found


def _is_leak(area: float, first: Floats, last: Floats, share: float) -> bool:
    """Whether a gap is small beside what lies behind it; a stroke that just ends somewhere is no leak."""
    return bool(area and np.hypot(*(last - first)) <= share * area**0.5)


def _area_beside(parts: Ints, sizes: Ints, first: Floats, last: Floats, width: float) -> float:
    """Px of the smaller of the two areas that a closing parts; 0 where it parts none."""
    middle, ahead = (first + last) / 2, last - first
    side = np.array([-ahead[1], ahead[0]]) / max(1e-9, float(np.hypot(*ahead)))
    seen = []
    for sign in (-1, 1):
        label = 0
        for step in np.arange(width / 2, width / 2 + 4, 0.5):  # farther off lies what other strokes part
            x, y = (middle + sign * step * side).astype(int)
            if not (0 <= x < parts.shape[1] and 0 <= y < parts.shape[0]):
                break
            label = int(parts[y, x])
            if label:
                break
        seen.append(label)
    return float(min(sizes[seen])) if seen[0] != seen[1] and 0 not in seen else 0.0


def enclosed_areas(ink: Bools) -> Areas:
    """Find the paper that does not hang together with the border."""
    _, parts, stats, middle = cv2.connectedComponentsWithStats((~ink).astype(np.uint8), connectivity=4)
    size = stats[:, cv2.CC_STAT_AREA]
    inner = size >= _LEAST_AREA
    inner[0] = False
    for side in (parts[0], parts[-1], parts[:, 0], parts[:, -1]):
        inner[side] = False
    number = np.zeros(len(size), np.int32)
    number[inner] = np.arange(1, inner.sum() + 1)
    return Areas(number[parts], size[inner].astype(np.int64), middle[inner] + 0.5)


def proposed_fills(areas: Areas, ink: Bools, colours: int) -> Ints:
    """Propose a colour for each area, by number; (A,).

    Areas of like shape, and those that lie where another's mirror image
    does, get the same one; the largest choose first, a colour that their
    neighbours do not have.
    """
    count = len(areas.size)
    if not count:
        return np.zeros(0, np.int64)
    group = _alike(areas, ink)
    groups = int(group.max()) + 1
    own, beside = np.unique(group[_neighbours(areas.parts)], axis=1)
    begins = np.searchsorted(own, np.arange(groups + 1))
    weight = np.bincount(group, areas.size, groups)
    chosen = np.full(groups, -1)
    used = np.zeros(colours)
    for g in np.argsort(-weight, kind="stable"):
        taken = chosen[beside[begins[g] : begins[g + 1]]]
        clash = np.bincount(taken[taken >= 0], minlength=colours) > 0
        chosen[g] = int(np.lexsort((np.arange(colours), used, clash))[0])
        used[chosen[g]] += 1
    return chosen[group]


def _alike(areas: Areas, ink: Bools) -> Ints:
    """Group areas by shape (invariants of Hu 1962) and by mirrored place; (A,) group."""
    count = len(areas.size)
    if count > _MOST_ALIKE:
        return np.arange(count)
    shape = np.zeros((count, 3))
    y, x = np.nonzero(areas.parts)
    part = areas.parts[y, x] - 1
    dx, dy = x + 0.5 - areas.middle[part, 0], y + 0.5 - areas.middle[part, 1]
    size = areas.size.astype(float)

    def moment(p: int, q: int) -> Floats:
        total: Floats = np.bincount(part, dx**p * dy**q, count) / size ** (1 + (p + q) / 2)
        return total

    n20, n02, n11 = moment(2, 0), moment(0, 2), moment(1, 1)
    n30, n03, n21, n12 = moment(3, 0), moment(0, 3), moment(2, 1), moment(1, 2)
    shape[:, 0] = n20 + n02
    shape[:, 1] = np.sqrt((n20 - n02) ** 2 + 4 * n11**2)
    shape[:, 2] = np.sqrt((n30 - 3 * n12) ** 2 + (3 * n21 - n03) ** 2)
    shape /= shape[:, :1]
    shape[:, 0] *= n20 + n02
    inked = np.flatnonzero(ink.any(0))
    axis = (inked[0] + inked[-1] + 1) / 2 if len(inked) else ink.shape[1] / 2
    mirrored = areas.middle * (-1, 1) + (2 * axis, 0)
    ratio = np.abs(np.log(size[:, None] / size[None])) < np.log(_LIKE_AREA)
    off = np.abs(shape[:, None] - shape[None]).max(2) < _LIKE_SHAPE
    near = np.linalg.norm(mirrored[:, None] - areas.middle[None], axis=2) < _MIRRORED * max(ink.shape)
    i, j = np.nonzero(ratio & (off | near))
    return connected_parts(count, i, j)[1]


def _neighbours(parts: Ints) -> Ints:
    """Areas that lie on the two sides of a stroke, both ways, (2, N): each pixel is given to the nearest area."""
    seed = (parts == 0).astype(np.uint8)
    _, near = cv2.distanceTransformWithLabels(seed, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_CCOMP)
    number = np.zeros(int(near.max()) + 1, np.int64)
    number[near[parts > 0]] = parts[parts > 0]
    owner = number[near]
    pairs = np.concatenate(
        [np.stack([a.ravel(), b.ravel()]) for a, b in ((owner[:, 1:], owner[:, :-1]), (owner[1:], owner[:-1]))], 1
    )
    pairs = np.unique(pairs[:, (pairs[0] != pairs[1]) & (pairs.min(0) > 0)], axis=1) - 1
    return np.concatenate([pairs, pairs[::-1]], 1)


def with_fills(
    areas: Areas, proposed: Ints, picture: Picture, fills: tuple[Fill, ...]
) -> tuple[list[Colour | None], tuple[int, ...]]:
    """Give every area its colour: as proposed, or as a maker chose.

    Returns
    -------
    colours, unplaced : list, tuple
        A colour for each area, None for paper; and the numbers of the choices that lie in none.
    """
    chosen: list[Colour | None] = [FILLS[number] for number in proposed]
    lost = []
    height, width = areas.parts.shape
    for place, fill in enumerate(fills):
        x, y = np.floor(on_picture(picture, [fill.at])[0]).astype(int)
        area = int(areas.parts[y, x]) if 0 <= x < width and 0 <= y < height else 0
        if area:
            chosen[area - 1] = fill.colour
        else:
            lost.append(place)
    return chosen, tuple(lost)
