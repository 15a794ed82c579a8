"""Hairs and tails that are thinner than may be, and holes to fill."""

from typing import NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Floats, Ints
from sketchloom.core.regions import GROUND, Faces, LabelMap, Runs, find_faces
from sketchloom.core.tidy.specks import Taken, longest_neighbours, taken_of

__all__ = ["Thinned", "fill_holes", "narrowest", "take_hairs"]

_HALF = 0.5
"""px between the middle of the last pixel and the edge."""
_TAPER = 0.85
"""Least width of a point beside its foot, of the least width: a hair is thinner right from there."""
_ALONE = 0.93
"""The same of a piece that is thin all over."""
_LONG = 1.0
"""Length of a tail, in least widths."""
_LEAST_TOLD, _STEP_UP, _HALVINGS = 1.5, 1.4, 4
"""Widths that are tried for the narrowest place: from so many px up by that factor, then halved between."""
_SHORT_NECK = 0.75
"""How far the middle of a neck lies from what is wide, in its widths, to be the narrowest place."""
_MORE = 1.5
"""px by which what is looked at may be wider than the least, so that no direction leaves anything thin out."""
_SURE = 1.0
"""px that a core may be narrower: what is as wide as the least is not nibbled at."""


class Thinned(NamedTuple):
    """A label map without hairs."""

    regions: LabelMap
    taken: tuple[Taken, ...]
    necks: int  # thin parts that stay, as they join two others


