"""How long the command line takes to start, beside importing numpy, in one run.

`--version` imports nothing of the core; `trace` on a clean picture of 512 px
takes its stages' time and what importing costs. Each figure is the least of
some runs, and only ratios are compared with anything.
"""

import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

from PIL import Image

RUNS = 7
SIDE = 512


def least(command: Sequence[str]) -> float:
    """Give the least time of some runs of a command, s."""
    took = []
    for _ in range(RUNS):
        begun = time.perf_counter()
        subprocess.run(command, check=True, capture_output=True)
        took.append(time.perf_counter() - begun)
    return min(took)


def main() -> None:
    """Print the ratios."""
    tool = str(Path(sys.executable).parent / "sketch-loom")
    badge = Path(__file__).parent.parent / "src" / "sketchloom" / "demo" / "fair-badge.png"
    numpy = least([sys.executable, "-c", "import numpy"])
    bare = least([sys.executable, "-c", "pass"])
    version = least([tool, "--version"])
    print(f"--version: {version:.3f} s, {version / numpy:.2f} of importing numpy ({numpy:.3f} s)")
    with tempfile.TemporaryDirectory() as folder:
        picture, svg, report = (Path(folder) / name for name in ("badge.png", "badge.svg", "badge.json"))
        Image.open(badge).resize((SIDE, SIDE * 1330 // 1600), Image.Resampling.BOX).save(picture)
        command = [tool, "trace", str(picture), "-o", str(svg), "--report", str(report)]
        whole = least(command)
        stages = sum(json.loads(report.read_text())["timings_s"].values())
    beyond = whole - stages
    print(
        f"trace, {SIDE} px: {whole:.3f} s, of which its stages {stages:.3f} s; the rest {beyond:.3f} s is "
        f"{beyond / numpy:.2f} of importing numpy (the interpreter alone {bare:.3f} s)"
    )


main()
