"""Opened pictures: load them as upright 8-bit sRGB, and prepare them for separating."""

from sketchloom.core.picture.apply import Done, Prepared, do_row, prepare
from sketchloom.core.picture.drawings import find_drawings
from sketchloom.core.picture.follow import EdgeFollower, on_edges
from sketchloom.core.picture.load import DPI, LEAST_DPI, MOST_DPI, MOST_PIXELS, load_picture
from sketchloom.core.picture.picture import JpegTables, Picture, reduce_picture, resize_picture
from sketchloom.core.picture.place import inside_lines, on_picture, source_points, unit_at
from sketchloom.core.picture.rows import (
    Calm,
    ClearBox,
    ClearColour,
    ClearOutline,
    ClearPale,
    Crop,
    Enlarge,
    EvenLight,
    MirrorHalf,
    Paint,
    Point,
    Row,
    Sharpen,
    Straighten,
    Stroke,
    Turn,
    check_row,
    parts_of,
)
from sketchloom.core.picture.straighten import find_page

__all__ = [
    "DPI",
    "LEAST_DPI",
    "MOST_DPI",
    "MOST_PIXELS",
    "Calm",
    "ClearBox",
    "ClearColour",
    "ClearOutline",
    "ClearPale",
    "Crop",
    "Done",
    "EdgeFollower",
    "Enlarge",
    "EvenLight",
    "JpegTables",
    "MirrorHalf",
    "Paint",
    "Picture",
    "Point",
    "Prepared",
    "Row",
    "Sharpen",
    "Straighten",
    "Stroke",
    "Turn",
    "check_row",
    "do_row",
    "find_drawings",
    "find_page",
    "inside_lines",
    "load_picture",
    "on_edges",
    "on_picture",
    "parts_of",
    "prepare",
    "reduce_picture",
    "resize_picture",
    "source_points",
    "unit_at",
]
