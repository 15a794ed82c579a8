"""Faces to layers: sets of faces, each leaving as one compound path in mm."""

from sketchloom.core.layers.build import build_layers, face_areas
from sketchloom.core.layers.detail import DetailCost, detail_costs
from sketchloom.core.layers.double import DoubleEdge, double_edges, one_edge, with_lines
from sketchloom.core.layers.finish import Finished, extent_of, finish
from sketchloom.core.layers.grouping import Grouping, group_faces, parts_of, stacking, ways_of
from sketchloom.core.layers.narrow import narrowest_mm
from sketchloom.core.layers.order import MOST_EXACT, OrderCost, Orders, find_order
from sketchloom.core.layers.plan import FaceSet, LayerPlan, Planned, plan_layers
from sketchloom.core.layers.polygons import Flat, flatten
from sketchloom.core.layers.refit import refitted
from sketchloom.core.layers.rules import (
    BASE,
    CLEAR,
    SHEET,
    Build,
    CornerStyle,
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
from sketchloom.core.layers.stack import Layer, LayerStack, StrokeLayer
from sketchloom.core.layers.strokes import find_strokes, join_ends, stroke_layer
from sketchloom.core.layers.windows import HiddenWindow, find_windows

__all__ = [
    "AUTO_SLIP", "BASE", "CLEAR", "MOST_EXACT", "SHEET", "Build", "CornerStyle", "DetailCost", "DoubleEdge", "Edge",
    "FaceSet", "Finished", "Flat", "Grouping", "HiddenWindow", "Hole", "Join", "Layer", "LayerPart", "LayerPlan",
    "LayerRule", "LayerSettings", "LayerStack", "OrderCost", "OrderWeights", "Orders", "Pin", "Planned", "Slip",
    "StrokeLayer", "Way", "Window", "build_layers", "detail_costs", "double_edges", "extent_of", "face_areas",
    "find_order", "find_slip", "find_strokes", "find_windows", "finish", "flatten", "group_faces", "join_ends",
    "narrowest_mm", "one_edge", "origin_of", "part_key", "parts_of", "plan_layers", "refitted", "stacking",
    "stroke_layer", "ways_of", "with_lines",
]  # fmt: skip
