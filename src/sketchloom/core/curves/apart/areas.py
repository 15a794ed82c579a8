"""The areas of faces by their curves."""

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.curves.arcs import ArcCurves
from sketchloom.core.planar import PlanarMap

__all__ = ["face_areas"]


def face_areas(planar: PlanarMap, curves: ArcCurves) -> Floats:
    """Area that each face has by its curves; (F,) in square units of these."""
    under, count = curves.areas(), len(planar.faces.label)
    return np.asarray(np.bincount(planar.right, under, count) - np.bincount(planar.left, under, count))
