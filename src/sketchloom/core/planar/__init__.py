"""Label map to planar map: junctions, arcs and faces, and where the edges truly run."""

from sketchloom.core.planar.edges import EdgeSamples, sample_edges
from sketchloom.core.planar.planarmap import OUTSIDE, PlanarMap, planar_map

__all__ = ["OUTSIDE", "EdgeSamples", "PlanarMap", "planar_map", "sample_edges"]
