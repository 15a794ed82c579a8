"""Opened pictures: load them, whatever they are, as upright 8-bit sRGB."""

from sketchloom.core.picture.load import MOST_PIXELS, load_picture
from sketchloom.core.picture.picture import Picture, reduce_picture

__all__ = ["MOST_PIXELS", "Picture", "load_picture", "reduce_picture"]
