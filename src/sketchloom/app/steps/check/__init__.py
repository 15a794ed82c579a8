"""The Check step."""

from sketchloom.app.steps.check.step import CheckStep

__all__ = ["CheckStep"]
