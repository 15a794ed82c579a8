"""Pictures whose outlines like to cross, and GEOS to count where they do."""

import numpy as np
import shapely
from PIL import Image, ImageDraw

from sketchloom.core.curves import Bounds, trace_arcs
from sketchloom.core.planar import planar_map, sample_edges
from tests.core.test_planar import regions_of

INKS = np.array([(255, 255, 255), (200, 40, 50), (40, 80, 180), (30, 140, 60), (240, 200, 40), (20, 20, 24)], np.uint8)


def traced_map(labels):
    """A label map's planar map, and its curves as they are fitted, not yet drawn apart."""
    planar = planar_map(labels)
    return planar, trace_arcs(planar, sample_edges(planar, regions_of(labels)), Bounds(0.05))


def crossed(segments, straight=None):
    """Places where segments, (S, 4, 2), cross inside both, by GEOS; each is 48 chords, alike both ways."""
    if not len(segments):
        return np.zeros((0, 2))
    back = (segments[:, 0] > segments[:, 3])[:, 0] | (
        (segments[:, 0, 0] == segments[:, 3, 0]) & (segments[:, 0, 1] > segments[:, 3, 1])
    )
    control = np.where(back[:, None, None], segments[:, ::-1], segments)
    t = np.linspace(0, 1, 49)[:, None, None]
    points = (1 - t) ** 3 * control[:, 0] + 3 * t * (1 - t) ** 2 * control[:, 1]
    points = np.moveaxis(points + 3 * t * t * (1 - t) * control[:, 2] + t**3 * control[:, 3], 0, 1)
    points[:, -1] = control[:, 3]
    chords = np.stack([points[:, :-1], points[:, 1:]], 2).reshape(-1, 2, 2)
    chords = chords[np.abs(chords[:, 0] - chords[:, 1]).max(1) > 1e-9]
    lines = shapely.linestrings(chords)
    one, other = shapely.STRtree(lines).query(lines, predicate="crosses")
    one, other = one[one < other], other[one < other]
    at = shapely.get_coordinates(shapely.intersection(lines[one], lines[other]))
    ends = [np.hypot(*(at - chords[row, end]).T) for row in (one, other) for end in (0, 1)]
    return at[np.minimum.reduce(ends) > 1e-6] if len(at) else at


def maze(seed, side=25):
    """Corridors a pixel wide, hard-edged."""
    random = np.random.default_rng(seed)
    wall, way = np.ones((side, side), int), [(1, 1)]
    wall[1, 1] = 0
    while way:
        y, x = way[-1]
        steps = [(dy, dx) for dy, dx in ((0, 2), (2, 0), (0, -2), (-2, 0))
                 if 0 < y + dy < side - 1 and 0 < x + dx < side - 1 and wall[y + dy, x + dx]]  # fmt: skip
        if not steps:
            way.pop()
            continue
        dy, dx = steps[random.integers(len(steps))]
        wall[y + dy // 2, x + dx // 2] = wall[y + dy, x + dx] = 0
        way.append((y + dy, x + dx))
    return INKS[np.where(wall, 5, 0)]


def noise(seed, side=60):
    """Blobs of two inks, about two pixels wide."""
    field = np.random.default_rng(seed).normal(size=(side, side))
    smooth = sum(np.roll(field, (dy, dx), (0, 1)) for dy in (-1, 0, 1) for dx in (-1, 0, 1))
    return INKS[np.where(smooth > 0, 5, 0)]


def drawn(seed, what, side=110, factor=4):
    """Thin lines, stars or discs over each other, with soft edges."""
    random, whole = np.random.default_rng(seed), side * factor
    image = Image.new("RGB", (whole, whole), "white")
    pen = ImageDraw.Draw(image)
    for i in range({"lines": 25, "stars": 8, "discs": 25}[what]):
        ink = tuple(INKS[1 + i % 5].tolist())
        if what == "lines":
            pen.line(random.integers(0, whole, 4).tolist(), ink, int(random.integers(2, 14)))
            continue
        (x, y), r = random.integers(0, whole, 2), float(random.integers(4, 24) * factor)
        if what == "discs":
            pen.ellipse((x - r, y - r, x + r, y + r), ink)
            continue
        count = int(random.integers(3, 8))
        turn = np.arange(2 * count) * np.pi / count + random.random()
        reach = np.where(np.arange(2 * count) % 2, 0.4 * r, r)
        pen.polygon([(x + q * np.cos(t), y + q * np.sin(t)) for q, t in zip(reach, turn, strict=True)], ink)
    return np.asarray(image.resize((side, side), Image.Resampling.BOX))


HARD = {
    **{f"maze {seed}": maze(seed) for seed in (1, 2)},
    **{f"noise {seed}": noise(seed) for seed in (1, 2, 3)},
    **{f"{what} {seed}": drawn(seed, what) for what in ("lines", "stars", "discs") for seed in (1, 2, 3)},
}
