"""Opened pictures: load them as upright 8-bit sRGB, and prepare them for separating."""

from sketchloom.core.picture.load import MOST_PIXELS, load_picture
from sketchloom.core.picture.picture import Picture, reduce_picture
from sketchloom.core.picture.prepare import (
    Calm,
    ClearBox,
    ClearColour,
    Crop,
    EvenLight,
    Prepared,
    Row,
    Straighten,
    Turn,
    prepare,
)

__all__ = [
    "MOST_PIXELS",
    "Calm",
    "ClearBox",
    "ClearColour",
    "Crop",
    "EvenLight",
    "Picture",
    "Prepared",
    "Row",
    "Straighten",
    "Turn",
    "load_picture",
    "prepare",
    "reduce_picture",
]
