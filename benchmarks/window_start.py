"""Times the start of the window until it answers, in one run; run from the project's root.

    .venv/bin/python benchmarks/window_start.py

Warm: each figure is the median of some starts, after one that is not counted.
With nothing left behind, then with 20 jobs to bring back and 40 files that
were opened before. Beside each stands its ratio to importing Qt alone.
"""

import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

RUNS = 5
FOLDERS = ("XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_STATE_HOME")
FIRST = "from sketchloom.app.settings import Settings, save_settings; save_settings(Settings(started_before=True))"
DEMO = Path("src/sketchloom/demo")
QT = "import PySide6.QtWidgets; PySide6.QtWidgets.QApplication([])"
START = """
import os
from PySide6.QtWidgets import QApplication
def answers(*_):
    QApplication.processEvents()
    print('answers', flush=True)
    os._exit(0)
QApplication.exec = answers
from sketchloom.cli.main import main
main([])
"""
LEAVE = """
import sys
from pathlib import Path
from sketchloom.app.settings import Settings, save_settings
from sketchloom.core.job import Job, Kept, Recipe
pictures = [Path(name) for name in sys.argv[1:]]
for number in range(20):
    picture = pictures[number % len(pictures)]
    kept = Kept()
    kept.write(Job(f'Job {number}', picture.name, picture.read_bytes(), Recipe()), None, picture, True)
    kept.let_go()
names = [str(picture.absolute()) for picture in pictures]
save_settings(Settings(started_before=True, recent=tuple(names + [f'/gone/{n}.png' for n in range(40 - len(names))])))
"""


def took(code: str, home: Path) -> float:
    """Median time of some runs, s."""
    env = {**os.environ, **{name: str(home / name) for name in FOLDERS}, "QT_QPA_PLATFORM": "offscreen"}
    env.pop("PYTHONDONTWRITEBYTECODE", None)  # an installed program is compiled
    all_of_them = []
    for _ in range(RUNS + 1):
        begun = time.perf_counter()
        subprocess.run([sys.executable, "-c", code], check=True, env=env, stdout=subprocess.DEVNULL)
        all_of_them.append(time.perf_counter() - begun)
    return statistics.median(all_of_them[1:])


def main() -> None:
    """Time both."""
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        qt, bare = took(QT, home), took(START, home)
        env = {
            **os.environ,
            "XDG_DATA_HOME": str(home / "XDG_DATA_HOME"),
            "XDG_CONFIG_HOME": str(home / "XDG_CONFIG_HOME"),
        }
        pictures = sorted([*DEMO.glob("*.png"), *DEMO.glob("*.jpg")])
        subprocess.run([sys.executable, "-c", LEAVE, *map(str, pictures)], check=True, env=env)
        full = took(START, home)
    print(f"Qt alone {qt:.2f} s")
    print(f"window, nothing left behind: {bare:.2f} s, {bare / qt:.2f} times")
    print(f"window, 20 jobs to bring back, 40 files opened before: {full:.2f} s, {full / bare:.2f} times the one above")


main()
