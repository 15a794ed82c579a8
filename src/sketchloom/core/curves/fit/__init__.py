"""Points to cubics: corners, nodes, lines, circular arcs and smooth passages, all arcs in one batch."""

from sketchloom.core.curves.fit.layout import lay_out
from sketchloom.core.curves.fit.trace import fit_exact, fit_lines, trace_arcs
from sketchloom.core.curves.fit.track import Stretches

__all__ = ["Stretches", "fit_exact", "fit_lines", "lay_out", "trace_arcs"]
