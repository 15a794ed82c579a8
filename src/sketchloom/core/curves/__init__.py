"""Edge samples to cubic curves, each arc once."""

from sketchloom.core.curves.arcs import ArcCurves, TraceSettings, trace_arcs
from sketchloom.core.curves.path import Path

__all__ = ["ArcCurves", "Path", "TraceSettings", "trace_arcs"]
