"""`sketch-loom batch`: a row for every picture, whatever it is; files as one by one."""

import csv
import multiprocessing
import os
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sketchloom.cli.main import main
from sketchloom.core.job import BatchSettings, Recipe, Task, rows_of_batch, tasks_of
from tests.conftest import FOUR_INKS, draw


def picture(path: Path, size: int = 60, body: str = FOUR_INKS) -> Path:
    path.parent.mkdir(parents=True, exist_ok=True)
    Image.fromarray(draw(body, size).rgba).convert("RGB").save(path)
    return path


def batch(*words) -> int:
    return main(["batch", *map(str, words)])


def table(path: Path) -> dict[str, dict[str, str]]:
    with path.open(newline="", encoding="utf-8") as file:
        rows = list(csv.DictReader(file))
    assert len({row["picture"] for row in rows}) == len(rows)
    return {row["picture"]: row for row in rows}


def tree(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in sorted(folder.rglob("*")) if path.is_file()}


def test_folders_are_mirrored_and_each_picture_has_its_row(tmp_path, capsys):
    src, out, report = tmp_path / "in", tmp_path / "out", tmp_path / "rows.csv"
    picture(src / "stall.png")
    picture(src / "fair" / "Bunting.JPG")
    picture(src / "fair" / "deep" / "pot.png")
    (src / "fair" / "notes.txt").write_text("no picture")
    (src / "fair" / "empty.png").write_bytes(b"")
    assert batch(src, "-o", out, "--formats", "svg,dxf", "--report", report, "--jobs", 1) == 1
    rows = table(report)
    assert list(rows) == ["stall.png", "fair/Bunting.JPG", "fair/empty.png", "fair/deep/pot.png"]
    assert [row["result"] for row in rows.values()] == ["done", "done", "failed", "done"]
    assert rows["fair/deep/pot.png"]["files"] == "fair/deep/pot.svg;fair/deep/pot.dxf"
    assert int(rows["stall.png"]["pieces"]) > 0 and float(rows["stall.png"]["seconds"]) > 0
    assert "empty.png" in rows["fair/empty.png"]["sentence"] and not rows["fair/empty.png"]["files"]
    assert set(tree(out)) == {f"{stem}.{form}" for stem in ("stall", "fair/Bunting", "fair/deep/pot")
                              for form in ("svg", "dxf")}  # fmt: skip
    said = capsys.readouterr()
    assert said.out.count("\n") == 5 and "3 done, 1 failed." in said.out and not said.err  # a bar on a terminal alone


def test_files_are_those_of_trace_by_one_process_or_two_and_again(tmp_path):
    src = tmp_path / "in"
    for number in range(4):
        picture(src / f"pot {number}.png", 50 + 10 * number)
    recipe = tmp_path / "recipe.json"
    single = tmp_path / "single"
    single.mkdir()
    assert main(["trace", str(src / "pot 0.png"), "-o", str(single / "x.svg"), "--width", "70mm", "--save-recipe",
                 str(recipe)]) == 0  # fmt: skip
    for jobs in (1, 2, 2):
        assert batch(src, "-o", tmp_path / str(jobs), "--recipe", recipe, "--jobs", jobs) == 0
    one, two = tree(tmp_path / "1"), tree(tmp_path / "2")
    assert one == two and len(one) == 4 and one["pot 0.svg"] == (single / "x.svg").read_bytes()


def test_two_pictures_of_one_name_keep_their_ending(tmp_path):
    src = tmp_path / "in"
    for name in ("a.png", "a.JPG", "A.bmp", "b.png"):
        picture(src / name)
    tasks = tasks_of([src, src / "b.png", src / "b.png"], tmp_path / "out", ("svg",))
    names = [task.targets[0].name for task in tasks]
    assert names == ["A.bmp.svg", "a.JPG.svg", "a.png.svg", "b.png.svg", "b.png--2.svg", "b.png--3.svg"]
    assert len({name.casefold() for name in names}) == len(names)


