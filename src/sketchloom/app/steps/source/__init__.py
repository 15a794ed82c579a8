"""Source: what was opened, and what it is good for."""

from sketchloom.app.steps.source.step import SourceStep

__all__ = ["SourceStep"]
