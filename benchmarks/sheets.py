"""Laying out: time and length as ratios to rectpack's, many pieces, and a frame while one is dragged."""

import math
import os
import tempfile
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp()

import numpy as np
import rectpack
import shapely
from PIL import Image, ImageDraw
from PySide6.QtCore import QPointF
from shapely import affinity

from sketchloom.app.demo import demo_job
from sketchloom.app.start import make_application
from sketchloom.app.window import Window
from sketchloom.core.curves import Path as Curves
from sketchloom.core.cut import Cut
from sketchloom.core.job import Pipeline, work_of
from sketchloom.core.palette import Ink
from sketchloom.core.picture import load_picture
from sketchloom.core.sheets import Design, SheetSettings, Work, figures_of, lay_out
from sketchloom.core.sheets.filling import Filling
from sketchloom.core.sheets.lay import best_filling
from sketchloom.core.sheets.layout import Group
from sketchloom.core.sheets.parts import Body, Item, Part
from sketchloom.core.sheets.tour import short_way

SIDE, DISTANCE = 292.0, 3.0
"""mm that can be used of a sheet 12 inches wide, and between pieces."""


def odd(rng: np.random.Generator, least: float, most: float) -> shapely.Polygon:
    """A crescent, a leaf, a star, an angle or a blot."""
    size, kind = rng.uniform(least, most), int(rng.integers(0, 5))
    if kind == 0:
        shape = shapely.Point(0, 0).buffer(size / 2) - shapely.Point(size / 4, 0).buffer(0.45 * size)
    elif kind == 1:
        shape = shapely.Point(-0.3 * size, 0).buffer(size / 2) & shapely.Point(0.3 * size, 0).buffer(size / 2)
    elif kind == 2:
        points = int(rng.integers(4, 8))
        angle, radius = np.arange(2 * points) * math.pi / points, np.where(np.arange(2 * points) % 2, 0.22, 0.5) * size
        shape = shapely.Polygon(np.column_stack([radius * np.cos(angle), radius * np.sin(angle)]))
    elif kind == 3:
        part = 0.3 * size
        shape = shapely.Polygon([(0, 0), (size, 0), (size, part), (part, part), (part, size), (0, size)])
    else:
        angle, radius = np.sort(rng.uniform(0, 2 * math.pi, 9)), rng.uniform(0.25, 0.5, 9) * size
        shape = shapely.Polygon(np.column_stack([radius * np.cos(angle), radius * np.sin(angle)])).buffer(0)
    largest = max(shapely.get_parts(shape), key=lambda part: part.area)
    return affinity.rotate(largest, float(rng.uniform(0, 360)), origin=(0, 0))


def ours(pieces: list) -> tuple[float, float]:
    """Length, in sheets, and seconds."""
    ink = Ink("#000000", "Black", (0, 0, 0), (0, 0, 0))
    cut = Cut(key="#000000", name="Black", ink=ink, path=Curves((), ()))
    group = Group("a", "a", None, "#000000", (cut,), (SIDE + 12, SIDE + 12), (6, 6, SIDE, SIDE), False, False, True)
    items = [Item(Body("a", [Part(cut, (0,), piece)]), 1) for piece in pieces]
    begun = time.perf_counter()
    filling = Filling(group, SheetSettings(distance=DISTANCE, nested=True), items)
    sheets, last = best_filling(filling, items, ()).used
    return sheets - 1 + last / SIDE, time.perf_counter() - begun


def theirs(pieces: list) -> tuple[float, float]:
    """Length, in sheets, and seconds, of boxes laid by rectpack."""
    begun = time.perf_counter()
    packer = rectpack.newPacker(rotation=True)
    for number, piece in enumerate(pieces):
        left, top, right, bottom = piece.bounds
        sides = (math.ceil((side + DISTANCE) * 10) for side in (right - left, bottom - top))
        packer.add_rect(*sides, number)
    for _ in range(80):
        packer.add_bin(int((SIDE + DISTANCE) * 10), int((SIDE + DISTANCE) * 10))
    packer.pack()
    used = [one for one in packer if len(one)]
    last = max(rect.y + rect.height for rect in used[-1]) / 10 - DISTANCE
    return len(used) - 1 + last / SIDE, time.perf_counter() - begun


