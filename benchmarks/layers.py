"""Time the best order of layers, and what goes through polygons.

The best order of 12 inks on a drawn map of 200 pieces is to take under a
second; it is set against the time that numpy takes to sort ten million
numbers in the same run.

Run ``python benchmarks/layers.py``.
"""

import time

import cv2
import numpy as np

from sketchloom.core.layers import LayerSettings, find_order, group_faces
from sketchloom.core.palette import Ink, Palette
from sketchloom.core.planar import planar_map

INKS, PIECES, SIDE = 12, 200, 900


def drawn_map() -> np.ndarray:
    """Discs and rectangles of twelve inks, one over the other, until there are 200 pieces."""
    rng = np.random.default_rng(4)
    labels = np.ones((SIDE, SIDE), np.uint8)
    while True:
        x, y = (int(value) for value in rng.integers(0, SIDE, 2))
        ink, size = int(rng.integers(1, INKS + 1)), int(rng.integers(15, 90))
        if rng.random() < 0.5:
            cv2.circle(labels, (x, y), size, ink, -1)
        else:
            cv2.rectangle(labels, (x, y), (x + size, y + 2 * size), ink, -1)
        if len(planar_map(labels).faces.label) - 1 >= PIECES:
            return labels


def best_of(work, times: int = 5) -> float:
    """Shortest time of several, s."""
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return min(found)


def main() -> None:
    """Print the times."""
    labels = drawn_map()
    colours = [(20 * i, 255 - 20 * i, 90) for i in range(INKS)]
    palette = Palette(tuple(Ink("#{:02x}{:02x}{:02x}".format(*c), f"Ink {i}", c, c) for i, c in enumerate(colours)))
    planar = planar_map(labels)
    settings = LayerSettings(build="carried")
    grouping = group_faces(planar, tuple(ink.key for ink in palette), palette, settings)
    areas, lengths = planar.faces.area.astype(float), np.diff(planar.offset).astype(float)
    orders = find_order(planar, grouping, settings, areas, lengths)
    seconds = best_of(lambda: find_order(planar, grouping, settings, areas, lengths))
    numbers = np.random.default_rng(0).random(10_000_000)
    sort = best_of(lambda: np.sort(numbers), 3)
    pieces, inks = len(planar.faces.label) - 1, len(grouping.keys)
    print(f"best order of {inks} inks on {pieces} pieces: {seconds:.3f} s, {seconds / sort:.2f} times the sort")
    print(f"cost {orders.best.cost:.2f} against {orders.present.cost:.2f} as they come")


if __name__ == "__main__":
    main()
