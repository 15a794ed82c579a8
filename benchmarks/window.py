"""The longest turn of the window's loop in what a maker does on a 12-megapixel picture, as ratios to one repaint.

Processor time of the window's own thread, so that what else a machine does
counts less; the drawing is made here.
"""

import os
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp()

import numpy as np
from PIL import Image, ImageDraw
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from sketchloom.app.start import make_application
from sketchloom.app.window import Window

SIZE, SHAPES = (4000, 3000), 300
INKS = ("#aa2832", "#28508c", "#3c7846", "#dcaa3c", "#3c3232")


def drawing() -> Image.Image:
    """Ellipses and boxes of chance."""
    rng = np.random.default_rng(3)
    out = Image.new("RGB", SIZE, "#f5f0e1")
    pen = ImageDraw.Draw(out)
    for number in range(SHAPES):
        x, y, r = int(rng.integers(0, SIZE[0])), int(rng.integers(0, SIZE[1])), int(rng.integers(20, 150))
        shape = pen.ellipse if number % 2 else pen.rectangle
        shape((x - r, y - r, x + r, y + r // 2), fill=INKS[number % len(INKS)])
    return out


def main() -> None:
    """Print the longest turn of each action, ms, and its ratio to a repaint."""
    path = Path(tempfile.mkdtemp()) / "large.png"
    drawing().save(path)
    app = make_application()
    window = Window()
    window.resize(1280, 800)
    window.show()
    model = window.model

    def turn(act: Callable[[], object]) -> float:
        begun = time.thread_time()
        act()
        return 1000 * (time.thread_time() - begun)

    def longest(act: Callable[[], object]) -> float:
        worst = turn(act)
        for rest in range(2000):
            worst = max(worst, turn(app.processEvents))
            idle = model.current is not None and not model.stale and not model.runner.busy and not model.side.busy
            if idle and rest > 5:
                break
            time.sleep(0.004)
        return worst

    opened = longest(lambda: window.open(path))
    repaint = min(turn(window.canvas.repaint) for _ in range(5))
    tidy, trace = window.by_key["tidy"], window.by_key["trace"]
    middle = QPoint(window.canvas.width() // 2, window.canvas.height() // 2)

    def give() -> None:
        tidy.choose(tidy.pieces.anchors(tidy.pieces.cut[:1]))
        tidy.chosen.give_to("")

    def nodes() -> None:
        window.show_step("trace")
        trace.draw_with("nodes")

    def arrow() -> None:
        tool = trace._tool
        found, _ = tool.nodes()
        tool.choose(found[len(found) // 2])
        QTest.keyClick(window.canvas, Qt.Key.Key_Right)

    app.clipboard().setImage(QImage(str(path)))
    actions: dict[str, Callable[[], object]] = {
        "go to Tidy": lambda: window.show_step("tidy"),
        "point at a piece": lambda: QTest.mouseMove(window.canvas, middle),
        "hold all islands": tidy.islands.hold_all,
        "give a piece away": give,
        "undo": model.undo,
        "nodes in hand": nodes,
        "an arrow on a node": arrow,
        "carried": lambda: model.change("Carried", "layers", build="carried"),
        "paste 12 megapixels": window.paste,
    }
    print(f"{SIZE[0]} x {SIZE[1]} px, longest turn of the loop; one repaint of the canvas {repaint:.1f} ms")
    print(f"{'open':24}{opened:8.0f} ms{opened / repaint:8.1f} repaints")
    for name, act in actions.items():
        took = longest(act)
        print(f"{name:24}{took:8.0f} ms{took / repaint:8.1f} repaints", flush=True)
    os._exit(0)


if __name__ == "__main__":
    main()
