"""Processor time of `trace --report` for pictures of each kind, beside a bare start with NumPy, SciPy and OpenCV.

The pictures are made of the demo's, 600 px across, and a page of text in the
shipped font. Each figure is the least of some runs, taken in turns.

Run ``python benchmarks/kinds.py``; with ``--docs`` the table goes into docs/architecture.md.
"""

import os
import resource
import subprocess
import sys
import tempfile
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

ROOT = Path(__file__).parent.parent
SIDE, RUNS = 600, 3
MARKS = "<!-- kinds: made by benchmarks/kinds.py -->\n", "<!-- kinds end -->\n"
SENTENCES = (
    "Beds for early potatoes are dug in March. ", "The can by the shed leaks. ", "Seed labels are cut from card. ",
    "Bring gloves, a fork and a flask of tea. ", "The fair opens at ten, rain or shine. ",
)  # fmt: skip


def small(name: str) -> Image.Image:
    """A demo picture, `SIDE` px across."""
    picture = Image.open(ROOT / "src" / "sketchloom" / "demo" / name).convert("RGB")
    return picture.resize((SIDE, round(SIDE * picture.height / picture.width)), Image.Resampling.BOX)


def page_of_text() -> Image.Image:
    """A page of small print."""
    page = Image.new("L", (SIDE, SIDE), 255)
    draw = ImageDraw.Draw(page)
    font = ImageFont.truetype(str(ROOT / "src" / "sketchloom" / "resources" / "fonts" / "Inter-Regular.otf"), 13)
    rng = np.random.default_rng(3)
    for row in range(18, SIDE - 24, 20):
        line = "".join(SENTENCES[at] for at in rng.integers(0, len(SENTENCES), 4))
        while draw.textlength(line, font) > SIDE - 40:
            line = line.rsplit(" ", 1)[0]
        draw.text((20, row), line, 20, font)
    return page


def draw_all(folder: Path) -> dict[str, Path]:
    """Make the pictures; their files by kind."""
    badge = small("fair-badge.png")
    flat = np.asarray(badge)
    height, width = flat.shape[:2]
    white = flat.min(2) >= 250
    soft = np.roll(cv2.GaussianBlur((~white).astype(np.float32), (0, 0), 8), (10, 10), (0, 1))
    shadow = flat.copy()
    shadow[white] = (255 - 90 * soft[white])[:, None]
    fewer = cv2.resize(flat, (width * 2 // 5, height * 2 // 5), interpolation=cv2.INTER_AREA)
    grain = flat + np.random.default_rng(1).normal(0, 8, flat.shape)
    made = {
        "clean": badge,
        "soft shadow": Image.fromarray(shadow),
        "JPEG 40": badge,
        "enlarged": Image.fromarray(cv2.resize(fewer, (width, height), interpolation=cv2.INTER_CUBIC)),
        "grainy": Image.fromarray(np.clip(grain, 0, 255).astype(np.uint8)),
        "photograph": small("lantern.jpg"),
        "page of text": page_of_text(),
        "pencil": small("snail.jpg"),
    }
    files = {"badge, 1600 px": ROOT / "src" / "sketchloom" / "demo" / "fair-badge.png"}
    for kind, picture in made.items():
        file = folder / f"{kind.replace(' ', '-')}.{'jpg' if kind == 'JPEG 40' else 'png'}"
        picture.save(file, **({"quality": 40} if kind == "JPEG 40" else {}))
        files[kind] = file
    return files


def processor_time(words: list[str]) -> float:
    """Processor time of a command, s."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(words, check=True, capture_output=True)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def main() -> None:
    """Print the table."""
    tool = Path(sys.executable).parent / "sketch-loom"
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        words = {"": [sys.executable, "-c", "import numpy, scipy, cv2"]}
        for kind, file in draw_all(folder).items():
            out = ["-o", str(folder / "out.svg"), "--report", str(folder / "out.json")]
            words[kind] = [str(tool), "trace", str(file), *out]
        took: dict[str, list[float]] = {kind: [] for kind in words}
        for _ in range(RUNS):
            for kind, command in words.items():
                took[kind].append(processor_time(command))
    bare = min(took.pop(""))
    rows = "".join(f"| {kind} | {min(times):.1f} | {min(times) / bare:.1f} |\n" for kind, times in took.items())
    table = f"| picture | processor time, s | bare starts of {bare:.2f} s |\n|---|---|---|\n{rows}"
    print(table, end="")
    if "--docs" in sys.argv:
        page = ROOT / "docs" / "architecture.md"
        text = page.read_text("utf-8")
        begin, end = (text.index(mark) for mark in MARKS)
        page.write_text(text[: begin + len(MARKS[0])] + "\n" + table + "\n" + text[end:], "utf-8")


if __name__ == "__main__":
    os.environ.setdefault("PYTHONDONTWRITEBYTECODE", "1")
    main()
