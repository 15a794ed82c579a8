"""Drawings in ink: the paper, the strokes, and the areas that they enclose."""
