"""Times a batch by one process and by one a core, in one run; run from the project's root.

    .venv/bin/python benchmarks/batch.py [PICTURES]

Tells how many pictures a minute each does, and the ratio of both.
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

from sketchloom.core.job import usual_jobs

DEMO = Path("src/sketchloom/demo")


def minute(sources: Path, out: Path, many: int, jobs: int) -> float:
    """Pictures a minute, the start of the command left out of nothing."""
    begun = time.perf_counter()
    words = [Path(sys.executable).with_name("sketch-loom"), "batch", sources, "-o", out, "--jobs", str(jobs)]
    subprocess.run(words, check=True, stdout=subprocess.DEVNULL)
    return many / (time.perf_counter() - begun) * 60


def main(many: int) -> None:
    """Copy the demo's pictures so often, and do them both ways."""
    pictures = sorted([*DEMO.glob("*.png"), *DEMO.glob("*.jpg")])
    with tempfile.TemporaryDirectory() as name:
        home = Path(name)
        (home / "in").mkdir()
        for number in range(many):
            source = pictures[number % len(pictures)]
            (home / "in" / f"{number:03d}{source.suffix}").write_bytes(source.read_bytes())
        one = minute(home / "in", home / "one", many, 1)
        jobs = usual_jobs()
        all_of_them = minute(home / "in", home / "all", many, jobs)
        same = all(path.read_bytes() == (home / "all" / path.name).read_bytes() for path in (home / "one").iterdir())
    print(f"1 process {one:.1f} pictures a minute, {jobs} processes {all_of_them:.1f}: {all_of_them / one:.2f} times")
    print("the same bytes" if same else "OTHER BYTES")


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 30)
