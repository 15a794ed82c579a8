"""Two versions, or two jobs, side by side."""

from sketchloom.app.beside.page import BesidePage

__all__ = ["BesidePage"]
