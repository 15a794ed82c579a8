"""Prepare: changes that put the picture right."""

from sketchloom.app.steps.prepare.step import PrepareStep

__all__ = ["PrepareStep"]
