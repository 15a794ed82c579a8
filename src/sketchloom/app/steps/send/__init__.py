"""Send: files for the cutter."""

from sketchloom.app.steps.send.step import SendStep

__all__ = ["SendStep"]
