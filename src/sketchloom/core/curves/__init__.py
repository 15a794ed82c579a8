"""Edge samples to cubic curves, each arc once."""

from sketchloom.core.curves.apart import drawn_apart, face_areas, find_crossings, tips_uncrossed
from sketchloom.core.curves.arcs import ArcCurves, Deviation, Piece, arc_piece
from sketchloom.core.curves.fit import (
    Stretches,
    fit_exact,
    fit_lines,
    lay_out,
    trace_arcs,
)
from sketchloom.core.curves.measured import measured_anew
from sketchloom.core.curves.path import Path
from sketchloom.core.curves.pen import OutlinePen
from sketchloom.core.curves.settings import PRESETS, Bounds, CurveEdit, TraceSettings, preset
from sketchloom.core.curves.work import Edited, Spot, apply_edits, edit_of, even_halves, nearest_spot

__all__ = [
    "PRESETS",
    "ArcCurves",
    "Bounds",
    "CurveEdit",
    "Deviation",
    "Edited",
    "OutlinePen",
    "Path",
    "Piece",
    "Spot",
    "Stretches",
    "TraceSettings",
    "apply_edits",
    "arc_piece",
    "drawn_apart",
    "edit_of",
    "even_halves",
    "face_areas",
    "find_crossings",
    "fit_exact",
    "fit_lines",
    "lay_out",
    "measured_anew",
    "nearest_spot",
    "preset",
    "tips_uncrossed",
    "trace_arcs",
]
