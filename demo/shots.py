"""Redraw docs/screenshots from the demo job; run ``make shots``."""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp()

from sketchloom.app.start import make_application
from sketchloom.app.theme import theme
from sketchloom.app.window import Window
from sketchloom.core.picture import Crop, EvenLight

OUT = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def wait(until: Callable[[], bool], seconds: float = 30) -> None:
    """Let the window work until something is so."""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        app.processEvents()
        if until():
            return
        time.sleep(0.01)
    raise SystemExit("the window did not get there")


def settle(window: Window) -> None:
    """Wait for the full result and for the flashes to end."""
    wait(lambda: not window.model.stale)
    end = time.monotonic() + 2.3
    wait(lambda: time.monotonic() > end)


def shot(window: Window, name: str) -> None:
    """Save a picture of the window."""
    app.processEvents()
    window.grab().save(str(OUT / f"{name}.png"))
    print(OUT / f"{name}.png")


app = make_application()


def main() -> None:
    """Draw all pictures."""
    OUT.mkdir(parents=True, exist_ok=True)
    window = Window()
    window.resize(1280, 800)
    window.show()
    for look in ("light", "dark"):
        theme.choose(look)
        if window.model.job is None:
            shot(window, f"empty-{look}")
            window.open_demo()
        settle(window)
        for place, step in enumerate(window.steps):
            window.show_step(place)
            window.lift.setValue(0)
            if step.key != "prepare" and (look == "light" or step.key in ("separate", "layers")):
                shot(window, f"{place + 1}-{step.key}-{look}")
        window.model.change("Way of building", "layers", build="carried")
        settle(window)
        window.show_step(4)
        window.lift.setValue(75)
        window.ledger.selectRow(1)
        shot(window, f"lift-{look}")
        window.lift.setValue(0)
        window.ledger.let_go()
        window.model.undo()
        settle(window)
    theme.choose("light")
    window.open(Path(__file__).resolve().parent.parent / "src" / "sketchloom" / "demo" / "snail.jpg")
    wait(lambda: window.job_name.text() == "Snail")
    window.model.change_rows("Crop", (Crop(first=(0.13, 0.05), last=(0.97, 0.74)), EvenLight()))
    settle(window)
    for place, step in enumerate(window.steps[:2]):
        window.show_step(place)
        shot(window, f"snail-{step.key}-light")
    window.finder.start()
    shot(window, "finder-light")
    window.model.close()


main()
