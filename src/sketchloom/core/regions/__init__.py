"""Picture to label map: which ink every pixel is."""

from sketchloom.core.colour import colour_difference, lab_of, name_of, nearest_apart
from sketchloom.core.regions.faces import Faces, Runs, find_faces
from sketchloom.core.regions.flat.cores import is_clean
from sketchloom.core.regions.ground import Ground, clear_ground, ground_key, subject_box
from sketchloom.core.regions.ink.drawing import InkDrawing, InkReading
from sketchloom.core.regions.ink.lineart import FILLS, find_leaks
from sketchloom.core.regions.ink.tones import find_drawing
from sketchloom.core.regions.kind import Found, Kind, Road, find_kind, flat_share, road_of
from sketchloom.core.regions.labelmap import GROUND, DrawnEdge, LabelMap, label_of_cells
from sketchloom.core.regions.picks import usual_reach
from sketchloom.core.regions.plan import InkPlan, InkStep, dressed, ink_steps, label_map, plan_inks
from sketchloom.core.regions.roads import find_tones
from sketchloom.core.regions.settings import Closing, Fill, Pick, SeparateSettings
from sketchloom.core.regions.shading.shaded import shaded
from sketchloom.core.regions.shading.shades import MOST_BANDS, Shades
from sketchloom.core.regions.show import coloured
from sketchloom.core.regions.tones import Tones

__all__ = [
    "FILLS",
    "GROUND",
    "MOST_BANDS",
    "Closing",
    "DrawnEdge",
    "Faces",
    "Fill",
    "Found",
    "Ground",
    "InkDrawing",
    "InkPlan",
    "InkReading",
    "InkStep",
    "Kind",
    "LabelMap",
    "Pick",
    "Road",
    "Runs",
    "SeparateSettings",
    "Shades",
    "Tones",
    "clear_ground",
    "colour_difference",
    "coloured",
    "dressed",
    "find_drawing",
    "find_faces",
    "find_kind",
    "find_leaks",
    "find_tones",
    "flat_share",
    "ground_key",
    "ink_steps",
    "is_clean",
    "lab_of",
    "label_map",
    "label_of_cells",
    "name_of",
    "nearest_apart",
    "plan_inks",
    "road_of",
    "shaded",
    "subject_box",
    "usual_reach",
]
