"""Pieces of odd shapes as cuts, and what holds of any layout, told by shapely."""

import math

import numpy as np
import shapely
from shapely import affinity

from sketchloom.core.curves import Path
from sketchloom.core.curves.path import straight_thirds
from sketchloom.core.cut import Cut
from sketchloom.core.palette import Ink
from sketchloom.core.sheets import Design, Layout, Work

INKS = ("#8e2a5b", "#4f8a4b", "#2a6fdb")
PLACES = Design(
    lambda points: np.array(points, float) * 100, lambda points: [(x / 100, y / 100) for x, y in points], 100.0
)
"""A design that lies in its picture at 100 mm to the longer side."""


def odd_piece(rng: np.random.Generator, least: float = 15.0, most: float = 60.0) -> shapely.Polygon:
    """A crescent, a leaf, a star, an angle, a ring or a blot, somewhere."""
    size, kind = rng.uniform(least, most), int(rng.integers(0, 6))
    if kind == 0:
        disc = shapely.Point(0, 0).buffer(size / 2)
        shape = disc.difference(shapely.Point(size / 4, 0).buffer(size * 0.45))
    elif kind == 1:
        shape = shapely.Point(-0.3 * size, 0).buffer(size / 2) & shapely.Point(0.3 * size, 0).buffer(size / 2)
    elif kind == 2:
        points = int(rng.integers(4, 8))
        angle = np.arange(2 * points) * math.pi / points
        radius = np.where(np.arange(2 * points) % 2, 0.22, 0.5) * size
        shape = shapely.Polygon(np.column_stack([radius * np.cos(angle), radius * np.sin(angle)]))
    elif kind == 3:
        third = 0.3 * size
        shape = shapely.Polygon([(0, 0), (size, 0), (size, third), (third, third), (third, size), (0, size)])
    elif kind == 4:
        disc = shapely.Point(0, 0).buffer(size / 2)
        shape = disc.difference(shapely.Point(0, 0).buffer(size * rng.uniform(0.2, 0.4)))
    else:
        angle, radius = np.sort(rng.uniform(0, 2 * math.pi, 9)), rng.uniform(0.25, 0.5, 9) * size
        shape = shapely.Polygon(np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])).buffer(0)
    largest = max(shapely.get_parts(shape), key=lambda part: part.area)
    return affinity.rotate(largest, rng.uniform(0, 360), origin=(0, 0))


def straight_path(shapes) -> Path:
    """Polygons as a path of straight segments; outer rings one way round, holes the other."""
    contours, flags = [], []
    for shape in shapes:
        for ring, way in ((shape.exterior, True), *((hole, False) for hole in shape.interiors)):
            points = np.round(np.array(ring.coords), 6)
            if shapely.LinearRing(points).is_ccw is way:
                points = points[::-1]
            control = np.zeros((len(points) - 1, 4, 2))
            control[:, 0], control[:, 3] = points[:-1], points[1:]
            straight = np.ones(len(control), bool)
            control = straight_thirds(control, straight)
            contours.append(np.vstack([control[:, :3].reshape(-1, 2), points[-1:]]))
            flags.append(straight)
    return Path(tuple(contours), tuple(flags))


def cut_of(shapes, ink: str = INKS[0], stock=None, kind="cut") -> Cut:
    """Polygons as one cut."""
    code = tuple(int(ink[place : place + 2], 16) for place in (1, 3, 5))
    return Cut(
        key=ink,
        name=ink.strip("#"),
        ink=Ink(ink, ink.strip("#"), code, code),
        path=straight_path(shapes),
        stock=stock,
        kind=kind,
    )


def work_of(cuts) -> Work:
    """Cuts of one design."""
    return Work(tuple(cuts), PLACES)


def strewn(rng: np.random.Generator, many: int, least: float = 15.0, most: float = 60.0) -> list:
    """Odd pieces that do not touch."""
    out = []
    for place in range(many):
        piece = odd_piece(rng, least, most)
        left, top, _, _ = piece.bounds
        out.append(affinity.translate(piece, 1.5 * most * (place % 8) - left, 1.5 * most * (place // 8) - top))
    return out


def assert_sound(layout: Layout, cuts, distance: float, copies, in_register: bool = False) -> None:
    """Every piece once a copy, moved as is told, far enough from others, and on what can be used.

    `copies` are those of every cut, or of each by its key.
    """
    found: dict[tuple[str, int], list] = {}
    for sheet in layout.sheets:
        shapes, owner = [], []
        for number, one in enumerate(sheet.laid):
            for part in one.item.body.parts:
                found.setdefault((part.cut.key, one.item.copy), []).append(part.shape)
                moved = affinity.scale(part.shape, -1, 1, origin=(0, 0)) if one.flipped else part.shape
                moved = affinity.translate(affinity.rotate(moved, one.turn, origin=(0, 0)), *one.at)
                shapes.append(moved)
                owner.append(number if in_register else len(owner))
        x, y, width, height = sheet.group.usable
        assert shapely.box(x, y, x + width, y + height).buffer(0.002).covers(shapely.multipolygons(shapes))
        one, other = shapely.STRtree(shapes).query(np.array(shapes, object), "dwithin", distance - 0.02)
        apart = (one < other) & (np.array(owner)[one] != np.array(owner)[other])
        assert not apart.any()
    many = {cut.key: copies if isinstance(copies, int) else copies[cut.key] for cut in cuts}
    for cut in cuts:
        every = sorted(shape.area for shape in cut.polygons.shapes)
        for copy in range(1, many[cut.key] + 1):
            assert np.allclose(sorted(shape.area for shape in found[cut.key, copy]), every)
    assert len(found) == sum(many.values())


def used_length(layout: Layout, height: float) -> float:
    """Sheets but the last, whole, and what is used of the last, mm."""
    return (len(layout.sheets) - 1) * height + layout.sheets[-1].used


def boxes_length(shapes, width: float, height: float, distance: float) -> float:
    """What rectpack needs for the boxes round some shapes, each turned by a quarter at will, mm."""
    import rectpack

    packer = rectpack.newPacker(rotation=True)
    for number, shape in enumerate(shapes):
        left, top, right, bottom = shape.bounds
        packer.add_rect(math.ceil((right - left + distance) * 10), math.ceil((bottom - top + distance) * 10), number)
    for _ in range(40):
        packer.add_bin(int((width + distance) * 10), int((height + distance) * 10))
    packer.pack()
    bins = [one for one in packer if len(one)]
    assert sum(map(len, bins)) == len(shapes)
    return (len(bins) - 1) * height + max(rect.y + rect.height for rect in bins[-1]) / 10 - distance
