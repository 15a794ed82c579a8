"""Make lines that lean a little level or upright."""

import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints, connected_parts
from sketchloom.core.planar import PlanarMap

__all__ = ["square_up"]


def square_up(planar: PlanarMap, arc: Ints, control: Floats, straight: Bools, most: float) -> Floats:
    """Make straight segments that lean less than `most` exactly level or upright.

    Nodes that level lines hang together by get one height, the mean by
    length; handles go with their nodes. Arcs that meet stay together, as a
    node is one value for all of them. Nodes on the frame stay.

    Parameters
    ----------
    planar : PlanarMap
    arc : (S,) int
        Arc of each segment, in order.
    control : (S, 4, 2) float
    straight : (S,) bool
    most : float
        rad.

    Returns
    -------
    (S, 4, 2) float
    """
    begins = np.append(True, arc[1:] != arc[:-1])
    ends = np.append(begins[1:], True)
    inner = len(planar.vertices) + np.arange(len(arc))
    start = np.where(begins, planar.tail[arc], inner - 1)  # an inner node is named by the segment before it
    stop = np.where(ends, planar.head[arc], inner)
    chord = control[:, 3] - control[:, 0]
    length = np.hypot(*chord.T)
    height, width = planar.shape
    out = control.copy()
    for axis in (0, 1):
        lean = np.arctan2(np.abs(chord[:, axis]), np.abs(chord[:, 1 - axis]))
        flat = straight & (lean < most) & (length > 0)
        if not flat.any():
            continue
        count = len(planar.vertices) + len(arc)
        _, group = connected_parts(count, start[flat], stop[flat])
        own = np.zeros(count)
        own[start], own[stop] = control[:, 0, axis], control[:, 3, axis]
        mass, total = np.zeros(count), np.zeros(count)
        for node in (start[flat], stop[flat]):
            np.add.at(mass, group[node], length[flat])
            np.add.at(total, group[node], length[flat] * own[node])
        fixed = (own == 0) | (own == (width, height)[axis])
        np.add.at(mass, group[fixed], 1e9)
        np.add.at(total, group[fixed], 1e9 * own[fixed])
        held = mass[group] > 0
        move = np.where(held & ~fixed, total[group] / np.maximum(mass[group], 1e-12) - own, 0.0)
        out[:, :2, axis] += move[start][:, None]
        out[:, 2:, axis] += move[stop][:, None]
    third = (out[straight, 3] - out[straight, 0]) / 3
    out[straight, 1], out[straight, 2] = out[straight, 0] + third, out[straight, 3] - third
    return out
