"""Work by hand on traced curves, kept so that it survives a new fit."""

from sketchloom.core.curves.work.change import Change
from sketchloom.core.curves.work.edits import Edited, Spot, apply_edits, edit_of, nearest_spot
from sketchloom.core.curves.work.mirror import even_halves
from sketchloom.core.curves.work.nodes import (
    Node,
    made_corner,
    made_smooth,
    node_added,
    node_deleted,
    node_moved,
    nodes_on,
)
from sketchloom.core.curves.work.stretches import brushed, closed_by_curve, smoothed, straightened, stretches_under

__all__ = [
    "Change",
    "Edited",
    "Node",
    "Spot",
    "apply_edits",
    "brushed",
    "closed_by_curve",
    "edit_of",
    "even_halves",
    "made_corner",
    "made_smooth",
    "nearest_spot",
    "node_added",
    "node_deleted",
    "node_moved",
    "nodes_on",
    "smoothed",
    "straightened",
    "stretches_under",
]