def dragged() -> None:
    """Frames while a piece of 500 is dragged, ms, and as a ratio to one repaint of the picture's view."""
    picture = Image.new("RGB", (2600, 2100), "white")
    pen = ImageDraw.Draw(picture)
    for place in range(500):
        x, y = 100 * (place % 26) + 10, 100 * (place // 26) + 10
        (pen.ellipse if place % 2 else pen.rectangle)((x, y, x + 70, y + 40 + place % 40), fill="#28508c")
    path = Path(tempfile.mkdtemp()) / "many.png"
    picture.save(path)
    app = make_application()
    window = Window()
    window.resize(1280, 800)
    window.show()
    window.open(path)
    step = window.by_key["sheets"]

    def wait() -> None:
        while window.model.current is None or window.model.stale or step.layouts.layout is None:
            app.processEvents()
            time.sleep(0.005)
        for _ in range(20):
            app.processEvents()

    wait()
    step.change("Nested", nested=True)
    window.model.change("Size", "finish", width=500.0, height=None)
    wait()
    window.show_step("sheets")
    wait()
    canvas = window.canvas
    sheet = step.layouts.layout.sheets[0]
    one = sheet.laid[len(sheet.laid) // 2]
    _, corner = step.scene.corner_of(one)
    inside = one.shapes[0].representative_point()
    at = (corner + QPointF(inside.x, inside.y)) * canvas.zoom + canvas.offset
    tool = canvas.tool
    tool.press(at)
    frames = []
    for place in range(1, 60):
        begun = time.perf_counter()
        tool.move(at + QPointF(3 * place, 2 * place))
        canvas.repaint()
        frames.append(1000 * (time.perf_counter() - begun))
    window.show_view("Picture")
    begun = time.perf_counter()
    canvas.repaint()
    repaint = 1000 * (time.perf_counter() - begun)
    pieces = sum(len(sheet.laid) for sheet in step.layouts.layout.sheets)
    print(
        f"drag one of {pieces}: first frame {frames[0]:.0f} ms, then {np.median(frames):.1f} ms, longest "
        f"{max(frames[2:]):.1f}; {np.median(frames) / repaint:.1f} repaints of the picture"
    )


def ordered_and_parted() -> None:
    """Cutting order of 5000 contours, and the badge as a sign of 30 in for a mat of 12 x 12 in."""
    rng = np.random.default_rng(6)
    places = rng.uniform(0, 300, (5000, 2))
    begun = time.perf_counter()
    shapely.STRtree(shapely.points(places)).query_nearest(shapely.points(places), exclusive=True)
    reference = time.perf_counter() - begun
    begun = time.perf_counter()
    short_way(places, np.zeros(2))
    took = time.perf_counter() - begun
    print(f"2-opt of 5000 places: {took:.1f} s, {took / reference:.0f} times finding the nearest of each")
    job = demo_job()
    recipe = job.recipe.with_("finish", width=762.0).with_("layers", build="backed")
    result = Pipeline(0).run(load_picture(job.picture, job.picture_name), recipe, names=("ready",))
    begun = time.perf_counter()
    layout = lay_out(work_of(result), SheetSettings())
    took = time.perf_counter() - begun
    begun = time.perf_counter()
    figures = figures_of(layout, None)
    ordered, share = time.perf_counter() - begun, figures.timing.travel / figures.travel_before
    print(
        f"the badge as a sign of 30 in: {len(layout.seams)} seams in {took:.1f} s; {len(layout.sheets)} sheets ordered "
        f"in {ordered:.1f} s, ways {share:.2f} of those before"
    )


def main() -> None:
    """Print all."""
    for seed in range(1, 11):
        rng = np.random.default_rng(seed)
        pieces = [odd(rng, 15, 60) for _ in range(60)]
        (length, took), (boxes, boxed) = ours(pieces), theirs(pieces)
        print(
            f"60 odd pieces, {seed:2}: {length / boxes:.3f} of rectpack's, {took:.2f} s, {took / boxed:.0f} times its"
        )
    shares = []
    for seed in range(100):
        rng = np.random.default_rng(1000 + seed)
        pieces = [odd(rng, 5, 80) for _ in range(int(rng.integers(2, 60)))]
        shares.append(ours(pieces)[0] / theirs(pieces)[0])
    print(
        f"100 drawn sets: {min(shares):.3f} to {max(shares):.3f} of rectpack's, {np.median(shares):.3f} in the middle"
    )
    job = demo_job()
    result = Pipeline(0).run(load_picture(job.picture, job.picture_name), job.recipe, names=("mended",))
    design = Design(lambda points: np.array(points), lambda points: list(points), 1.0)
    for nested in (False, True):
        begun = time.perf_counter()
        lay_out(Work(result.stack.cuts.cuts, design), SheetSettings(nested=nested))
        print(f"badge, {'nested' if nested else 'in register'}: {time.perf_counter() - begun:.2f} s")
    rng = np.random.default_rng(5)
    pieces = [odd(rng, 2, 12) for _ in range(5000)]
    length, took = ours(pieces)
    print(f"5000 pieces: {length:.2f} sheets, {took:.1f} s", flush=True)
    ordered_and_parted()
    dragged()
    os._exit(0)


if __name__ == "__main__":
    main()
