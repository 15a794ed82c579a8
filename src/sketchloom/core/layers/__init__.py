"""Faces to layers: sets of faces, each leaving as one compound path in mm."""

from sketchloom.core.layers.build import LayerPlan, build_layers, face_areas, plan_layers, stacking
from sketchloom.core.layers.double import DoubleEdge, double_edges, one_edge, with_lines
from sketchloom.core.layers.finish import Finished, extent_of, finish
from sketchloom.core.layers.rules import Build, Edge, Join, LayerRule, LayerSettings
from sketchloom.core.layers.stack import Layer, LayerStack, StrokeLayer
from sketchloom.core.layers.strokes import find_strokes, join_ends, stroke_layer

__all__ = [
    "Build",
    "DoubleEdge",
    "Edge",
    "Finished",
    "Join",
    "Layer",
    "LayerPlan",
    "LayerRule",
    "LayerSettings",
    "LayerStack",
    "StrokeLayer",
    "build_layers",
    "double_edges",
    "extent_of",
    "face_areas",
    "find_strokes",
    "finish",
    "join_ends",
    "one_edge",
    "plan_layers",
    "stacking",
    "stroke_layer",
    "with_lines",
]
