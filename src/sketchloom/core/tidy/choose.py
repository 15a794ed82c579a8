"""The pieces of a tidied map as a maker points at them: one, many of a sort, those in or beside others."""

from collections.abc import Iterable
from typing import Any, NamedTuple

import cv2
import numpy as np

from sketchloom.core.arrays import Bools, Bytes, Floats, Ints, ranges
from sketchloom.core.picture import Picture, Point, on_picture
from sketchloom.core.regions import GROUND
from sketchloom.core.tidy.give import Together
from sketchloom.core.tidy.kinds import AnyWork
from sketchloom.core.tidy.sheet import Anchor, Sheet, anchors_of, coarse_mask
from sketchloom.core.tidy.thin import narrowest
from sketchloom.core.tidy.tidy import Tidied

__all__ = ["Measure", "Pieces"]

_SHOWN = 600_000
"""px of a box that are looked at to outline a piece."""
_LOOKED_AT = 120_000
"""px of a box that are looked at for the narrowest place of a piece."""
_LONG, _STAIRS = 100, 0.75
"""Points of an outline that is made plainer for showing, and by how many of its steps it may move."""
_MOST_LINES = 40
"""Of a piece that are outlined: its own, and its holes of the longest edges."""
_LIKE_AREA, _LIKE_SHAPE = 1.15, 0.12
"""How many times larger one piece like another may be, and how far its invariants may differ."""


class Measure(NamedTuple):
    """What is told of a piece."""

    key: str  # of its ink; empty for ground
    width: float  # mm
    height: float
    area: float  # mm2


def _plainer(line: Any) -> Any:
    """A long outline without the stairs of its pixels, which take long to draw and cannot be seen."""
    return cv2.approxPolyDP(line, _STAIRS, True) if len(line) > _LONG else line


