"""Centre lines of strokes, for a pen, foil or an engraver."""

from sketchloom.core.curves.centre.lines import CentreLine, centre_lines

__all__ = ["CentreLine", "centre_lines"]
