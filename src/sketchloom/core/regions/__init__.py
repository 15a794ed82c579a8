"""Picture to label map: which ink every pixel is."""

from sketchloom.core.regions.colour import lab_of, name_of
from sketchloom.core.regions.faces import Faces, Runs, find_faces
from sketchloom.core.regions.labelmap import GROUND, Ink, LabelMap
from sketchloom.core.regions.separate import (
    Ground,
    InkPlan,
    InkStep,
    SeparateSettings,
    Tones,
    clear_ground,
    find_tones,
    ink_steps,
    label_map,
    named,
    plan_inks,
    without,
)
from sketchloom.core.regions.show import coloured
from sketchloom.core.regions.tidy import TidySettings, tidy

__all__ = [
    "GROUND",
    "Faces",
    "Ground",
    "Ink",
    "InkPlan",
    "InkStep",
    "LabelMap",
    "Runs",
    "SeparateSettings",
    "TidySettings",
    "Tones",
    "clear_ground",
    "coloured",
    "find_faces",
    "find_tones",
    "ink_steps",
    "lab_of",
    "label_map",
    "name_of",
    "named",
    "plan_inks",
    "tidy",
    "without",
]
