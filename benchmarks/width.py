"""What typing a finished width costs on a large picture, beside the whole road, in one run.

The picture is that of ``large_picture.py``: 9 megapixels, 12 inks. Where no
label changes, only what hangs on mm is done again.
"""

import sys
import time
from pathlib import Path

import numpy as np

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import Picture

sys.path.insert(0, str(Path(__file__).parent))
from large_picture import large_picture

WIDTHS = (300.0, 310.0, 250.0, 420.0)


def _picture() -> Picture:
    rgb = large_picture()
    return Picture(np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)]))


def main() -> None:
    """Print the time of the whole road and of each width typed after it."""
    pipeline, picture = Pipeline(4_000_000_000), _picture()
    begun = time.perf_counter()
    pipeline.run(picture, Recipe().with_("finish", width=WIDTHS[0]))
    whole = time.perf_counter() - begun
    print(f"whole road {whole:.2f} s")
    for width in WIDTHS[1:]:
        begun = time.perf_counter()
        result = pipeline.run(picture, Recipe().with_("finish", width=width))
        took = time.perf_counter() - begun
        again = ", ".join(f"{name} {spent:.2f}" for name, spent in result.timings.items() if spent > 0.01)
        print(f"{width:g} mm: {took:.2f} s, {took / whole:.2f} of it; {again}")


if __name__ == "__main__":
    main()
