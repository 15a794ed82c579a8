"""Edge samples to cubic curves, each arc once."""

from sketchloom.core.curves.arcs import ArcCurves, Bounds, TraceSettings, trace_arcs
from sketchloom.core.curves.path import Path

__all__ = ["ArcCurves", "Bounds", "Path", "TraceSettings", "trace_arcs"]
