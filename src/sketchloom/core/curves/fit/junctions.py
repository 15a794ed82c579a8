"""Where the arcs that end at a junction meet, and which of them run on through it."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.curves.fit.corners import lines_through, turn_between
from sketchloom.core.planar import EdgeSamples, PlanarMap

__all__ = ["Junctions", "on_frame", "place_vertices", "run_through"]

_SIDE = 5
_HOLD = 0.05
_FARTHEST = 1.5
_BESIDE_CORNER = 0.05
"""px along the frame that a junction keeps from the frame's corners."""
_THROUGH = 6
"""Samples on each side of a junction that tell whether an outline runs on through it."""
_FEWEST = 4
_MOST_TURN = 0.5
"""rad; between the directions in which the two arcs leave."""
_AS_ONE = 0.12
"""px; rms about one cubic through the samples of both."""
_MOST_MOVE = 0.4


class Junctions(NamedTuple):
    """The vertices of a planar map, and the outlines that run on through them.

    Attributes
    ----------
    place : (V, 2) float64
    partner : (A, 2) int
        For the tail and the head of each arc the end, ``2 arc`` or
        ``2 arc + 1``, of the arc in which its outline runs on; else -1.
    """

    place: Floats
    partner: Ints


def place_vertices(planar: PlanarMap, samples: EdgeSamples) -> Floats:
    """Place the vertices of a planar map.

    A junction goes where the lines through the ends of its arcs come closest
    together, in the least-squares sense; it stays on the frame if it lies
    there. The sample nearest the junction mixes three inks and is left out.

    Returns
    -------
    (V, 2) float64
    """
    place = planar.vertices.astype(np.float64)
    count = np.diff(samples.offset)
    matrix, right = np.zeros((len(place), 3)), np.zeros((len(place), 2))
    for end in (0, 1):
        vertex = planar.head if end else planar.tail
        step = np.arange(1, _SIDE + 1)
        skip = np.where(count > 3, step[:, None], step[:, None] - 1).T
        there = skip < count[:, None]
        inner = np.where(there, skip, 0)
        index = np.where(end, samples.offset[1:, None] - 1 - inner, samples.offset[:-1, None] + inner)
        index = np.clip(index, 0, max(0, len(samples.points) - 1))
        lines = lines_through(samples.points[index], samples.weight[index] * there)
        n, sure = lines.normal, lines.sure
        reach = (n * (lines.point - place[vertex])).sum(1)
        for k, term in enumerate((n[:, 0] ** 2, n[:, 0] * n[:, 1], n[:, 1] ** 2)):
            matrix[:, k] += np.bincount(vertex, sure * term, len(place))
        for axis in range(2):
            right[:, axis] += np.bincount(vertex, sure * reach * n[:, axis], len(place))
    height, width = planar.shape
    fixed_x = (planar.vertices[:, 0] == 0) | (planar.vertices[:, 0] == width)
    fixed_y = (planar.vertices[:, 1] == 0) | (planar.vertices[:, 1] == height)
    xx, xy, yy = matrix.T + np.array([[_HOLD], [0.0], [_HOLD]])
    xx, yy = xx + 1e6 * fixed_x, yy + 1e6 * fixed_y
    det = xx * yy - xy**2
    rx, ry = np.where(fixed_x, 0.0, right[:, 0]), np.where(fixed_y, 0.0, right[:, 1])
    move = np.stack([(yy * rx - xy * ry) / det, (xx * ry - xy * rx) / det], 1)
    move[fixed_x, 0] = 0.0
    move[fixed_y, 1] = 0.0
    length = np.linalg.norm(move, axis=1, keepdims=True)
    move *= np.minimum(1.0, _FARTHEST / np.maximum(length, 1e-9))
    move[planar.degree == 2] = 0.0
    out = place + move
    room_x, room_y = np.where(fixed_y, _BESIDE_CORNER, 0.0), np.where(fixed_x, _BESIDE_CORNER, 0.0)
    out = np.stack([np.clip(out[:, 0], room_x, width - room_x), np.clip(out[:, 1], room_y, height - room_y)], 1)
    out[fixed_x, 0], out[fixed_y, 1] = place[fixed_x, 0], place[fixed_y, 1]
    return out


