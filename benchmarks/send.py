"""Times every format, written and read back, beside the road that traces what is sent; run from the project's root.

    .venv/bin/python benchmarks/send.py [PIECES]

Tells each as a share of that road, in one run.
"""

import sys
import time

import numpy as np

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import Picture
from sketchloom.core.send import WRITERS, page_of_layers, written


def strewn(many: int) -> Picture:
    """Discs and boxes of four inks on white, so many."""
    side = int(np.ceil(np.sqrt(many)))
    rng = np.random.default_rng(1)
    inks = np.array([(58, 42, 51), (142, 42, 91), (79, 138, 75), (42, 111, 219)], np.uint8)
    cell = 24
    rgba = np.full((side * cell, side * cell, 4), 255, np.uint8)
    rows, columns = np.mgrid[:cell, :cell] + 0.5
    for place in range(many):
        row, column = divmod(place, side)
        radius = rng.uniform(5, 10)
        off = np.hypot(rows - cell / 2, columns - cell / 2) if place % 3 else np.maximum(
            np.abs(rows - cell / 2), np.abs(columns - cell / 2)
        )  # fmt: skip
        share = np.clip(radius - off + 0.5, 0, 1)[..., None]
        here = rgba[row * cell : (row + 1) * cell, column * cell : (column + 1) * cell, :3]
        here[:] = np.round(here * (1 - share) + inks[place % 4] * share)
    return Picture(rgba)


def main(many: int) -> None:
    """Print a line a format."""
    picture = strewn(many)
    begin = time.perf_counter()
    result = Pipeline(0).run(picture, Recipe(), names=("palette", "mended"))
    road = time.perf_counter() - begin
    pieces = sum(layer.pieces for layer in result.stack.layers)
    print(f"{pieces} pieces, {sum(layer.path.nodes for layer in result.stack.layers)} nodes; the road {road:.2f} s")
    page = page_of_layers(result.stack.cuts)
    for ending, writer in WRITERS.items():
        begin = time.perf_counter()
        data = written(writer, page)
        taken = time.perf_counter() - begin
        print(f"{ending:6} {len(data) / 1e6:6.2f} MB  {taken:6.2f} s  {taken / road:5.2f} of the road")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 5000)
