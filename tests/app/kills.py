"""Kill the program at random moments while a job is edited and saved, and see what the next start finds.

    .venv/bin/python -m tests.app.kills [TIMES] [SEED]

What was saved last must open, no edit older than a second may be lost, and
nothing may be left that is not offered.
"""

import os
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import NamedTuple

from PIL import Image

from sketchloom.core.job import clear_old, left_behind, read_job
from sketchloom.core.send import settle_all
from tests.conftest import FOUR_INKS, draw

SECOND = 1.0
MAKER = """
import random, sys, time
from pathlib import Path
from PySide6.QtCore import QTimer
from sketchloom.app.start import make_application
from sketchloom.app.window import Window
picture, saved, seed = Path(sys.argv[1]), Path(sys.argv[2]), int(sys.argv[3])
chance, edits = random.Random(seed), iter(range(1, 10**6))
app = make_application()
window = Window()
window.show()
window.open(picture)

def tell(what, number):
    print(what, number, time.monotonic(), flush=True)

def edit():
    if window.model.job is not None:
        number = next(edits)
        window.model.change("Width", "finish", width=50.0 + number / 100)
        tell("edited", number)
        if chance.random() < 0.1:
            window.model.keep_version()
        if chance.random() < 0.15:
            tell("saving", number)
            window.model.save(saved)
    QTimer.singleShot(chance.randrange(1, 120), edit)

def written():
    tell("saved", round((window.model.current.saved.recipe.finish.width - 50) * 100))

window.model.job_saved.connect(written)

def kept(jobs):
    for job in jobs:
        tell("kept", round(((job.recipe.finish.width or 50) - 50) * 100))

window.keeper.kept.connect(kept)
QTimer.singleShot(0, edit)
app.exec()
"""


class Told(NamedTuple):
    """What the program said of itself."""

    what: str
    number: int
    at: float


def lived(folder: Path, picture: Path, chance: random.Random) -> tuple[list[Told], float]:
    """Let the program run until a moment drawn at random, and kill it; what it told, and when that was."""
    run = subprocess.Popen(
        [sys.executable, "-c", MAKER, picture, folder / "fair.loom", str(chance.randrange(10**6))],
        stdout=subprocess.PIPE, text=True, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
    )  # fmt: skip
    assert run.stdout is not None
    first = run.stdout.readline()
    time.sleep(chance.uniform(0.0, 3.0))
    killed = time.monotonic()
    run.send_signal(signal.SIGKILL)
    rest = run.stdout.read()
    run.wait()
    whole = [line for line in (first + rest).splitlines(keepends=True) if line.endswith("\n")]  # the last may be cut
    lines = [line.split() for line in whole if line.count(" ") == 2]
    return [Told(what, int(number), float(at)) for what, number, at in lines], killed


def number_of(width: float | None) -> int:
    """Which edit a width comes from."""
    return 0 if width is None else round((width - 50) * 100)


def kill_and_look(folder: Path, picture: Path, chance: random.Random, within: float | None = SECOND) -> int:
    """One life of the program; raises AssertionError if anything is lost. Gives how many edits it had.

    What it told as kept must be there; within so many seconds every edit, unless that is None.
    """
    told, killed = lived(folder, picture, chance)
    settle_all()
    edits = [one for one in told if one.what == "edited"]
    old = max((one.number for one in told if one.what == "kept"), default=0)
    if within is not None:
        old = max([old, *(one.number for one in edits if killed - one.at > within)])
    left, troubles = left_behind()
    assert not troubles, troubles
    kept = max((number_of(one.head.recipe.finish.width) for one in left), default=0)
    assert kept >= old, f"edit {old} was kept, or old, and {kept} is found"
    for one in left:
        assert one.read().picture == picture.read_bytes()
    file = folder / "fair.loom"
    saved = [one.number for one in told if one.what == "saved"]
    if saved:
        assert number_of(read_job(file).recipe.finish.width) >= saved[-1]
    elif file.exists():
        read_job(file)
    assert {path.name for path in folder.iterdir()} <= {"fair.loom"}, sorted(folder.iterdir())
    kept_folder = left[0].folder.parent if left else None
    if kept_folder is not None:
        assert set(kept_folder.glob("job-*")) == {one.folder for one in left}
    for one in left:
        one.decline()
    clear_old(time.time() + 10**7)
    assert kept_folder is None or not list(kept_folder.iterdir())
    return len(edits)


def main(times: int, seed: int) -> None:
    """Kill so many times, each time from a fresh start."""
    chance = random.Random(seed)
    home = Path(tempfile.mkdtemp())
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME"):
        os.environ[name] = str(home / name)
    picture = home / "stall.png"
    Image.fromarray(draw(FOUR_INKS, 120).rgba).save(picture)
    edits = 0
    for number in range(times):
        folder = Path(tempfile.mkdtemp(dir=home))
        edits += kill_and_look(folder, picture, chance)
        if not (number + 1) % 20:
            sys.stdout.write(f"{number + 1} kills, {edits} edits: nothing lost\n")
            sys.stdout.flush()
    shutil.rmtree(home)


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 200, int(sys.argv[2]) if len(sys.argv) > 2 else 1)