def take_hairs(regions: LabelMap, width: float | Floats, kept: Bools | None = None) -> Thinned:
    """Give the hairs and tails thinner than a width to what lies beside.

    What an opening by a disc of that width leaves out is thin: a whole piece,
    a tail, a neck between two parts, or the tip of a corner. A neck stays,
    and so does a tip, which grows out of its foot.

    Parameters
    ----------
    regions : LabelMap
    width : float or (1 + K,) float
        px; of all, or by label, ground's first.
    kept : (H, W) bool, optional
        Pieces with a pixel here stay as they are.

    References
    ----------
    .. [1] J. Serra, "Image Analysis and Mathematical Morphology", 1982.
    """
    widths = np.broadcast_to(width, 1 + len(regions.keys))
    if widths[1:].max(initial=0) <= 1:
        return Thinned(regions, (), 0)
    gone = np.zeros(regions.labels.shape, bool)
    necks = 0
    cells = regions.cells
    held = _held(regions, kept)
    wide = widths[regions.labels] > 1 if widths[1:].min(initial=2) <= 1 else True
    for label in np.unique(regions.labels[(regions.labels != GROUND) & wide]).tolist():
        hairs, more = _hairs(regions.labels == label, float(widths[label]))
        gone |= hairs & ~held
        necks += more
    if not gone.any():
        return Thinned(regions, (), necks)
    apart = cells.astype(np.int64) * 2 + gone
    faces, runs = find_faces(apart.astype(np.uint32))
    odd = (faces.cell & 1).astype(bool)
    odd[0] = False
    base = faces._replace(label=(faces.cell // 2) % 256, cell=faces.cell // 2)
    target = _beside(apart, faces, runs, odd)
    moves = odd & (target > 0)
    own = base.cell.copy()
    own[moves] = base.cell[target[moves]]
    done = np.repeat(own[runs.face], runs.length).reshape(cells.shape).astype(cells.dtype)
    return Thinned(regions.with_cells(done), tuple(taken_of("hair", base, regions.keys, np.flatnonzero(moves))), necks)


def _beside(cells: Ints, faces: Faces, runs: Runs, odd: Bools) -> Ints:
    """For each hair the neighbour of another piece that it shares the longest edge with; (F,)."""
    own = faces.cell // 2
    target = np.zeros(len(own), np.int64)
    for value in np.unique(own[odd]).tolist():
        some = longest_neighbours(cells, faces, runs, odd & (own == value), ~odd & (own != value))
        target = np.where(odd & (own == value), some, target)
    return target


def _held(regions: LabelMap, kept: Bools | None) -> Bools:
    if kept is None or not kept.any():
        return np.zeros(regions.labels.shape, bool)
    faces, runs = find_faces(regions.cells)
    table = np.zeros(len(faces.label), bool)
    table[runs.face_at(np.flatnonzero(kept))] = True
    return np.repeat(table[runs.face], runs.length).reshape(regions.labels.shape)


class _Part(NamedTuple):
    """A part of an ink that an opening by a disc leaves out, in a window that holds it."""

    number: int
    area: int  # px
    length: float  # px, of the smallest box round it, however that is turned
    deep: float  # px, the largest distance from outside
    far: Floats  # px from where it begins, of each pixel, in order
    joins: int  # parts of what is wide that it joins; 0 where it stands alone


def _hairs(own: Bools, width: float, least_neck: float = 1.0) -> tuple[Bools, int]:
    """Hairs of one ink, (H, W), and how many necks it has; those reach so many widths from what is wide.

    How wide a hair is tells its area over its length, away from what is wide:
    that is the same in every direction and at every place on the grid, as the
    distance to the nearest pixel outside is not. So hairs are sought among
    what an opening by a little more than the width leaves out.
    """
    parts, found = _thin_parts(own, width + _MORE)
    out = np.zeros(len(found) + 1, bool)
    for part in found:
        if not part.joins:
            out[part.number] = 2 * part.deep < width - _SURE or part.area / part.length < _ALONE * width
        elif part.joins == 1 and part.far[-1] >= _LONG * width:
            foot = 1 + 0.25 * float(part.far[-1])
            out[part.number] = np.searchsorted(part.far, foot) / foot < _TAPER * width
    _, narrow = _thin_parts(own, width)
    begin = width / 2 + _HALF
    necks = sum(part.joins > 1 and float(part.far[-1]) + begin > least_neck * width for part in narrow)
    return out[parts], necks


def _thin_parts(own: Bools, width: float) -> tuple[Ints, list[_Part]]:
    """Parts that an opening by a disc of a width leaves out; by number, (H, W), and one by one."""
    padded = np.pad(own.view(np.uint8), 1)
    inner = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1]
    core = inner - _HALF >= (width - _SURE) / 2
    near = cv2.distanceTransform((~core).view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    if not core.any():
        near = np.full(own.shape, np.inf, np.float32)
    begin = width / 2 + _HALF
    thin = own & (near > begin)
    count, parts, stats, _ = cv2.connectedComponentsWithStats(thin.view(np.uint8), connectivity=8)
    wide = own & ~thin
    _, bodies = cv2.connectedComponents(wide.view(np.uint8), connectivity=4)
    found = []
    for part in range(1, count):
        left, top, across, down, area = (int(value) for value in stats[part])
        rows = slice(max(0, top - 2), top + down + 2)
        columns = slice(max(0, left - 2), left + across + 2)
        here = parts[rows, columns] == part
        touched = cv2.dilate(here.view(np.uint8), np.ones((3, 3), np.uint8)) > 0
        feet = touched & wide[rows, columns]
        joins = 0
        if feet.any():
            pieces, _ = cv2.connectedComponents(feet.view(np.uint8), connectivity=8)
            joins = max(len(np.unique(bodies[rows, columns][feet])), pieces - 1)
        deep = float(inner[rows, columns][here].max()) - _HALF
        far = np.sort(near[rows, columns][here]) - begin
        length = 1.0 + max(cv2.minAreaRect(np.argwhere(here).astype(np.float32))[1])
        found.append(_Part(part, area, length, deep, far, joins))
    return np.asarray(parts, np.int64), found


def narrowest(own: Bools) -> float:
    """Width of the narrowest tail or neck of a piece, or of all of it where it has none; px.

    It is the least width at which `take_hairs` would take or tell a part;
    tips of corners do not count.

    Parameters
    ----------
    own : (H, W) bool
        Its pixels.
    """
    deep = cv2.distanceTransform(np.pad(own.view(np.uint8), 1), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    whole = 2 * (float(deep.max()) - _HALF)
    low = high = _LEAST_TOLD
    while high < whole and not _is_thin(own, high):
        low, high = high, high * _STEP_UP
    if high >= whole:
        return max(whole, 1.0)
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        low, high = (low, middle) if _is_thin(own, middle) else (middle, high)
    return (low + high) / 2 - _SURE / 2


def _is_thin(own: Bools, width: float) -> bool:
    hairs, necks = _hairs(own, width, _SHORT_NECK)
    return necks > 0 or bool(hairs.any())


def fill_holes(
    regions: LabelMap, most: float | Floats, kept: Bools | None = None
) -> tuple[LabelMap, tuple[Taken, ...]]:
    """Fill the holes of ground of at most an area, px, with the ink that goes round the most of each.

    `most` is for all, or by the label of that ink, ground's first; (1 + K,).
    """
    areas = np.broadcast_to(most, 1 + len(regions.keys))
    if areas[1:].max(initial=0) <= 0:
        return regions, ()
    cells = regions.cells
    faces, runs = find_faces(cells)
    height, width = cells.shape
    inner = (faces.box[:, :2] > 0).all(1) & (faces.box[:, 2] < width) & (faces.box[:, 3] < height)
    holes = (faces.label == GROUND) & inner & (faces.area <= areas[1:].max())
    holes[0] = False
    if kept is not None:
        holes[runs.face_at(np.flatnonzero(kept))] = False
    target = longest_neighbours(cells, faces, runs, holes)
    holes &= (target > 0) & (faces.area <= areas[faces.label[target]])
    if not holes.any():
        return regions, ()
    cell: Ints = faces.cell.copy()
    cell[holes] = faces.cell[target[holes]]
    done = np.repeat(cell[runs.face].astype(cells.dtype), runs.length).reshape(cells.shape)
    return regions.with_cells(done), tuple(taken_of("hole", faces, regions.keys, np.flatnonzero(holes)))
