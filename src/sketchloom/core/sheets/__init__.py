"""Sheets: cuts laid to scale on real stock, with what that takes of it; nothing here knows the picture."""

from sketchloom.core.sheets.allowed import why_not
from sketchloom.core.sheets.by_hand import Where, with_laid
from sketchloom.core.sheets.figures import Figures, LayerUse, StockUsed, figures_of
from sketchloom.core.sheets.lay import lay_out
from sketchloom.core.sheets.layout import Group, Laid, Layout, Sheet
from sketchloom.core.sheets.parts import Body, Item, Part, turned
from sketchloom.core.sheets.pieces import parts_of
from sketchloom.core.sheets.ready import Marks, Ready, Weeding, check_ready, marks_round, readied
from sketchloom.core.sheets.runs import Run
from sketchloom.core.sheets.seams import Seam, SeamKind, SeamLine, with_seam, without_seams
from sketchloom.core.sheets.search import Tighter, tighter
from sketchloom.core.sheets.settings import Placement, SheetSettings, Turn, check_sheets
from sketchloom.core.sheets.timing import Timing, schedule_of, timing_of
from sketchloom.core.sheets.work import OF, Design, Guest, Work

__all__ = [
    "OF", "Body", "Design", "Figures", "Group", "Guest", "Item", "Laid", "LayerUse", "Layout", "Marks", "Part",
    "Placement", "Ready", "Run", "Seam", "SeamKind", "SeamLine", "Sheet", "SheetSettings", "StockUsed", "Tighter",
    "Timing", "Turn", "Weeding", "Where", "Work", "check_ready", "check_sheets", "figures_of", "lay_out",
    "marks_round", "parts_of", "readied", "schedule_of", "tighter", "timing_of", "turned", "why_not", "with_laid",
    "with_seam", "without_seams",
]  # fmt: skip
