"""The kinds of work by hand. Adding one is its file, and a line here."""

from sketchloom.core.tidy.give import FillHoles, Give, JoinBeside, Keep
from sketchloom.core.tidy.lines import Bridge, Split
from sketchloom.core.tidy.reshape import Bind, Grow, Place, Smooth
from sketchloom.core.tidy.shapes import Draw, Trim

__all__ = ["AnyWork"]

AnyWork = Give | JoinBeside | FillHoles | Keep | Split | Bridge | Draw | Trim | Grow | Smooth | Bind | Place
