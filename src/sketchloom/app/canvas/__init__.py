"""The canvas: one view of the work, drawn to scale."""

from sketchloom.app.canvas.view import VIEWS, Canvas

__all__ = ["VIEWS", "Canvas"]
