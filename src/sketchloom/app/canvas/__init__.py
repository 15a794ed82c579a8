"""The canvas: one view of the work, drawn to scale, and the tools that draw on it."""

from sketchloom.app.canvas.outlines import Outlines, marks_path, outline_path
from sketchloom.app.canvas.view import Canvas
from sketchloom.app.canvas.views import WORK, View

__all__ = ["WORK", "Canvas", "Outlines", "View", "marks_path", "outline_path"]
