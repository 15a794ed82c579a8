"""Centre lines: paths along the middle of strokes, with the stroke's width."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats, kd_tree
from sketchloom.core.curves.arcs import Piece
from sketchloom.core.curves.centre.branches import find_branches, gathered, pruned
from sketchloom.core.curves.centre.settle import LEAST, between_edges, evenly, to_its_end
from sketchloom.core.curves.centre.strung import strung
from sketchloom.core.curves.fit import fit_lines
from sketchloom.core.progress import Tick, no_tick
from sketchloom.core.regions.ink.skeleton import thin

__all__ = ["CentreLine", "centre_lines"]

_CLOSE = 0.1
"""px; no line is followed more closely."""


class CentreLine(NamedTuple):
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


def centre_lines(mask: Bools, edges: Floats, tolerance: float, tick: Tick = no_tick) -> tuple[CentreLine, ...]:
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
    tuple of CentreLine
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
    branches, knots = find_branches(thin(part), lambda done: tick(0.2 + 0.3 * done))
    reach = [float(half[int(y), int(x)]) for x, y in knots]
    branches = pruned(branches, knots, reach, half)
    branches, knots, reach = gathered(branches, knots, reach)
    lines = strung(branches, knots, reach, part)
    origin = np.array([left - 1 + 0.5, top - 1 + 0.5])
    tree = kd_tree(edges)
    found, closed, widths = [], [], []
    for place, (points, ring, meets) in enumerate(lines):
        tick(0.5 + 0.3 * place / len(lines))
        line = evenly(points + origin, ring)
        if len(line) < LEAST:
            continue
        line, width = between_edges(line, ring, meets, tree)
        if not ring:
            for at_stop in (False, True):
                if not meets[at_stop]:
                    line, width = to_its_end(line, width, at_stop, tree, mask)
        found.append(line)
        closed.append(ring)
        widths.append(width)
    if not found:
        return ()
    pieces = fit_lines(found, closed, max(tolerance, _CLOSE), lambda done: tick(0.8 + 0.2 * done))
    return tuple(
        CentreLine(piece, ring, float(np.median(width)), _at_nodes(piece, line, width))
        for piece, ring, line, width in zip(pieces, closed, found, widths, strict=True)
        if len(piece.control)  # of a blot hardly wider than long nothing is left to fit
    )


def _at_nodes(piece: Piece, line: Floats, width: Floats) -> Floats:
    nodes = np.vstack([piece.control[:, 0], piece.control[-1:, 3]])
    return np.asarray(width[kd_tree(line).query(nodes)[1]])
