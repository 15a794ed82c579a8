"""Where the arcs that end at a junction meet."""

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves.corners import lines_through
from sketchloom.core.planar import EdgeSamples, PlanarMap

__all__ = ["place_vertices"]

_SIDE = 5
_HOLD = 0.05
_FARTHEST = 1.5


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
    return np.stack([np.clip(out[:, 0], 0, width), np.clip(out[:, 1], 0, height)], 1)
