"""What a picture went through before it was opened, and how that is undone."""

from sketchloom.core.worn.enlarged import Enlargement, find_enlargement
from sketchloom.core.worn.redraw import Redrawn, redrawn
from sketchloom.core.worn.restore import Restored, restored

__all__ = ["Enlargement", "Redrawn", "Restored", "find_enlargement", "redrawn", "restored"]
