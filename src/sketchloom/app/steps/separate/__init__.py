"""Separate: the inks."""

from sketchloom.app.steps.separate.step import SeparateStep

__all__ = ["SeparateStep"]
