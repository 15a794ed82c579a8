"""Faces to layers: sets of faces, each leaving as one compound path in mm."""

from sketchloom.core.layers.build import build_layers
from sketchloom.core.layers.detail import DetailCost, detail_costs
from sketchloom.core.layers.double import DoubleEdge, double_edges, one_edge, with_lines
from sketchloom.core.layers.finish import Finished, extent_of, finish
from sketchloom.core.layers.grouping import Grouping, group_faces, parts_of, stacking, ways_of
from sketchloom.core.layers.mended import Beside, Mended, OnPage, mend_cuts, mend_stack
from sketchloom.core.layers.mends import (
    AnyMend,
    CloseOutline,
    EaseOutline,
    FillWindow,
    GrowPiece,
    Mend,
    PareAlong,
    RoundNotch,
    TakePiece,
    Unite,
    WidenAlong,
    check_mends,
)
from sketchloom.core.layers.order import MOST_EXACT, OrderCost, Orders, find_order
from sketchloom.core.layers.plan import FaceSet, LayerPlan, Planned, plan_layers
from sketchloom.core.layers.rules import (
    BASE,
    CLEAR,
    SHEET,
    Build,
    Edge,
    Hole,
    Join,
    LayerPart,
    LayerRule,
    LayerSettings,
    OrderWeights,
    Pin,
    Way,
    Window,
    origin_of,
    part_key,
)
from sketchloom.core.layers.slip import AUTO_SLIP, Slip, find_slip
from sketchloom.core.layers.stack import Layer, LayerStack
from sketchloom.core.layers.strokes import find_strokes, join_ends, stroke_layer, usual_width
from sketchloom.core.layers.windows import HiddenWindow, find_windows

__all__ = [
    "AUTO_SLIP", "BASE", "CLEAR", "MOST_EXACT", "SHEET", "AnyMend", "Beside", "Build", "CloseOutline",
    "DetailCost", "DoubleEdge", "EaseOutline", "Edge", "FaceSet", "FillWindow", "Finished", "Grouping",
    "GrowPiece", "HiddenWindow", "Hole", "Join", "Layer", "LayerPart", "LayerPlan", "LayerRule", "LayerSettings",
    "LayerStack", "Mend", "Mended", "OnPage", "OrderCost", "OrderWeights", "Orders", "PareAlong", "Pin",
    "Planned", "RoundNotch", "Slip", "TakePiece", "Unite", "Way", "WidenAlong", "Window",
    "build_layers", "check_mends", "detail_costs", "double_edges", "extent_of", "find_order",
    "find_slip", "find_strokes", "find_windows", "finish", "group_faces", "join_ends", "mend_cuts",
    "mend_stack", "one_edge", "origin_of", "part_key", "parts_of", "plan_layers",
    "stacking", "stroke_layer", "usual_width", "ways_of", "with_lines",
]  # fmt: skip
