"""What is cut, drawn, scored or engraved: one value for all that follows; its pieces; the page fitted to it."""

from sketchloom.core.cut.clipped import clipped, lines_within, part_of_cubic
from sketchloom.core.cut.cut import Cut, CutKind, Figures
from sketchloom.core.cut.grow import CornerStyle, grown, left_of, overlapped
from sketchloom.core.cut.polygons import SAG, Flat, Pieces, flatten, pieces_of, solid
from sketchloom.core.cut.refit import Request, refitted, refitted_apart, refitted_together
from sketchloom.core.cut.rings import CRUMB
from sketchloom.core.cut.stack import CutStack, fitted_page, on_page

__all__ = [
    "CRUMB", "SAG", "CornerStyle", "Cut", "CutKind", "CutStack", "Figures", "Flat", "Pieces", "Request", "clipped",
    "fitted_page", "flatten", "grown", "left_of", "lines_within", "on_page", "overlapped", "part_of_cubic", "pieces_of",
    "refitted", "refitted_apart", "refitted_together", "solid",
]  # fmt: skip
