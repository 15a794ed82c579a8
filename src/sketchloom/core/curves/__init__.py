"""Edge samples to cubic curves, each arc once."""

from sketchloom.core.curves.arcs import ArcCurves, Piece, lay_out, trace_arcs
from sketchloom.core.curves.edits import Edited, Spot, apply_edits, arc_piece, edit_of, nearest_spot
from sketchloom.core.curves.mirror import even_halves
from sketchloom.core.curves.path import Path
from sketchloom.core.curves.settings import PRESETS, Bounds, CurveEdit, TraceSettings
from sketchloom.core.curves.track import Stretches

__all__ = [
    "PRESETS",
    "ArcCurves",
    "Bounds",
    "CurveEdit",
    "Edited",
    "Path",
    "Piece",
    "Spot",
    "Stretches",
    "TraceSettings",
    "apply_edits",
    "arc_piece",
    "edit_of",
    "even_halves",
    "lay_out",
    "nearest_spot",
    "trace_arcs",
]