def test_resume_does_what_is_missing_or_older(tmp_path):
    src, out, report = tmp_path / "in", tmp_path / "out", tmp_path / "rows.csv"
    for name in ("a", "b", "c"):
        picture(src / f"{name}.png")
    words = (src, "-o", out, "--report", report, "--jobs", 1, "--resume")
    assert batch(*words) == 0
    (out / "b.svg").unlink()
    later = (out / "c.svg").stat().st_mtime + 10
    os.utime(src / "c.png", (later, later))
    before = (out / "a.svg").stat().st_mtime_ns
    assert batch(*words) == 0
    assert [row["result"] for row in table(report).values()] == ["kept", "done", "done"]
    assert (out / "a.svg").stat().st_mtime_ns == before and table(report)["a.png"]["files"] == "a.svg"
    recipe = tmp_path / "r.json"
    assert main(["trace", str(src / "a.png"), "--save-recipe", str(recipe)]) == 0
    os.utime(recipe, (later + 10, later + 10))
    assert batch(*words, "--recipe", recipe) == 0
    assert {row["result"] for row in table(report).values()} == {"done"}


def test_check_says_what_can_be_cut(tmp_path):
    src, report = tmp_path / "in", tmp_path / "rows.csv"
    picture(src / "good.png", 300, '<circle cx="100" cy="100" r="70" fill="#8e2a5b"/>')
    thin = '<path d="M10 10H90V90H10Z M110 110H190V190H110Z" fill="#8e2a5b"/>'
    thin += '<path d="M88 100L112 100" stroke="#8e2a5b" stroke-width="0.6"/><path d="M90 88V92M112 100V112" />'
    picture(src / "thin.png", 300, thin + '<path d="M80 80L120 120" stroke="#8e2a5b" stroke-width="2"/>')
    assert batch(src, "-o", tmp_path / "out", "--check", "--report", report, "--jobs", 1) == 1
    rows = table(report)
    assert rows["good.png"]["result"] == "done" and rows["good.png"]["findings"] == "0"
    assert rows["thin.png"]["result"] == "not ready" and "spoil" in rows["thin.png"]["sentence"]
    assert (tmp_path / "out" / "thin.svg").exists()  # it is written, and told


@pytest.mark.parametrize(("words", "told"), [
    (["--formats", "cdx"], "is no format"), (["--formats", ","], "is no format"),
    (["--report", "rows.txt"], "let its name end with .csv"), (["--recipe", "none.loom"], "is not there"),
])  # fmt: skip
def test_what_cannot_start_is_one_sentence(tmp_path, capsys, words, told):
    picture(tmp_path / "in" / "a.png")
    assert batch(tmp_path / "in", "-o", tmp_path / "out", *words) == 2
    said = capsys.readouterr().err.strip()
    assert told in said and "\n" not in said and not (tmp_path / "out").exists()


def test_a_folder_without_pictures_and_one_that_would_be_written_into(tmp_path, capsys):
    (tmp_path / "in").mkdir()
    assert batch(tmp_path / "in", "-o", tmp_path / "out") == 2
    assert "no picture" in capsys.readouterr().err
    picture(tmp_path / "in" / "a.png")
    assert batch(tmp_path / "in", "-o", tmp_path / "in") == 2
    assert "among the pictures" in capsys.readouterr().err
    assert batch(tmp_path / "none.png", "-o", tmp_path / "out", "--jobs", 1) == 1  # named, so it has its row


class Deadly(type(Path())):  # type: ignore[misc]
    """A picture that ends the process which opens it."""

    def __fspath__(self) -> str:
        if os.environ.get("SKETCHLOOM_PARENT") != str(os.getpid()):
            os._exit(9)
        return super().__fspath__()


def test_a_process_that_dies_costs_its_picture_alone(tmp_path, monkeypatch):
    monkeypatch.setenv("SKETCHLOOM_PARENT", str(os.getpid()))
    good = [picture(tmp_path / f"{number}.png") for number in range(5)]
    paths = [*good[:2], Deadly(picture(tmp_path / "deadly.png")), *good[2:]]
    out = tmp_path / "out"
    tasks = [Task(path, path.name, (out / f"{path.stem}.svg",)) for path in paths]
    rows = {row.picture: row for row in rows_of_batch(tasks, BatchSettings(Recipe()), out, 2)}
    assert len(rows) == 6 and [name for name, row in rows.items() if row.result == "failed"] == ["deadly.png"]
    assert "ended by the system" in rows["deadly.png"].sentence
    assert set(tree(out)) == {f"{number}.svg" for number in range(5)}


