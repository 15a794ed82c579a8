"""Pieces under the hand: what is too small goes, records of work are done again, islands are held."""

from sketchloom.core.tidy.bridges import MOST_BRIDGES, Direction, proposed_bridges
from sketchloom.core.tidy.choose import Measure, Pieces
from sketchloom.core.tidy.give import FillHoles, Give, JoinBeside, Keep, Together
from sketchloom.core.tidy.islands import Island, cut_labels, find_islands
from sketchloom.core.tidy.kinds import AnyWork
from sketchloom.core.tidy.lines import Bridge, Split
from sketchloom.core.tidy.reshape import Bind, Grow, Place, Smooth
from sketchloom.core.tidy.settings import Bridging, InkLimits, LimitName, TidySettings, check_tidy
from sketchloom.core.tidy.shapes import (
    CutOut,
    Draw,
    Trim,
    by_hand,
    ellipse,
    flattened,
    rectangle,
    regular,
    smooth,
    straight,
)
from sketchloom.core.tidy.sheet import Anchor, Sheet, anchors_of
from sketchloom.core.tidy.specks import Cleared, Taken, clear_specks, least_told
from sketchloom.core.tidy.tidy import Cleaned, Tidied, Worked, clean, hold_islands, kept_pixels, with_new_inks, worked
from sketchloom.core.tidy.work import Axis

__all__ = [
    "MOST_BRIDGES",
    "Anchor",
    "AnyWork",
    "Axis",
    "Bind",
    "Bridge",
    "Bridging",
    "Cleaned",
    "Cleared",
    "CutOut",
    "Direction",
    "Draw",
    "FillHoles",
    "Give",
    "Grow",
    "InkLimits",
    "Island",
    "JoinBeside",
    "Keep",
    "LimitName",
    "Measure",
    "Pieces",
    "Place",
    "Sheet",
    "Smooth",
    "Split",
    "Taken",
    "Tidied",
    "TidySettings",
    "Together",
    "Trim",
    "Worked",
    "anchors_of",
    "by_hand",
    "check_tidy",
    "clean",
    "clear_specks",
    "cut_labels",
    "ellipse",
    "find_islands",
    "flattened",
    "hold_islands",
    "kept_pixels",
    "least_told",
    "proposed_bridges",
    "rectangle",
    "regular",
    "smooth",
    "straight",
    "with_new_inks",
    "worked",
]