def run_through(planar: PlanarMap, samples: EdgeSamples, place: Floats) -> Junctions:
    """Find the outlines that run on through junctions, and put these junctions on them.

    Two arcs within the picture are one outline where each is the other's straightest
    continuation and one cubic, across the mean direction, fits the samples of
    both next to the junction. A junction that one outline passes moves onto it.

    Parameters
    ----------
    planar : PlanarMap
    samples : EdgeSamples
        Of `planar`.
    place : (V, 2) float64
        What `place_vertices` gave.
    """
    arcs = len(planar.tail)
    vertex = np.stack([planar.tail, planar.head], 1).ravel()
    near, mass, count = _beside_ends(samples, arcs)
    near = near - place[vertex][:, None]
    inner = (planar.degree > 2) & ~on_frame(planar.vertices, planar.shape)
    open_end = (count >= _FEWEST) & inner[vertex]
    lean = (near * mass[..., None]).sum(1)
    lean /= np.maximum(np.linalg.norm(lean, axis=1, keepdims=True), 1e-9)
    one, other = _straightest(vertex, lean, open_end)
    partner = np.full(2 * arcs, -1)
    place = place.copy()
    if not len(one):
        return Junctions(place, partner.reshape(-1, 2))
    along = lean[other] - lean[one]
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    both, weight = np.concatenate([near[one], near[other]], 1), np.concatenate([mass[one], mass[other]], 1)
    x = (both * along[:, None]).sum(2)
    y = both[..., 1] * along[:, None, 0] - both[..., 0] * along[:, None, 1]
    rise, off = _cubic_at_nought(x, y, weight)
    as_one = (off <= _AS_ONE) & (np.abs(rise) <= _MOST_MOVE)
    one, other, along, rise, off = one[as_one], other[as_one], along[as_one], rise[as_one], off[as_one]
    partner[one], partner[other] = other, one
    best = np.lexsort((off, vertex[one]))  # of two outlines through one junction the surer
    best = best[np.diff(vertex[one[best]], prepend=-1) != 0]
    place[vertex[one[best]]] += rise[best, None] * np.stack([-along[best, 1], along[best, 0]], 1)
    return Junctions(place, partner.reshape(-1, 2))


def _beside_ends(samples: EdgeSamples, arcs: int) -> tuple[Floats, Floats, Ints]:
    """Samples next to both ends of every arc, the nearest left out: places, weights and how many there are."""
    count = np.diff(samples.offset)
    step = np.arange(1, _THROUGH + 1)
    there = step < count[:, None]
    index = np.stack(
        [samples.offset[:-1, None] + np.where(there, step, 0), samples.offset[1:, None] - 1 - np.where(there, step, 0)],
        1,
    ).reshape(2 * arcs, -1)
    index = np.clip(index, 0, max(0, len(samples.points) - 1))
    there = np.repeat(there, 2, axis=0)
    return samples.points[index], samples.weight[index] * there, there.sum(1)


def _straightest(vertex: Ints, lean: Floats, open_end: Bools) -> tuple[Ints, Ints]:
    """Pairs of arc ends at one vertex, each the other's straightest continuation."""
    ends = np.flatnonzero(open_end)
    ends = ends[np.argsort(vertex[ends], kind="stable")]
    here = vertex[ends]
    one, other = [], []
    for apart in (1, 2, 3):  # at most four ends meet
        same = np.flatnonzero(here[apart:] == here[:-apart])
        one.append(ends[same])
        other.append(ends[same + apart])
    first, second = np.concatenate(one), np.concatenate(other)
    turn = np.pi - np.abs(turn_between(lean[first], lean[second]))
    rank = np.empty(len(first), np.int64)
    rank[np.lexsort((second, first, turn))] = np.arange(len(first))  # no two alike
    least = np.full(len(vertex), len(first))
    np.minimum.at(least, first, rank)
    np.minimum.at(least, second, rank)
    good = (turn < _MOST_TURN) & (rank == least[first]) & (rank == least[second])
    return first[good], second[good]


def _cubic_at_nought(x: Floats, y: Floats, weight: Floats) -> tuple[Floats, Floats]:
    """Least-squares cubics y(x): their values at x = 0, and the rms of what they leave; all (P, K)."""
    scale = np.maximum(np.abs(x).max(1, keepdims=True), 1e-9)
    powers = (x / scale)[..., None] ** np.arange(4)
    pull = powers * weight[..., None]
    normal = np.einsum("pki,pkj->pij", pull, powers) + 1e-6 * np.eye(4)
    solved = np.linalg.solve(normal, np.einsum("pki,pk->pi", pull, y)[..., None])[..., 0]
    rest = y - np.einsum("pki,pi->pk", powers, solved)
    return solved[:, 0], np.sqrt((weight * rest**2).sum(1) / np.maximum(weight.sum(1), 1e-9))


def on_frame(points: Floats | Ints, shape: tuple[int, int]) -> Bools:
    """Which points lie on the picture's frame; (N, 2) to (N,)."""
    height, width = shape
    x, y = points[:, 0], points[:, 1]
    return (x == 0) | (x == width) | (y == 0) | (y == height)
