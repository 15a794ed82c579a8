"""What lies at a place of the source, how long things are at the finished size, and where curves stray."""

from typing import NamedTuple

import numpy as np

from sketchloom.core.arrays import Floats
from sketchloom.core.job.result import Result
from sketchloom.core.layers import parts_of
from sketchloom.core.palette import Colour, Ink
from sketchloom.core.picture import Picture, Point, on_picture, unit_at
from sketchloom.core.planar import OUTSIDE
from sketchloom.core.regions import GROUND, Closing

__all__ = [
    "HeatLevel",
    "colour_at",
    "darkest_at",
    "detail_at",
    "gap_mm",
    "heat_levels",
    "ink_at",
    "largest_ink",
    "layer_key_at",
    "longer_side_mm",
    "px_per_mm_of",
]


class HeatLevel(NamedTuple):
    """Edges of the picture that lie about equally far from the curves."""

    share: float  # of the largest distance, 0 to 1
    steps: Floats  # (N, 4) x, y to x, y; px of the full prepared picture


def _pixel(result: Result, at: Point) -> tuple[int, int] | None:
    x, y = np.floor(on_picture(result.picture, [at])[0]).astype(int).tolist()
    return (x, y) if 0 <= x < result.picture.width and 0 <= y < result.picture.height else None


def colour_at(result: Result, at: Point) -> Colour | None:
    """The colour that the picture the inks were read from has at a place of the source."""
    pixel = _pixel(result, at)
    if pixel is None:
        return None
    red, green, blue = (int(v) for v in result.tones.evidence[pixel[1], pixel[0], :3])
    return red, green, blue


def darkest_at(result: Result, at: Point) -> Colour | None:
    """The darkest colour within two pixels of a place: a stroke is thin, and its edges are pale."""
    picture = result.prepared.picture
    x, y = np.floor(on_picture(picture, [at])[0]).astype(int)
    part = picture.rgba[max(0, y - 2) : max(0, y + 3), max(0, x - 2) : max(0, x + 3), :3].reshape(-1, 3)
    if x < 0 or y < 0 or not len(part):
        return None
    red, green, blue = (int(v) for v in part[int(part.astype(int).sum(1).argmin())])
    return red, green, blue


def ink_at(result: Result, at: Point) -> Ink | None:
    """The ink that lies at a place of the source, or None where nothing is cut."""
    pixel = _pixel(result, at)
    regions = result.regions
    if pixel is None or regions.labels.shape != (result.picture.height, result.picture.width):
        return None
    label = int(regions.labels[pixel[1], pixel[0]])
    return result.palette.get(regions.keys[label - 1]) if label != GROUND else None


def layer_key_at(result: Result, at: Point) -> str:
    """Key of the topmost layer that shows at a place of the source; empty where none does."""
    pixel = _pixel(result, at)
    regions, runs = result.regions, result.tidied.runs
    if pixel is None or regions.labels.shape != (result.picture.height, result.picture.width):
        return ""
    face = int(runs.face_at(np.array(pixel[1] * regions.labels.shape[1] + pixel[0])))
    stencil = result.stack.build == "stencil"
    for layer in reversed(result.stack.layers):
        if not layer.hidden and layer.faces[face] != stencil:
            return layer.key
    return ""


def detail_at(result: Result, at: Point, alike: bool) -> list[int]:
    """Faces of the detail at a place of the source: a piece with what lies wholly inside it; empty for ground.

    With `alike` those of all pieces of its ink.
    """
    pixel, planar = _pixel(result, at), result.planar
    if pixel is None or result.regions.labels.shape != (result.picture.height, result.picture.width):
        return []
    face = int(result.tidied.runs.face_at(np.array(pixel[1] * result.regions.labels.shape[1] + pixel[0])))
    label = planar.faces.label
    if not label[face]:
        return []
    own = label == label[face] if alike else np.arange(len(label)) == face
    around = parts_of(planar, ~own)
    inside = (around >= 0) & (around != around[OUTSIDE]) & (label > 0)
    return [int(one) for one in np.flatnonzero(own | inside)]


def largest_ink(result: Result) -> Ink | None:
    """The ink whose layer covers most."""
    layers = [layer for layer in result.stack.layers if layer.key in result.palette] if result.has("mended") else []
    return max(layers, key=lambda layer: layer.area).ink if layers else None


def px_per_mm_of(result: Result, picture: Picture) -> float:
    """Pixels a mm, at the finished size, of a picture that the prepared one was made from, in its middle."""
    prepared = result.prepared.picture
    px_per_mm = result.finished.px_per_mm / result.reduction
    return px_per_mm if picture is prepared else px_per_mm * unit_at(picture) / unit_at(prepared)


def longer_side_mm(result: Result) -> float:
    """Mm that the opened picture's longer side is long at the finished size: what source coordinates are shares of."""
    return unit_at(result.prepared.picture) * result.reduction / result.finished.px_per_mm


def gap_mm(result: Result, leak: Closing) -> float:
    """How far a leak is open, mm: the closing less its own width."""
    length = float(np.hypot(*np.subtract(leak.last, leak.first)))
    return max(0.0, length - leak.width) * longer_side_mm(result)


def heat_levels(result: Result, count: int) -> list[HeatLevel]:
    """Sort the steps between samples of the picture's edges by how far they lie from the curves; the frame left out."""
    deviation, planar = result.curves.deviation, result.planar
    arc = np.repeat(np.arange(len(deviation.offset) - 1), np.diff(deviation.offset))
    inner = (planar.left[arc] > 0) & (planar.right[arc] > 0)
    most = max(float(deviation.away[inner].max()), 1e-9) if inner.any() else 1.0
    place = deviation.place / result.reduction
    joined = np.flatnonzero((arc[1:] == arc[:-1]) & inner[1:])
    farther = np.maximum(deviation.away[joined], deviation.away[joined + 1])
    level = np.minimum((farther / most * count).astype(int), count - 1)
    ends = np.hstack([place[joined], place[joined + 1]])
    return [HeatLevel(heat / max(1, count - 1), ends[level == heat]) for heat in range(count)]
