"""What a picture went through before it was opened, and how that is undone."""

from sketchloom.core.worn.enlarged import Enlargement, find_enlargement
from sketchloom.core.worn.redraw import Redrawn, redrawn, redrawn_within
from sketchloom.core.worn.restore import Restored, restored
from sketchloom.core.worn.stored import Stored, find_stored

__all__ = [
    "Enlargement",
    "Redrawn",
    "Restored",
    "Stored",
    "find_enlargement",
    "find_stored",
    "redrawn",
    "redrawn_within",
    "restored",
]
