"""Files from elsewhere: drawings of other programs, to be checked before they are cut."""

from sketchloom.core.elsewhere.check_file import READERS, read_drawing, stack_of, subject_of
from sketchloom.core.elsewhere.drawing import Drawing

__all__ = ["READERS", "Drawing", "read_drawing", "stack_of", "subject_of"]
