"""Work on pieces of a large drawing, as ratios to painting that canvas once in the same run.

The drawing is made here: 4000 x 3000 px, 6 inks, about 5000 pieces. Times
depend on the machine, so each is also told as a ratio to one repaint.
"""

import os
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp()

import numpy as np
from PIL import Image, ImageDraw
from PySide6.QtCore import QEventLoop, QPointF

from sketchloom.app.start import make_application
from sketchloom.app.window import Window

SIZE, COLUMNS, ROWS = (4000, 3000), 82, 61
INKS = ("#8e2a5b", "#4f8a4b", "#4f7f92", "#392a34", "#f5a918", "#2a6fdb")


def drawing() -> Image.Image:
    """Ellipses of chance in a grid, anti-aliased by halving."""
    rng = np.random.default_rng(7)
    large = Image.new("RGB", (2 * SIZE[0], 2 * SIZE[1]), "white")
    pen = ImageDraw.Draw(large)
    step = 2 * SIZE[0] / COLUMNS
    for row in range(ROWS):
        for column in range(COLUMNS):
            x, y = (column + 0.5) * step, (row + 0.5) * step
            a, b = rng.uniform(0.25, 0.45, 2) * step
            pen.ellipse((x - a, y - b, x + a, y + b), fill=INKS[rng.integers(len(INKS))])
    return large.resize(SIZE, Image.Resampling.BOX)


def timed(act: Callable[[], object]) -> float:
    """Milliseconds that something takes."""
    begun = time.perf_counter()
    act()
    return 1000 * (time.perf_counter() - begun)


def main() -> None:
    """Print the times, and their ratios."""
    path = Path(tempfile.mkdtemp()) / "pieces.png"
    drawing().save(path)
    app = make_application()
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.open(path)
    while window.model.job is None or window.model.stale:
        app.processEvents()
        time.sleep(0.005)
    window.show_step("tidy")
    app.processEvents()
    canvas, step = window.canvas, window.by_key["tidy"]
    print(f"pieces: {len(step.pieces.cut)} of a picture of {SIZE[0]} x {SIZE[1]} px")
    paint = statistics.median(timed(canvas.repaint) for _ in range(9))
    print(f"{'one repaint of Regions':38s} {paint:8.1f} ms")

    def told(name: str, times: list[float]) -> None:
        middle, worst = statistics.median(times), max(times)
        print(f"{name:38s} {middle:8.1f} ms, {middle / paint:6.2f} repaints; worst {worst:.1f} ms")

    rng = np.random.default_rng(1)
    places = [QPointF(*place) for place in rng.uniform((60, 60), (700, 500), (60, 2))]

    def hover(at: QPointF) -> None:
        canvas.tool.move(at)
        canvas.repaint()

    hover(places[0])
    told("hover: told, outlined and painted", [timed(lambda at=at: hover(at)) for at in places])

    def give(at: QPointF, key: str) -> None:
        step.choose(step.pieces.anchors([step.pieces.at(canvas.source_point(at))]))
        shown = QEventLoop()
        window.model.regions_ready.connect(shown.quit)
        step.chosen.give_to(key)
        shown.exec()
        window.model.regions_ready.disconnect(shown.quit)
        canvas.repaint()

    keys = [ink.key for ink in step.inks_now()]
    took = []
    inside = [at for at in places if step.pieces.is_cut(step.pieces.at(canvas.source_point(at)))]
    for number, at in enumerate(inside[:8]):
        took.append(timed(lambda at=at, number=number: give(at, keys[number % len(keys)])))
        while window.model.stale:
            app.processEvents()
            time.sleep(0.002)
    told("gesture: given pieces seen", took[1:])  # the first reduces the picture

    for view in ("Regions", "Paths", "Layers"):
        window.show_view(view)
        canvas.fit()
        canvas.repaint()

        def pan() -> None:
            canvas.pan_by(QPointF(6, 3))
            canvas.repaint()

        def zoom() -> None:
            canvas.zoom_by(1.06)
            canvas.repaint()

        told(f"{view}: a frame of panning", [timed(pan) for _ in range(20)])
        canvas.fit()
        told(f"{view}: a frame of zooming", [timed(zoom) for _ in range(30)])
        told(f"{view}: a frame of panning, near", [timed(pan) for _ in range(20)])
    window.model.close()


main()
