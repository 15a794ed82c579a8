"""Faces to layers: sets of faces, each leaving as one compound path in mm."""

from sketchloom.core.layers.finish import PX_PER_MM_UNSET, FinishSettings, finish, first_scale
from sketchloom.core.layers.outlines import DoubleEdge, double_edges, one_edge
from sketchloom.core.layers.stack import Layer, LayerPlan, LayerSettings, LayerStack, build_layers, plan_layers
from sketchloom.core.layers.strokes import Join, StrokeLayer, find_strokes, join_ends, stroke_layer

__all__ = [
    "PX_PER_MM_UNSET",
    "DoubleEdge",
    "FinishSettings",
    "Join",
    "Layer",
    "LayerPlan",
    "LayerSettings",
    "LayerStack",
    "StrokeLayer",
    "build_layers",
    "double_edges",
    "find_strokes",
    "finish",
    "first_scale",
    "join_ends",
    "one_edge",
    "plan_layers",
    "stroke_layer",
]
