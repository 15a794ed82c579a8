"""Where the edges truly run: sub-pixel samples along the arcs of a planar map."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, dots
from sketchloom.core.planar.coverage import coarseness
from sketchloom.core.planar.given import on_drawn_edges
from sketchloom.core.planar.planarmap import EAST, NORTH, SOUTH, WEST, PlanarMap
from sketchloom.core.planar.stairs import GRAIN, behind_stairs, stair_arcs
from sketchloom.core.regions import LabelMap, is_clean

__all__ = ["EdgeSamples", "sample_edges"]

_REACH = 3
_STEP = np.zeros((4, 2), np.int64)
_STEP[[EAST, SOUTH, WEST, NORTH]] = (1, 0), (0, 1), (-1, 0), (0, -1)
_OFF_LINE = 12.0
_CRACKS = 0.79
"""Length of an outline over that of its cracks, over all directions (pi / 4)."""
_OF_WIDTH = 0.15
"""How far an outline that is an arc of its own may be off, as part of its mean width."""


class EdgeSamples(NamedTuple):
    """Points on the true edges, arc after arc, about one a pixel.

    Attributes
    ----------
    points : (M, 2) float64
        x, y in px; pixel (0, 0) covers 0 to 1.
    weight : (M,) float64
        How far to trust each, 0 to 1.
    offset : (A + 1,) int
        Where each arc begins.
    grain : (A,) float64
        How far the samples of each arc can be off together, px; 0 where the
        picture shows coverage.
    coarse : (A,) float64
        How far single samples can be off because the picture's coverage was weighed by few samples of a pixel, px.
    exact : bool
        The picture is clean and shows coverage, or its edges were simplified: what samples are off by is not noise.
    blur : float
        Standard deviation of the picture's softness, px, where it was measured: corners are that blunt.
    """

    points: Floats
    weight: Floats
    offset: Ints
    grain: Floats
    coarse: Floats
    exact: bool
    blur: float = 0.0


def sample_edges(planar: PlanarMap, regions: LabelMap) -> EdgeSamples:
    """Find where the edges cross the middle of each pixel row or column.

    The frame's corners are samples too. Only cracks whose normal is the edge's dominant axis are used. The edge
    lies where the coverage says: the shares that the far side's colour has in
    two pixels on each side add up to the distance. It stops where a third
    tone comes in, and a part one pixel wide shares its shortfall between its
    two edges.

    Parameters
    ----------
    planar : PlanarMap
        Of the cells of `regions`.
    regions : LabelMap
    """
    arcs = len(planar.tail)
    arc_of = np.repeat(np.arange(arcs), np.diff(planar.offset))
    used = _dominant(planar)
    shift, weight = np.zeros(len(arc_of)), np.ones(len(arc_of))
    shift[used], weight[used] = _shift(planar.corner[used], planar.heading[used], regions)
    stairs = stair_arcs(planar, arc_of, shift, used)
    used &= ~stairs[arc_of]
    points = planar.corner + _STEP[planar.heading] / 2
    level = (planar.heading == EAST) | (planar.heading == WEST)
    points[level, 1] += shift[level]
    points[~level, 0] += shift[~level]
    points, weight, arc = points[used], weight[used], arc_of[used]
    turns = _frame_corners(planar)
    before = np.searchsorted(np.flatnonzero(used), turns)
    points = np.insert(points, before, planar.corner[turns], axis=0)
    weight = np.insert(weight, before, 1.0)
    arc = np.insert(arc, before, arc_of[turns])
    if stairs.any():
        more, more_arc = behind_stairs(planar, stairs)
        arc = np.concatenate([arc, more_arc])
        order = np.argsort(arc, kind="stable")
        arc, points = arc[order], np.concatenate([points, more])[order]
        weight = np.append(weight, np.ones(len(more)))[order]
    exact = regions.simple or (is_clean(regions.evidence) and bool(2 * np.count_nonzero(stairs) < arcs))
    offset = np.append(0, np.cumsum(np.bincount(arc, minlength=arcs)))
    grain = np.where(stairs, GRAIN, np.minimum(regions.soft, _OF_WIDTH * _loop_widths(planar)))
    coarse = np.full(arcs, coarseness(regions) if exact else 0.0)
    if regions.drawn:
        height, width = planar.shape
        framed = (points == 0).any(1) | (points == (width, height)).any(1)
        moved, given = on_drawn_edges(points, offset, planar.loops, regions.drawn, framed)
        points = moved.astype(np.float64)
        weight = np.where(given, 1.0, weight)
        seen = np.diff(np.append(0, np.cumsum(~given))[offset])
        grain, coarse = (np.where(seen == 0, 0.0, off) for off in (grain, coarse))
    return EdgeSamples(points, weight, offset, grain, coarse, exact, regions.blur)


def _loop_widths(planar: PlanarMap) -> Floats:
    """Mean width of what each loop encloses, twice its area over its length, px; infinite for other arcs; (A,)."""
    arcs = len(planar.tail)
    arc_of = np.repeat(np.arange(arcs), np.diff(planar.offset))
    x, y = planar.corner.T
    step_x, step_y = _STEP[planar.heading].T
    area = np.abs(np.bincount(arc_of, x * step_y - y * step_x, arcs)) / 2
    width = np.full(arcs, np.inf)
    loops = np.flatnonzero(planar.loops)
    width[loops] = 2 * area[loops] / (_CRACKS * np.diff(planar.offset)[loops])
    return width


def _frame_corners(planar: PlanarMap) -> Ints:
    """Cracks that begin at a corner of the frame; the corner itself is a sample then."""
    height, width = planar.shape
    x, y = planar.corner[:, 0], planar.corner[:, 1]
    return np.flatnonzero(((x == 0) | (x == width)) & ((y == 0) | (y == height)))


def _dominant(planar: PlanarMap) -> Bools:
    """Cracks that lie along the edge rather than on one of its steps; (N,) bool."""
    offset, count = planar.offset, len(planar.corner)
    arc_of = np.repeat(np.arange(len(planar.tail)), np.diff(offset))
    first, size = offset[:-1][arc_of], np.diff(offset)[arc_of]
    loop = planar.loops[arc_of]
    place = np.arange(count) - first
    end = planar.vertices[planar.head]

    def corner_at(k: Ints) -> Ints:
        inner = np.where(loop, k % size, np.clip(k, 0, size))
        past = (inner == size) & ~loop
        at = planar.corner[first + np.where(past, 0, inner)]
        at[past] = end[arc_of[past]]
        return at

    chord = np.abs(corner_at(place + 1 + _REACH) - corner_at(place - _REACH))
    level = (planar.heading == EAST) | (planar.heading == WEST)
    # seven cracks of a diagonal hold three of the middle one's kind: one more is no lean
    along, across = np.where(level, chord.T, chord.T[::-1])
    used = along + 1 >= across
    none = np.add.reduceat(used.astype(np.int64), offset[:-1]) == 0 if count else np.zeros(0, bool)
    return used | none[arc_of]


def _shift(corner: Ints, heading: Ints, regions: LabelMap) -> tuple[Floats, Floats]:
    """Distance of the edge from each crack, towards larger y or x, and its weight."""
    labels, tones = regions.labels, regions.tones
    height, width = labels.shape
    level = (heading == EAST) | (heading == WEST)
    x = corner[:, 0] - (heading == WEST)
    y = corner[:, 1] - (heading == NORTH)
    step = np.where(level, width, 1)
    place = np.where(level, y, x)
    most = np.where(level, height, width)
    on_frame = (place == 0) | (place == most)
    base = np.where(on_frame, 0, y * width + x)
    flat_tones = tones.ravel()
    colours = regions.evidence.reshape(-1, 4)[:, :3]
    mix = regions.mix

    def pixel(k: int) -> tuple[Ints, Bools]:
        inside = (place + k >= 0) & (place + k < most) & ~on_frame
        return np.where(inside, base + k * step, base), inside

    tone: dict[int, Ints] = {}
    colour: dict[int, Floats] = {}
    for k in range(-3, 3):
        at, inside = pixel(k)
        tone[k] = np.where(inside, flat_tones[at].astype(np.int64), -1)
        if -2 <= k <= 1:
            colour[k] = colours[at].astype(np.float64)
    near, far = tone[-1], tone[0]
    start = mix[np.maximum(near, 0)]
    along = mix[np.maximum(far, 0)] - start
    length = np.maximum(dots(along, along), 1e-9)
    rest = {k: colour[k] - start for k in colour}
    part = {k: dots(rest[k], along) / length for k in colour}
    s_near2, s_near, s_far, s_far2 = (np.clip(part[k], 0, 1) for k in (-2, -1, 0, 1))

    def off_line(k: int) -> Floats:
        across = rest[k] - part[k][:, None] * along
        return np.sqrt(dots(across, across))

    near2 = (tone[-2] == near) & (tone[-3] == near)
    far2 = (tone[1] == far) & (tone[2] == far)
    thin_near = (tone[-2] != near) & (tone[-2] >= 0)
    thin_far = (tone[1] != far) & (tone[1] >= 0)
    third_near, third_far = thin_near & (tone[-2] != far), thin_far & (tone[1] != near)
    lack_far, lack_near = 1 - s_far, s_near.copy()
    lack_far[third_far] = _middle_lack(colour[0], mix, near, far, tone[1], third_far)
    lack_near[third_near] = _middle_lack(colour[-1], mix, far, near, tone[-2], third_near)
    lack_far = np.where(thin_far & ~third_far, _half(1 - s_far, s_far2, s_near), lack_far)
    lack_near = np.where(thin_near & ~third_near, _half(s_near, 1 - s_near2, 1 - s_far), lack_near)
    shift = lack_far - lack_near
    shift += np.where(far2, 1 - s_far2, 0.0) - np.where(near2, s_near2, 0.0)
    off = np.where(third_near | third_far, 0.0, np.maximum(off_line(-1), off_line(0)))
    weight = 1 / (1 + (off / _OFF_LINE) ** 2)
    weight[length < 1] = 0.1
    shift[(length < 1) | on_frame] = 0.0
    weight[on_frame] = 1.0
    return np.clip(shift, -1.5, 1.5), weight


def _half(lack: Floats, beyond: Floats, before: Floats) -> Floats:
    """Take one edge's part of the shortfall of a one-pixel part.

    Where the part's colour spills over one side only, that side is full and
    the other edge has the whole shortfall.
    """
    spill = beyond + before
    return lack * np.where(spill > 0.02, beyond / np.maximum(spill, 1e-9), 0.5)


def _middle_lack(colour: Floats, mix: Floats, outer: Ints, own: Ints, third: Ints, rows: Bools) -> Floats:
    """Share that the colour on this side has in a one-pixel part between two unlike neighbours; of some rows."""
    middle = mix[np.maximum(own[rows], 0)]
    a, b = mix[np.maximum(outer[rows], 0)] - middle, mix[np.maximum(third[rows], 0)] - middle
    rest = colour[rows] - middle
    aa, ab, bb = dots(a, a) + 1.0, dots(a, b), dots(b, b) + 1.0
    ra, rb = dots(a, rest), dots(b, rest)
    return np.clip((ra * bb - rb * ab) / np.maximum(aa * bb - ab**2, 1e-9), 0, 1)
