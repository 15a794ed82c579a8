"""The whole road of a large picture beside a chain of general-purpose libraries, in one run.

The picture is drawn here: 3000 x 3000 px, 12 inks, 400 overlapping
anti-aliased ellipses and polygons of 20 to 300 px radius. The chain is Pillow's
median cut with 12 colours, rasterio.features.shapes and
shapely.coverage_simplify, written as SVG text. Last, the same picture tiled to
70 megapixels says whether a pixel costs more in a large picture. Times depend on the machine, so
only the ratio is compared with anything.
"""

import io
import resource
import sys
import threading
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path

import numpy as np
import rasterio.features
import shapely
from PIL import Image
from resvg_py import svg_to_bytes
from shapely.geometry import shape

from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.picture import Picture
from sketchloom.core.send import SVG, page_of_layers

SIDE, SHAPES, REPEATS = 3000, 400, 3
LARGE_SIDE = 8367
INKS = [
    "#f3ead6",
    "#302a2c",
    "#8c2b59",
    "#4f8a4b",
    "#4e7f93",
    "#d79f3c",
    "#b4533c",
    "#6a5b93",
    "#9cb38a",
    "#e5c8a7",
    "#3c5c6d",
    "#c17e8d",
]


def large_picture(side: int = SIDE, seed: int = 11) -> np.ndarray:
    """Draw the picture; (side, side, 3) uint8."""
    rng = np.random.default_rng(seed)
    parts = [
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 3000 3000">',
        f'<rect width="3000" height="3000" fill="{INKS[0]}"/>',
    ]
    for i in range(SHAPES):
        x, y = rng.uniform(0, 3000, 2)
        radius = max(20.0, rng.uniform(20, 300) * (1 - 0.8 * i / SHAPES))
        fill, turn = INKS[rng.integers(1, len(INKS))], rng.uniform(0, 360)
        if rng.random() < 0.5:
            outline = f'<ellipse rx="{radius:.1f}" ry="{radius * rng.uniform(0.4, 1):.1f}"'
        else:
            angle = np.linspace(0, 2 * np.pi, rng.integers(3, 11), endpoint=False)
            reach = radius * rng.uniform(0.5, 1, len(angle))
            points = " ".join(f"{r * np.cos(a):.1f},{r * np.sin(a):.1f}" for r, a in zip(reach, angle, strict=True))
            outline = f'<polygon points="{points}"'
        parts.append(f'{outline} fill="{fill}" transform="translate({x:.1f} {y:.1f}) rotate({turn:.1f})"/>')
    data = svg_to_bytes(svg_string="".join(parts) + "</svg>", width=side, height=side, background="white")
    return np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB"))


def chain(rgb: np.ndarray, colours: int) -> str:
    """Trace with general-purpose libraries alone."""
    quantised = Image.fromarray(rgb).quantize(colours, method=Image.Quantize.MEDIANCUT, dither=Image.Dither.NONE)
    palette = np.array(quantised.getpalette()[: 3 * colours]).reshape(-1, 3)
    found = list(rasterio.features.shapes(np.asarray(quantised).astype(np.uint8)))
    simple = shapely.coverage_simplify([shape(outline) for outline, _ in found], 1.0)
    parts = ['<svg xmlns="http://www.w3.org/2000/svg">']
    for (_, value), polygon in zip(found, simple, strict=True):
        rings = [np.array(ring.coords) for ring in (polygon.exterior, *polygon.interiors)]
        data = "".join("M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in ring) + "Z" for ring in rings)
        red, green, blue = palette[int(value)]
        parts.append(f'<path fill-rule="evenodd" fill="#{red:02x}{green:02x}{blue:02x}" d="{data}"/>')
    return "\n".join([*parts, "</svg>"])


def timed(work: Callable[[], object]) -> float:
    """Time one call, s."""
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


class PeakMemory:
    """Largest resident memory while something runs, sampled; MB above the start."""

    def __enter__(self) -> "PeakMemory":
        """Begin to sample."""
        self._base = self._now()
        self.peak = 0.0
        self._going = True
        self._thread = threading.Thread(target=self._sample, daemon=True)
        self._thread.start()
        return self

    def __exit__(self, *_: object) -> None:
        """Stop."""
        self._going = False
        self._thread.join()

    def _sample(self) -> None:
        while self._going:
            self.peak = max(self.peak, self._now() - self._base)
            time.sleep(0.002)

    @staticmethod
    def _now() -> float:
        pages = int(Path("/proc/self/statm").read_text("ascii").split()[1])
        return pages * resource.getpagesize() / 1e6


def main() -> None:
    """Run and print."""
    rgb = large_picture()
    rgba = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
    recipe = Recipe().with_("separate", ground="keep").with_("finish", page="picture")

    def ours() -> str:
        return SVG.write(page_of_layers(Pipeline(0).run(Picture(rgba.copy()), recipe).stack.cuts))

    ours()
    times, theirs = [], []
    for _ in range(REPEATS):
        times.append(timed(ours))
        theirs.append(timed(lambda: chain(rgb, len(INKS))))
    best, chain_best = min(times), min(theirs)
    print(f"picture      {SIDE} x {SIDE} px, {len(INKS)} inks, {SHAPES} shapes")
    print(f"whole road   {best:6.2f} s   (decoded pixels to SVG text, best of {REPEATS})")
    print(f"chain        {chain_best:6.2f} s   (median cut, shapes, coverage_simplify, best of {REPEATS})")
    print(f"ratio        {best / chain_best:6.3f}     (at most 0.25 is wanted)")

    stages: dict[str, tuple[float, float]] = {}
    tracemalloc.start()
    now = ""

    def progress(stage: str, done: float) -> None:
        nonlocal now
        if stage != now:
            now = stage
            tracemalloc.reset_peak()
            stages[stage] = (tracemalloc.get_traced_memory()[0], 0.0)
        stages[stage] = (stages[stage][0], tracemalloc.get_traced_memory()[1])

    Pipeline(0).run(Picture(rgba), recipe, progress)
    tracemalloc.stop()
    plain = Pipeline(0).run(Picture(rgba), recipe).timings
    print("stage       time s   peak above its start, bytes a pixel")
    for stage, seconds in plain.items():
        start, peak = stages[stage]
        print(f"{stage:10} {seconds:7.3f}   {(peak - start) / (SIDE * SIDE):6.1f}")
    with PeakMemory() as memory:
        ours()
    print(f"peak memory of the whole road above the picture: {memory.peak * 1e6 / (SIDE * SIDE):.0f} bytes a pixel")

    tiles = -(-LARGE_SIDE // SIDE)
    large = np.ascontiguousarray(np.tile(rgba, (tiles, tiles, 1))[:LARGE_SIDE, :LARGE_SIDE])

    def ours_large() -> str:
        return SVG.write(page_of_layers(Pipeline(0).run(Picture(large), recipe).stack.cuts))

    took = min(timed(ours_large) for _ in range(2))
    with PeakMemory() as memory:
        ours_large()
    cost, cost_large = best / SIDE**2, took / LARGE_SIDE**2
    print(f"{LARGE_SIDE**2 / 1e6:.0f} megapixels (the picture tiled): {took:.1f} s")
    print(f"a pixel costs {cost_large / cost:.2f} of one at 9 megapixels (at most 1.3 is wanted)")
    print(f"peak memory above the picture: {memory.peak * 1e6 / LARGE_SIDE**2:.0f} bytes a pixel (at most 40)")


if __name__ == "__main__":
    sys.exit(main())
