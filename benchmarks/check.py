"""Time the check of a design of 5000 pieces, and the check after one edit.

The design is drawn, traced and checked at 300 mm. Times are set against that
of the whole road from picture to layers in the same run.

Run ``python benchmarks/check.py``.
"""

import time
from dataclasses import replace

import cv2
import numpy as np

from sketchloom.core.inspect import Memory, find_all
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.layers import WidenAlong
from sketchloom.core.picture import Picture

SIDE, ACROSS, PIECES = 1600, 71, 5000
GROUND = (240, 235, 225)
INKS = ((190, 40, 40), (40, 120, 60), (40, 60, 150), (230, 190, 50), (30, 30, 30))


def drawn() -> Picture:
    """Discs, bars and ellipses in five inks, 5000 of them."""
    rng = np.random.default_rng(5)
    large = np.full((2 * SIDE, 2 * SIDE, 3), GROUND, np.uint8)
    for number in range(PIECES):
        x, y = (int((place + 0.5) * 2 * SIDE / ACROSS) for place in divmod(number, ACROSS))
        ink, radius = INKS[number % len(INKS)], int(rng.integers(13, 18))
        kind = rng.integers(0, 3)
        if kind == 0:
            cv2.circle(large, (x, y), radius, ink, -1, cv2.LINE_AA)
        elif kind == 1:
            high = radius // 2 + 4
            cv2.rectangle(large, (x - radius, y - high), (x + radius, y + high), ink, -1)
        else:
            axes = radius, radius // 2 + 3
            cv2.ellipse(large, (x, y), axes, float(rng.integers(0, 180)), 0, 360, ink, -1, cv2.LINE_AA)
    small = cv2.resize(large, (SIDE, SIDE), interpolation=cv2.INTER_AREA)
    return Picture(np.dstack([small, np.full((SIDE, SIDE), 255, np.uint8)]))


def timed(work) -> tuple[float, object]:
    """Seconds that work takes, and what it gives."""
    begun = time.perf_counter()
    value = work()
    return time.perf_counter() - begun, value


def main() -> None:
    """Print the times."""
    picture, recipe = drawn(), Recipe().with_("finish", width=300.0)
    pipeline = Pipeline()
    road, result = timed(lambda: pipeline.run(picture, recipe))
    subject = pipeline.run(picture, recipe, names=("checked",)).checked.subject

    def fresh():
        layers = tuple(replace(layer) for layer in subject.layers)
        return replace(subject, layers=layers, memory=Memory.new())

    cold, once, found = float("inf"), float("inf"), ()
    for _ in range(3):
        checked = fresh()
        seconds, found = timed(lambda checked=checked: find_all(checked))
        cold = min(cold, seconds)
    for number in range(5):
        layer = checked.layers[number % len(checked.layers)]
        start = layer.path.contours[10 + number][0]
        line = tuple(start), tuple(start + 0.7)
        edited = checked.mended((WidenAlong(layer=layer.key, lines=(line,), width=0.9),))
        seconds, _ = timed(lambda edited=edited: find_all(edited))
        once = min(once, seconds)
    pieces = sum(layer.pieces for layer in result.stack.layers)
    print(f"the road, {pieces} pieces       {road:6.2f} s")
    print(f"checked, {len(found)} findings    {cold:6.2f} s, {cold / road:.2f} of the road")
    print(f"again after one edit      {1000 * once:6.0f} ms, {once / road:.3f} of the road")


if __name__ == "__main__":
    main()