class Pieces:
    """Pieces, by the number that they have in this one result; what outlives it is told by anchors."""

    def __init__(self, tidied: Tidied, picture: Picture, px_per_mm: float) -> None:
        self.tidied, self.picture, self.px_per_mm = tidied, picture, px_per_mm
        self._faces, self._runs = tidied.faces, tidied.runs
        self._shape = tidied.regions.labels.shape
        self._narrow: dict[int, float] = {}
        self._outlines: dict[int, list[Floats]] = {}

    def at(self, place: Point) -> int:
        """The piece at a place of the source; 0 outside the picture."""
        x, y = np.floor(on_picture(self.picture, [place])[0]).astype(int).tolist()
        height, width = self._shape
        return int(self._runs.face_at(np.array([y * width + x]))[0]) if 0 <= x < width and 0 <= y < height else 0

    def measure(self, piece: int) -> Measure:
        """Ink, size and area of a piece."""
        left, top, right, bottom = (float(value) for value in self._faces.box[piece])
        label, scale = int(self._faces.label[piece]), self.px_per_mm
        return Measure(
            self.tidied.regions.keys[label - 1] if label else "",
            (right - left) / scale,
            (bottom - top) / scale,
            float(self._faces.area[piece]) / scale**2,
        )

    def knows_narrowest(self, piece: int) -> bool:
        """Whether the narrowest place of a piece was measured already."""
        return piece in self._narrow

    def narrowest(self, piece: int) -> float:
        """Width of a piece's narrowest tail or neck, mm; of large pieces looked at more coarsely."""
        if piece not in self._narrow:
            mask, step, _, _ = coarse_mask(self._faces, self._runs, piece, self._shape[1], _LOOKED_AT)
            self._narrow[piece] = step * narrowest(mask > 0) / self.px_per_mm
        return self._narrow[piece]

    def is_cut(self, piece: int) -> bool:
        """Whether a piece is no ground."""
        return bool(self._faces.label[piece] != GROUND)

    def box(self, pieces: list[int]) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of some pieces together, px."""
        boxes = self._faces.box[pieces].astype(float)
        left, top = boxes[:, :2].min(0).tolist()
        right, bottom = boxes[:, 2:].max(0).tolist()
        return left, top, right, bottom

    def found(self, anchors: Iterable[Anchor]) -> list[int]:
        """Pieces that anchors stand for, as far as they are there."""
        sheet = Sheet(self.tidied.regions, self.picture, self.px_per_mm)
        sheet.take_faces(self._faces, self._runs)
        return sheet.found(anchors)[0]

    def anchors(self, pieces: Iterable[int]) -> tuple[Anchor, ...]:
        """Anchors that stand for pieces."""
        return anchors_of(self.tidied.regions, self.picture, self._faces, self._runs, pieces)

    def anchors_after(
        self,
        pieces: list[int],
        by: Point = (0.0, 0.0),
        turn: float = 0.0,
        scale: float = 1.0,
        mirror: bool = False,
        copy: bool = False,
    ) -> tuple[Anchor, ...]:
        """Anchors of pieces that `Place` puts elsewhere, or of their copies."""
        sheet = Sheet(self.tidied.regions, self.picture, self.px_per_mm)
        left, top, right, bottom = self.box(pieces)
        middle = np.array([(left + right) / 2, (top + bottom) / 2])
        (x, y) = sheet.source([(middle[0], middle[1])])[0]
        there = sheet.pixels([(x + by[0], y + by[1])])[0]
        angle = np.deg2rad(turn)
        rotate = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
        flip = np.diag([-scale if mirror else scale, scale])
        own = self.anchors(pieces)
        at = (sheet.pixels([anchor.at for anchor in own]) - middle) @ (rotate @ flip).T + there
        places = sheet.source([(px, py) for px, py in at.tolist()])
        return tuple(
            Anchor(place, float(f"{anchor.area * scale**2:.4g}")) for place, anchor in zip(places, own, strict=True)
        )

    def together(self, pieces: Iterable[int], work: tuple[AnyWork, ...]) -> list[int]:
        """Pieces, and those that are kept together with them."""
        out = list(dict.fromkeys(pieces))
        sheet = Sheet(self.tidied.regions, self.picture, self.px_per_mm)
        sheet.take_faces(self._faces, self._runs)
        kept = [one for one in work if isinstance(one, Together) and one.on]
        kept += [other for one in kept if one.axis and (other := one.mirrored(sheet)) is not None]
        groups = [sheet.found(one.pieces)[0] for one in kept]
        for piece in out:  # grows while it is walked: groups may share a piece
            out += [other for group in groups if piece in group for other in group if other not in out]
        return out

    def of_ink(self, key: str) -> list[int]:
        """All of an ink."""
        keys = self.tidied.regions.keys
        return np.flatnonzero(self._faces.label == keys.index(key) + 1).tolist() if key in keys else []

    @property
    def cut(self) -> list[int]:
        """All that are no ground."""
        return np.flatnonzero(self._faces.label != GROUND).tolist()

    def same_ink(self, piece: int) -> list[int]:
        """All of a piece's ink; of ground, all ground."""
        same = self._faces.label == self._faces.label[piece]
        same[0] = False
        return np.flatnonzero(same).tolist()

    def smaller(self, piece: int) -> list[int]:
        """All that are cut and no larger than a piece."""
        small = (self._faces.label != GROUND) & (self._faces.area <= self._faces.area[piece])
        return np.flatnonzero(small).tolist()

    def alike(self, piece: int) -> list[int]:
        """All of a piece's ink that have its size and shape, turned or mirrored too (moments of Hu 1962)."""
        near = np.abs(np.log(np.maximum(self._faces.area, 1) / self._faces.area[piece])) < np.log(_LIKE_AREA)
        near &= self._faces.label == self._faces.label[piece]
        near[0] = False
        own = self._invariants(piece)
        some = np.flatnonzero(near).tolist()
        return [other for other in some if np.abs(self._invariants(other) - own).max() < _LIKE_SHAPE]

    def inside(self, pieces: Iterable[int]) -> list[int]:
        """All that is cut and that some pieces go round."""
        out: set[int] = set()
        for piece in pieces:
            mask, left, top = self.mask(piece)
            padded = np.pad((~mask).view(np.uint8), 1, constant_values=1)
            _, parts = cv2.connectedComponents(padded, connectivity=4)
            holes = (parts[1:-1, 1:-1] != parts[0, 0]) & ~mask
            out.update(self._in_mask(holes, left, top))
        return sorted(out)

    def touching(self, pieces: Iterable[int]) -> list[int]:
        """All that is cut and beside some pieces."""
        chosen = set(pieces)
        out: set[int] = set()
        cross = cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))
        for piece in chosen:
            mask, left, top = self.mask(piece, 1)
            ring = (cv2.dilate(mask.view(np.uint8), cross) > 0) & ~mask
            y, x = np.nonzero(ring)
            y, x = y + top, x + left
            there = (x >= 0) & (y >= 0) & (x < self._shape[1]) & (y < self._shape[0])
            out.update(np.unique(self._runs.face_at((y * self._shape[1] + x)[there])).tolist())
        return sorted(face for face in out - chosen if self._faces.label[face] != GROUND)

    def others(self, pieces: Iterable[int]) -> list[int]:
        """All that are cut and not among some pieces."""
        chosen = set(pieces)
        return [piece for piece in self.cut if piece not in chosen]

    def in_outline(self, points: list[Point]) -> list[int]:
        """All that is cut and lies wholly within a closed line."""
        line = np.rint(on_picture(self.picture, points) - 0.5).astype(np.int32)
        mask = np.zeros(self._shape, np.uint8)
        cv2.fillPoly(mask, [line.reshape(-1, 1, 2)], 1)
        held = np.bincount(self._runs.face, self._within(mask), len(self._faces.area))
        return np.flatnonzero((held == self._faces.area) & (self._faces.label != GROUND) & (held > 0)).tolist()

    def _within(self, mask: Bytes) -> Ints:
        """How many px of each run lie in a mask."""
        total = np.append(0, np.cumsum(mask.ravel(), dtype=np.int64))
        return total[self._runs.start + self._runs.length] - total[self._runs.start]

    def mask(self, piece: int, rim: int = 0) -> tuple[Bools, int, int]:
        """Pixels of a piece within its box and a rim, and where that begins: left and top."""
        left, top, right, bottom = self._faces.box[piece].tolist()
        rows = np.flatnonzero(self._runs.face == piece)
        index, _ = ranges(self._runs.start[rows], self._runs.length[rows])
        y, x = np.divmod(index, self._shape[1])
        out = np.zeros((bottom - top + 2 * rim, right - left + 2 * rim), bool)
        out[y - top + rim, x - left + rim] = True
        return out, left - rim, top - rim

    def _in_mask(self, mask: Bools, left: int, top: int) -> list[int]:
        x, y = np.floor(self._faces.inside).astype(int).T
        x, y = x - left, y - top
        there = (x >= 0) & (y >= 0) & (x < mask.shape[1]) & (y < mask.shape[0]) & (self._faces.label != GROUND)
        there[there] = mask[y[there], x[there]]
        return np.flatnonzero(there).tolist()

    def _invariants(self, piece: int) -> Floats:
        moments = cv2.HuMoments(cv2.moments(self.mask(piece)[0].view(np.uint8), binaryImage=True)).ravel()[:3]
        out: Floats = np.cbrt(moments) * (0.5, 1.0, 1.0)
        return out

    def outlines(self, pieces: Iterable[int]) -> list[Floats]:
        """Closed lines round pieces and their largest holes, px; for showing: those of large pieces are coarser."""
        return [line for piece in pieces for line in self._lines(piece)]

    def _lines(self, piece: int) -> list[Floats]:
        if piece not in self._outlines:
            mask, step, left, top = coarse_mask(self._faces, self._runs, piece, self._shape[1], _SHOWN)
            lines, _ = cv2.findContours(mask, cv2.RETR_CCOMP, cv2.CHAIN_APPROX_SIMPLE)
            shift = (left + step * (0.5 - 1), top + step * (0.5 - 1))
            largest = sorted(lines, key=len, reverse=True)[:_MOST_LINES]
            self._outlines[piece] = [step * _plainer(line)[:, 0].astype(float) + shift for line in largest]
        return self._outlines[piece]
