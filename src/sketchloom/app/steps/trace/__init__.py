"""Trace: curves."""

from sketchloom.app.steps.trace.step import TraceStep

__all__ = ["TraceStep"]
