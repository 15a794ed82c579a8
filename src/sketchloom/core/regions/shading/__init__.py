"""Tones that follow each other like shading: shades, gradients and their bands."""
