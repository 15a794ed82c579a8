"""Outlines with more nodes than they need."""

from collections.abc import Iterator

import numpy as np
import shapely

from sketchloom.core.arrays import Floats
from sketchloom.core.cut import Cut, refitted_apart
from sketchloom.core.inspect.finding import Finding, Fix
from sketchloom.core.inspect.kinds.words import finding
from sketchloom.core.inspect.outline import Outline
from sketchloom.core.inspect.subject import Subject
from sketchloom.core.layers import EaseOutline

__all__ = ["find_nodes"]

_WITHIN = 0.02
"""mm that an outline with fewer nodes may leave the one that is there."""
_FEWEST = 8
"""Nodes; with so few no outline is worth a look."""
_CORNER = 0.35
"""rad"""
_ONE_CURVE = 1.75
"""rad that one curve turns at most."""


def find_nodes(subject: Subject, layer: Cut) -> Iterator[Finding]:
    """Find outlines that a refit within two hundredths of a mm needs less than half the nodes for."""
    limit = subject.limit(layer, "nodes")
    outline = subject.outline(layer)
    counts = np.array([len(flags) for flags in layer.path.straight])
    owner = outline.pieces.of_contour
    pieces = np.unique(owner[(owner >= 0)])
    nodes = np.bincount(owner[owner >= 0], counts[owner >= 0], len(outline.pieces.shapes))
    least = _at_least(outline)
    many = [p for p in pieces.tolist() if nodes[p] > max(_FEWEST, limit * least[p])]
    for piece, needed in zip(many, _needed(subject, outline.pieces.shapes[many]), strict=True):
        times = nodes[piece] / max(needed, 1)
        if times <= limit or nodes[piece] - needed < _FEWEST:
            continue
        shape = outline.pieces.shapes[piece]
        at = tuple(float(v) for v in shapely.get_coordinates(shape.exterior)[0])
        box = tuple(float(v) for v in shape.bounds)
        sentence = (
            f"{nodes[piece]:.0f} nodes go round this piece where {needed} would do: the blade stutters, and cuts bumpy."
        )
        mend = EaseOutline(layer=layer.key, at=(at[0], at[1]), within=_WITHIN)
        yield finding(subject, "nodes", layer, (at[0], at[1]), (box[0], box[1], box[2], box[3]), float(times), sentence,
                      (Fix("smooth", "Smooth it", (mend,)),))  # fmt: skip


def _needed(subject: Subject, shapes: np.ndarray) -> list[int]:
    """Nodes that a refit of each shape has."""
    memory = subject.memory.findings
    keys = [("refit", wkb) for wkb in shapely.to_wkb(shapes).tolist()]
    known = [memory.get(key) for key in keys]
    new = [row for row, count in enumerate(known) if count is None]
    for row, path in zip(new, refitted_apart(shapes[new].tolist(), _WITHIN), strict=True):
        known[row] = path.nodes
        memory.put(keys[row], path.nodes)
    return known


def _at_least(outline: Outline) -> Floats:
    """Nodes that each piece needs at least: its corners, and a curve for each part of a turn."""
    turn, first = np.abs(outline.turns[0]), outline.first
    sharp = turn > _CORNER
    of = outline.piece[np.repeat(np.arange(len(first) - 1), np.diff(first))]
    size = len(outline.pieces.shapes)
    corners = np.bincount(of[sharp], minlength=size)
    round_ = np.bincount(of[~sharp], turn[~sharp], size)
    return np.asarray(np.maximum(corners + np.floor(round_ / _ONE_CURVE), 1.0))
