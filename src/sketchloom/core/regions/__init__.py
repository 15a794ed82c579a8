"""Picture to label map: which ink every pixel is."""

from sketchloom.core.regions.colour import lab_of, name_of
from sketchloom.core.regions.faces import Faces, Runs, find_faces
from sketchloom.core.regions.ground import Ground, clear_ground
from sketchloom.core.regions.ink import InkReading
from sketchloom.core.regions.inks import is_clean
from sketchloom.core.regions.kind import SHADED_INKS, SHADED_SHARE, flat_share, is_two_toned
from sketchloom.core.regions.labelmap import GROUND, Ink, LabelMap
from sketchloom.core.regions.lineart import FILLS, find_leaks
from sketchloom.core.regions.picks import usual_reach
from sketchloom.core.regions.plan import InkPlan, InkStep, dressed, ink_steps, label_map, plan_inks
from sketchloom.core.regions.settings import Bridge, Colour, Fill, Pick, SeparateSettings
from sketchloom.core.regions.show import coloured
from sketchloom.core.regions.tidy import TidySettings, tidy
from sketchloom.core.regions.tones import Tones, find_tones

__all__ = [
    "FILLS",
    "GROUND",
    "SHADED_INKS",
    "SHADED_SHARE",
    "Bridge",
    "Colour",
    "Faces",
    "Fill",
    "Ground",
    "Ink",
    "InkPlan",
    "InkReading",
    "InkStep",
    "LabelMap",
    "Pick",
    "Runs",
    "SeparateSettings",
    "TidySettings",
    "Tones",
    "clear_ground",
    "coloured",
    "dressed",
    "find_faces",
    "find_leaks",
    "find_tones",
    "flat_share",
    "ink_steps",
    "is_clean",
    "is_two_toned",
    "lab_of",
    "label_map",
    "name_of",
    "plan_inks",
    "tidy",
    "usual_reach",
]
