"""The canvas: one view of the work, drawn to scale, and the tools that draw on it."""

from sketchloom.app.canvas.outlines import Outlines, marks_path, outline_path
from sketchloom.app.canvas.scene import VIEWS
from sketchloom.app.canvas.view import Canvas

__all__ = ["VIEWS", "Canvas", "Outlines", "marks_path", "outline_path"]
