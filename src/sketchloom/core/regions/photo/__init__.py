"""Photographs: steps of light, or a few colours, made simple."""
