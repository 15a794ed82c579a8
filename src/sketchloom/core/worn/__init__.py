"""What a picture went through before it was opened, and how that is undone."""

from sketchloom.core.worn.blur import Wear, ramp_sigma, wear_of
from sketchloom.core.worn.enlarged import Enlargement, find_enlargement
from sketchloom.core.worn.jpeg import Stored, find_stored
from sketchloom.core.worn.redraw import Redrawn, redrawn, redrawn_within
from sketchloom.core.worn.restore import Restored, restored

__all__ = [
    "Enlargement",
    "Redrawn",
    "Restored",
    "Stored",
    "Wear",
    "find_enlargement",
    "find_stored",
    "ramp_sigma",
    "redrawn",
    "redrawn_within",
    "restored",
    "wear_of",
]
