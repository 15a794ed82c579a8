"""Layers: how layers are built, their order, and lines."""

from sketchloom.app.steps.layers.step import LayersStep

__all__ = ["LayersStep"]
