"""Tidy: pieces under the hand."""

from sketchloom.app.steps.tidy.step import TidyStep

__all__ = ["TidyStep"]
