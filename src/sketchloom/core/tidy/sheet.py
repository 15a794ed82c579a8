"""What work by hand is done on: labels, parts and drawn edges of a picture, changed one record after the other."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

import cv2
import msgspec
import numpy as np
import shapely

from sketchloom.core.arrays import Bools, Bytes, Floats, ranges
from sketchloom.core.picture import Picture, Point, inside_lines, on_picture, source_points, unit_at
from sketchloom.core.regions import GROUND, DrawnEdge, Faces, LabelMap, Runs, find_faces, label_of_cells

__all__ = ["Anchor", "Sheet", "Window", "anchors_of", "coarse_mask", "inside_polygon", "window_of_polygon"]

Window = tuple[slice, slice]
"""Rows and columns of a picture."""

_DEEP = 1_000_000
"""px of a box that are looked at for the place deepest in a piece."""
_LIKE = 4.0
"""How many times larger or smaller than it was a piece may be found again."""


class Anchor(msgspec.Struct, frozen=True):
    """A piece, known by a place that surely lies inside it; never by a number."""

    at: Point
    area: float = 0.0
    """Of the piece, in squares of the opened picture's longer side; 0 takes a piece of any size."""


class Sheet:
    """A label map that is worked on.

    Attributes
    ----------
    labels : (H, W) uint8
    parts : (H, W) uint16 or None
    keys : list of str
    drawn : list of DrawnEdge
    picture : Picture
    px_per_mm : float
    """

    def __init__(self, regions: LabelMap, picture: Picture, px_per_mm: float) -> None:
        self._regions = regions
        self.labels, self.parts = regions.labels, regions.parts
        self.keys, self.drawn = list(regions.keys), list(regions.drawn)
        self.picture, self.px_per_mm = picture, px_per_mm
        self._found: tuple[Faces, Runs] | None = None

    @property
    def regions(self) -> LabelMap:
        """The map as it is now."""
        return replace(
            self._regions, labels=self.labels, parts=self.parts, keys=tuple(self.keys), drawn=tuple(self.drawn)
        )

    @property
    def faces(self) -> tuple[Faces, Runs]:
        """Its pieces."""
        if self._found is None:
            self._found = find_faces(self.regions.cells)
        return self._found

    def take_faces(self, faces: Faces, runs: Runs) -> None:
        """Take the pieces that are known already."""
        self._found = faces, runs

    def pixels(self, points: Iterable[Point]) -> Floats:
        """Source coordinates in px; (n, 2)."""
        return on_picture(self.picture, list(points))

    def source(self, points: Iterable[tuple[float, float]]) -> list[Point]:
        """Px in source coordinates."""
        return source_points(self.picture, np.array(list(points), float))

    def unit(self, at: Floats | None = None) -> float:
        """Px that the opened picture's longer side is long."""
        return unit_at(self.picture, at)

    def found(self, anchors: Iterable[Anchor]) -> tuple[list[int], int]:
        """Faces that anchors lie in, each once; and how many anchors find none."""
        faces, runs = self.faces
        height, width = self.labels.shape
        out: list[int] = []
        lost = 0
        for anchor in anchors:
            at = self.pixels([anchor.at])[0]
            x, y = np.floor(at).astype(int)
            if not (0 <= x < width and 0 <= y < height):
                lost += 1
                continue
            face = int(runs.face_at(np.array([y * width + x]))[0])
            ratio = faces.area[face] / max(1e-12, anchor.area * self.unit(at) ** 2) if anchor.area else 1.0
            if not 1 / _LIKE <= ratio <= _LIKE:
                lost += 1
            elif face not in out:
                out.append(face)
        return out, lost

    def mask(self, faces: Iterable[int]) -> Bools:
        """Pixels of some faces; (H, W)."""
        table, runs = np.zeros(len(self.faces[0].label), bool), self.faces[1]
        table[list(faces)] = True
        return np.repeat(table[runs.face], runs.length).reshape(self.labels.shape)

    def label_of(self, key: str) -> int:
        """Label of an ink; a new one for a key that the picture has not, the ground's for none."""
        if not key:
            return GROUND
        if key not in self.keys:
            self.keys.append(key)
        return self.keys.index(key) + 1

    def put(self, where: Bools, key: str) -> None:
        """Give pixels to an ink, or to the ground."""
        label = self.label_of(key)
        self.labels = np.where(where, np.uint8(label), self.labels)
        if self.parts is not None:
            self.parts = np.where(where, np.uint16(0), self.parts).astype(np.uint16)
        self._found = None

    def put_each(self, areas: Sequence[tuple[Window, Bools]], key: str) -> None:
        """Give the pixels of windows to an ink, or to the ground."""
        labels, label = self.labels.copy(), self.label_of(key)
        parts = None if self.parts is None else self.parts.copy()
        for window, where in areas:
            labels[window][where] = label
            if parts is not None:
                parts[window][where] = 0
        self.labels, self.parts, self._found = labels, parts, None

    def part_each(self, areas: Sequence[tuple[Window, Bools]]) -> None:
        """Make the pixels of each window a part of their own."""
        parts = np.zeros(self.labels.shape, np.uint16) if self.parts is None else self.parts.copy()
        last = int(parts.max())
        for number, (window, where) in enumerate(areas, last + 1):
            parts[window][where] = number
        self.parts, self._found = parts, None

    def window(self, face: int, rim: int = 0) -> tuple[Window, Bools]:
        """A window that holds a face and a rim round it, and its pixels there."""
        faces, runs = self.faces
        height, width = self.labels.shape
        box = faces.box[face] + (-rim, -rim, rim, rim)
        left, top, right, bottom = np.clip(box, 0, (width, height) * 2).tolist()
        low, high = np.searchsorted(runs.start, (top * width, bottom * width))
        own = low + np.flatnonzero(runs.face[low:high] == face)
        row, column = np.divmod(runs.start[own], width)
        place, _ = ranges((row - top) * (right - left) + column - left, runs.length[own])
        mask = np.zeros((bottom - top, right - left), bool)
        mask.ravel()[place] = True
        return np.s_[top:bottom, left:right], mask

    def put_like(self, where: Bools, key: str, cell: int) -> None:
        """Give pixels to a piece that is there, so that they are one with it."""
        label = self.label_of(key)
        self.labels = np.where(where, np.uint8(label), self.labels)
        if self.parts is not None:
            _, part = label_of_cells(np.array([cell], np.uint32))
            self.parts = np.where(where, part[0], self.parts).astype(np.uint16)
        self._found = None

    def leave(self, freed: Bools, own: Bools, to_ground: bool) -> None:
        """Give pixels that pieces leave to the ground, or to what lies nearest beside the pieces."""
        if to_ground or own.all():
            self.put(freed, "")
            return
        _, near = cv2.distanceTransformWithLabels(
            own.view(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE, labelType=cv2.DIST_LABEL_PIXEL
        )
        cells = self.regions.cells
        table = np.zeros(int(near.max()) + 1, cells.dtype)
        table[near[~own]] = cells[~own]
        labels, parts = label_of_cells(table[near])
        self.labels = np.where(freed, labels, self.labels).astype(np.uint8)
        if self.parts is not None:
            self.parts = np.where(freed, parts, self.parts).astype(np.uint16)
        self._found = None

    def holes(self, own: Bools) -> Bools:
        """All that pixels go round; (H, W)."""
        outside = np.pad((~own).view(np.uint8), 1, constant_values=1)
        _, parts = cv2.connectedComponents(outside, connectivity=4)
        holes: Bools = (parts[1:-1, 1:-1] != parts[0, 0]) & ~own
        return holes

    def draw(self, polygon: shapely.Polygon | shapely.MultiPolygon) -> None:
        """Let the outlines of an area be cut where they are drawn."""
        for part in shapely.get_parts(polygon):
            for ring in (part.exterior, *part.interiors):
                self.drawn.append(DrawnEdge(_settled(shapely.get_coordinates(ring))[:-1], closed=True))


def _settled(ring: Floats) -> Floats:
    """Points to a millionth of a px: what rounds otherwise on another run shall not decide whose a pixel is."""
    return np.round(ring, 6)


def inside_polygon(shape: tuple[int, int], polygon: shapely.Geometry) -> Bools:
    """Pixels whose middle lies inside an area, by the even-odd rule; (H, W)."""
    out = np.zeros(shape, bool)
    window, inside = window_of_polygon(shape, polygon)
    out[window] = inside
    return out


def window_of_polygon(shape: tuple[int, int], polygon: shapely.Geometry) -> tuple[Window, Bools]:
    """A window that holds an area, and its pixels whose middle lies inside, by the even-odd rule."""
    rings = [
        _settled(shapely.get_coordinates(ring))[:-1]
        for part in shapely.get_parts(polygon)
        for ring in (part.exterior, *part.interiors)
        if not part.is_empty
    ]
    if not rings:
        return np.s_[:0, :0], np.zeros((0, 0), bool)
    points = np.concatenate(rings)
    left, top = np.clip(np.floor(points.min(0)), 0, shape[::-1]).astype(int).tolist()
    right, bottom = np.clip(np.ceil(points.max(0)), 0, shape[::-1]).astype(int).tolist()
    return np.s_[top:bottom, left:right], inside_lines((bottom - top, right - left), rings, (left, top))


def coarse_mask(faces: Faces, runs: Runs, face: int, width: int, most: int) -> tuple[Bytes, int, int, int]:
    """Every so many pixels of a face within its box, and a rim of one.

    Parameters
    ----------
    faces : Faces
    runs : Runs
    face : int
    width : int
        Of the map, px.
    most : int
        px of a box that are looked at.

    Returns
    -------
    mask : (h, w) uint8
        1 where the face has the pixel itself.
    step : int
        px from one to the next.
    left, top : int
        Where the box begins, px.
    """
    left, top, right, bottom = faces.box[face].tolist()
    step = max(1, int(np.ceil(np.sqrt((right - left) * (bottom - top) / most))))
    rows = np.flatnonzero(runs.face == face)
    y, x = np.divmod(runs.start[rows], width)
    there = (y - top) % step == 0
    y, x, length = (y[there] - top) // step, x[there] - left, runs.length[rows][there]
    first, last = (x + step - 1) // step, (x + length - 1) // step
    count = np.maximum(last - first + 1, 0)
    column, _ = ranges(first, count)
    mask = np.zeros(((bottom - top - 1) // step + 3, (right - left - 1) // step + 3), np.uint8)
    mask[np.repeat(y, count) + 1, column + 1] = 1
    if step > 1 and not mask.any():  # so thin that it lies between
        return coarse_mask(faces, runs, face, width, (right - left) * (bottom - top))
    return mask, step, left, top


def anchors_of(
    regions: LabelMap, picture: Picture, faces: Faces, runs: Runs, chosen: Iterable[int]
) -> tuple[Anchor, ...]:
    """Anchor some faces at the place that lies deepest inside each."""
    out = []
    cells = regions.cells
    for face in chosen:
        own, step, left, top = coarse_mask(faces, runs, face, cells.shape[1], _DEEP)
        deep = cv2.distanceTransform(own, cv2.DIST_L2, 5)
        row, column = np.unravel_index(int(np.argmax(deep)), deep.shape)
        at = np.array([[left + step * (column - 1) + 0.5, top + step * (row - 1) + 0.5]])
        unit = unit_at(picture, at[0])
        out.append(Anchor(source_points(picture, at)[0], float(f"{faces.area[face] / unit**2:.4g}")))
    return tuple(out)
