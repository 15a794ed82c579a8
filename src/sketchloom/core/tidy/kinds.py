"""The kinds of work by hand. Adding one is its file, and a line here."""

from sketchloom.core.tidy.give import FillHoles, Give, JoinBeside, Keep, Together
from sketchloom.core.tidy.lines import Bridge, Split
from sketchloom.core.tidy.reshape import Bind, Grow, Place, Smooth
from sketchloom.core.tidy.shapes import CutOut, Draw, Trim

__all__ = ["AnyWork"]

_OnWhole = Give | JoinBeside | FillHoles | Keep | Together | Grow | Smooth | Bind | Place
_Along = Split | Bridge | Draw | Trim | CutOut
AnyWork = _OnWhole | _Along
