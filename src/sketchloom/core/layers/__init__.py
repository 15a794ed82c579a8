"""Faces to layers: sets of faces, each leaving as one compound path in mm."""

from sketchloom.core.layers.finish import PX_PER_MM_UNSET, FinishSettings, finish, first_scale
from sketchloom.core.layers.stack import Layer, LayerSettings, LayerStack, build_layers

__all__ = [
    "PX_PER_MM_UNSET",
    "FinishSettings",
    "Layer",
    "LayerSettings",
    "LayerStack",
    "build_layers",
    "finish",
    "first_scale",
]