def bad_pictures(folder: Path, many: int, seed: int) -> list[str]:
    """Cut, flipped, mislabelled, with headers that promise too much, pipes, devices, and links in circles."""
    rng = np.random.default_rng(seed)
    folder.mkdir()
    whole = []
    for ending in (".png", ".jpg", ".bmp", ".gif", ".webp", ".tif"):
        path = picture(folder / f"whole{ending}", 40)
        whole.append((ending, path.read_bytes()))
        path.unlink()
    names = []
    for number in range(many):
        ending, data = whole[int(rng.integers(len(whole)))]
        name = f"{number:04d}{ending}"
        path = folder / name
        kind = number % 8
        if kind == 0:
            path.write_bytes(data[: int(rng.integers(0, len(data)))])
        elif kind == 1:
            flipped = bytearray(data)
            for _ in range(int(rng.integers(1, 20))):
                flipped[int(rng.integers(len(flipped)))] ^= 1 << int(rng.integers(8))
            path.write_bytes(flipped)
        elif kind == 2:
            path.write_bytes(whole[int(rng.integers(len(whole)))][1])
        elif kind == 3:
            head = struct.pack(">IIBBBBB", *rng.integers(20_000, 2**31 - 1, 2).tolist(), 8, 2, 0, 0, 0)
            chunk = b"IHDR" + head
            path = path.with_suffix(".png")
            path.write_bytes(
                b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + chunk + struct.pack(">I", zlib.crc32(chunk))
            )
        elif kind == 4:
            os.mkfifo(path)
        elif kind == 5:
            path.symlink_to("/dev/zero")
        elif kind == 6:
            path.symlink_to(path.name)
        else:
            path.write_bytes(rng.bytes(int(rng.integers(0, 400))))
        names.append(path.name)
    (folder / "circle").symlink_to(folder)
    return names


def test_bad_pictures_each_have_a_row_and_none_hangs(tmp_path):
    many = int(os.environ.get("SKETCHLOOM_BAD", "48"))
    names, report = bad_pictures(tmp_path / "in", many, 3), tmp_path / "rows.csv"
    picture(tmp_path / "in" / "good.png")
    assert batch(tmp_path / "in", "-o", tmp_path / "out", "--report", report, "--jobs", 2) == 1
    rows = table(report)
    assert set(rows) == {*names, "good.png"} and rows["good.png"]["result"] == "done"
    assert {row["result"] for row in rows.values()} <= {"done", "failed"}
    for row in rows.values():
        assert bool(row["sentence"]) == (row["result"] == "failed") and "\n" not in row["sentence"]
        assert "Something went wrong" not in row["sentence"] and "ended by the system" not in row["sentence"]


def test_one_name_in_two_folders_has_two_rows_that_tell_which(tmp_path):
    for folder in ("spring", "autumn"):
        picture(tmp_path / folder / "a.png")
    report = tmp_path / "rows.csv"
    words = (tmp_path / "spring", tmp_path / "autumn", "-o", tmp_path / "out", "--report", report, "--jobs", 1)
    assert batch(*words) == 0
    rows = table(report)
    assert list(rows) == [str(tmp_path / folder / "a.png") for folder in ("spring", "autumn")]
    assert len({row["files"] for row in rows.values()}) == 2 == len(tree(tmp_path / "out"))


def test_what_leaves_off_asking_ends_the_processes_in_the_middle_of_their_pictures(tmp_path):
    src, out = tmp_path / "in", tmp_path / "out"
    picture(src / "0.png", 30)
    for number in (1, 2):
        picture(src / f"{number}.png", 2600)
    tasks = tasks_of([src], out, ("svg",))
    doing = rows_of_batch(tasks, BatchSettings(Recipe()), out, 2)
    assert next(doing).picture == "0.png"
    doing.close()
    for process in multiprocessing.active_children():
        process.join()
    assert [path.name for path in out.iterdir()] == ["0.svg"]
