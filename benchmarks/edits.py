"""Tells how memory grows over many edits of a large job in the window; run from the project's root.

    .venv/bin/python benchmarks/edits.py [EDITS] [MEGAPIXELS]

Edits go round over sizes, inks, curves, layers, work by hand, undo and
versions. Told: memory after each tenth, and the growth from half to the end
as a share of what stood at half.
"""

import gc
import os
import random
import sys
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME"):
    os.environ[name] = tempfile.mkdtemp()

from PIL import Image  # noqa: E402
from PySide6.QtWidgets import QApplication  # noqa: E402

from sketchloom.app.start import make_application  # noqa: E402
from sketchloom.app.window import Window  # noqa: E402

DEMO = Path("src/sketchloom/demo/fair-badge.png")


def resident() -> int:
    """Megabytes that are in memory."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") // 1_000_000


def edit(window: Window, number: int, chance: random.Random) -> None:
    """One edit."""
    model = window.model
    kind = number % 8
    if kind in (0, 4):
        window.set_size("width", 100.0 + chance.randrange(200))
    elif kind == 1:
        model.change("Smoothness", "trace", smoothness=chance.uniform(0.0, 0.05))
    elif kind == 2:
        model.change("Order", "layers", slip=chance.choice((0.0, 0.2, 0.4)))
    elif kind == 3:
        window.show_step(chance.choice([step.key for step in window.steps]))
        model.undo()
    elif kind == 5:
        model.redo()
    elif kind == 6:
        model.change("Smallest piece", "tidy", least_area=chance.uniform(0.2, 3.0))
    else:
        model.keep_version()
        for version in model.versions[:-20]:
            model.remove_version(version.name)


def main(edits: int, megapixels: float) -> None:
    """Make them all."""
    make_application()
    window = Window()
    window.resize(1280, 800)
    window.show()
    picture = Path(tempfile.mkdtemp()) / "large.png"
    small = Image.open(DEMO)
    times = (megapixels * 1e6 / (small.width * small.height)) ** 0.5
    small.resize((round(small.width * times), round(small.height * times)), Image.Resampling.LANCZOS).save(picture)
    window.open(picture)

    def settle() -> None:
        end = time.monotonic() + 120
        while (window.model.stale or window.model.runner.busy) and time.monotonic() < end:
            QApplication.processEvents()
            time.sleep(0.005)

    settle()
    chance, told, begun = random.Random(3), [], time.monotonic()
    for number in range(edits):
        edit(window, number, chance)
        settle()
        if (number + 1) % max(1, edits // 10) == 0:
            gc.collect()
            told.append(resident())
            print(f"{number + 1} edits: {told[-1]} MB, {time.monotonic() - begun:.0f} s", flush=True)
    half = told[len(told) // 2 - 1]
    print(f"from half to the end {100 * (told[-1] - half) / half:+.1f} %")
    window.keeper.close()
    os._exit(0)


main(int(sys.argv[1]) if len(sys.argv) > 1 else 500, float(sys.argv[2]) if len(sys.argv) > 2 else 12.0)
