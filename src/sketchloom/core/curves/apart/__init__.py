"""Curves that cannot cross: searched for wherever they are, and drawn apart where they do."""

from sketchloom.core.curves.apart.apart import drawn_apart
from sketchloom.core.curves.apart.areas import face_areas
from sketchloom.core.curves.apart.crossings import Crossings, find_crossings
from sketchloom.core.curves.apart.tips import tips_uncrossed

__all__ = ["Crossings", "drawn_apart", "face_areas", "find_crossings", "tips_uncrossed"]
