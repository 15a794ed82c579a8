"""Sketch Loom: a picture goes in, layered cut files come out."""

__version__ = "0.1.0"
