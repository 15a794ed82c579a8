"""Sending several files at once: all of them, or none, whatever happens."""

import errno
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import time
import zipfile

import msgspec
import numpy as np
import pytest
from PIL import Image

from sketchloom.cli.main import main
from sketchloom.core.job import (
    FORMATS,
    Papers,
    Pipeline,
    Recipe,
    SendSettings,
    papers_of,
    sent_files,
    sent_names,
    work_of,
    zipped,
)
from sketchloom.core.layers import LayerRule
from sketchloom.core.send import files, settle_all
from sketchloom.core.stock import GENERIC
from tests.conftest import FOUR_INKS, draw, picture_of

KILLS = int(os.environ.get("SKETCHLOOM_KILLS", "6"))
WORDS = ["--formats", f"{','.join(FORMATS)},loom", "--each", "--zip", "--strip", "--job-sheet", "--test-cut"]
SEND = """
import sys
from sketchloom.cli.main import main
print("begun", flush=True)
sys.exit(main(sys.argv[1:]))
"""


@pytest.fixture(scope="module")
def png(tmp_path_factory):
    path = tmp_path_factory.mktemp("pictures") / "plant stall.png"
    Image.fromarray(draw(FOUR_INKS, 120).rgba).save(path)
    return path


def send(png, out, *more) -> int:
    return main(["send", str(png), "-o", str(out), *WORDS, *map(str, more)])


def whole(folder) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in folder.iterdir()}


def test_a_send_that_is_killed_leaves_a_whole_set_or_what_was_there(png, tmp_path):
    """At moments drawn at random, most of them while files are written; the next start ends what was begun."""
    out = tmp_path / "out"
    assert send(png, out) == 0
    new, old = whole(out), {"fair.txt": b"ours"}
    moments, sets = random.Random(7), set()
    usual = 0.0
    for number in range(KILLS + 1):
        shutil.rmtree(out)
        out.mkdir()
        for name in list(new)[::3]:
            (out / name).write_bytes(b"old")
            old[name] = b"old"
        (out / "fair.txt").write_bytes(b"ours")
        run = subprocess.Popen([sys.executable, "-c", SEND, "send", png, "-o", out, *WORDS], stdout=subprocess.PIPE)
        run.stdout.readline()
        begun = time.monotonic()
        if number:
            wait = moments.uniform(0.7, 1.0) * usual
            while time.monotonic() - begun < wait and run.poll() is None:
                time.sleep(0.002)
            run.send_signal(signal.SIGKILL)
        run.wait()
        usual = usual or time.monotonic() - begun  # of the first, which is left alone
        settle_all()
        left = whole(out)
        names = {name: "new" if data == new.get(name) else "old" if data == old.get(name) else "odd"
                 for name, data in left.items()}  # fmt: skip
        odd = {name: what for name, what in names.items() if what == "odd"}
        assert left in (old, {**new, "fair.txt": b"ours"}), f"{odd} of {len(names)}, {len(new)} new"
        sets.add(len(left))
    assert not list(files._folder().glob("*.json"))


@pytest.mark.parametrize(
    ("fails", "code"),
    list(zip(range(0, 42, 6), 2 * [errno.ENOSPC, errno.EROFS, errno.EACCES, errno.EIO], strict=False)),
)
def test_a_disk_that_is_full_or_read_only_leaves_what_was_there(png, tmp_path, capsys, monkeypatch, fails, code):
    (tmp_path / "plant-stall.dxf").write_bytes(b"old")
    real, calls = files._write_new, []

    def full(target, data):
        calls.append(target)
        if len(calls) > fails:
            raise OSError(code, os.strerror(code))
        real(target, data)

    monkeypatch.setattr(files, "_write_new", full)
    ended = send(png, tmp_path)
    if len(calls) <= fails:
        assert ended == 0 and len(whole(tmp_path)) == len(calls)
        return
    assert ended == 2 and whole(tmp_path) == {"plant-stall.dxf": b"old"}
    said = capsys.readouterr().err.strip()
    assert os.strerror(code).lower() in said and len(said.splitlines()) == 1


@pytest.mark.skipif(os.geteuid() == 0, reason="nothing is read-only for root")
def test_a_read_only_folder_is_one_sentence(png, tmp_path, capsys):
    out = tmp_path / "out"
    out.mkdir(mode=0o555)
    assert send(png, out) == 2
    assert len(capsys.readouterr().err.strip().splitlines()) == 1 and not whole(out)


def test_a_read_only_file_among_them_stops_all(png, tmp_path, capsys):
    (tmp_path / "plant-stall.pdf").write_bytes(b"old")
    (tmp_path / "plant-stall.pdf").chmod(0o444)
    assert send(png, tmp_path) == 2
    assert "read-only" in capsys.readouterr().err and whole(tmp_path) == {"plant-stall.pdf": b"old"}


@pytest.mark.parametrize("at", [1, 9, 25])
def test_a_folder_that_vanishes_is_one_sentence(png, tmp_path, capsys, monkeypatch, at):
    out, calls, real = tmp_path / "stick", [], files._write_new

    def pulled(target, data):
        calls.append(target)
        if len(calls) == at:
            shutil.rmtree(out)
        real(target, data)

    monkeypatch.setattr(files, "_write_new", pulled)
    assert send(png, out) == 2
    said = capsys.readouterr().err.strip()
    assert "cannot be written" in said and len(said.splitlines()) == 1 and not out.exists()


def test_a_file_where_the_folder_should_be_and_an_unknown_format(png, tmp_path, capsys):
    (tmp_path / "out").write_bytes(b"mine")
    assert send(png, tmp_path / "out") == 2
    assert "cannot be made" in capsys.readouterr().err and (tmp_path / "out").read_bytes() == b"mine"
    assert main(["send", str(png), "-o", str(tmp_path / "new"), "--formats", "svg,cdx"]) == 2
    assert "“cdx” is no format" in capsys.readouterr().err and not (tmp_path / "new").exists()


def test_all_is_the_same_on_two_runs_and_named_as_told(png, tmp_path):
    one, other = tmp_path / "one", tmp_path / "other"
    assert send(png, one) == send(png, other) == 0
    assert whole(one) == whole(other)
    result = Pipeline().run(draw(FOUR_INKS, 120), Recipe(), names=("palette", "mended"))
    settings = SendSettings(FORMATS, each=True, papers=Papers(True, True, True))
    names = {*sent_names("Plant stall", result.stack, None, settings), "plant-stall.loom", "plant-stall.zip"}
    assert names == set(whole(one))
    with zipfile.ZipFile(one / "plant-stall.zip") as archive:
        assert {f"plant-stall/{name}" for name in names} == {*archive.namelist(), "plant-stall/plant-stall.zip"}
        assert archive.testzip() is None


def test_no_order_that_changes_from_run_to_run_gets_into_a_file(png, tmp_path):
    """In processes of their own, each of which orders sets another way."""
    for seed in "123456":
        words = [sys.executable, "-c", SEND, "send", png, "-o", tmp_path / seed, *WORDS]
        assert subprocess.run(words, env={**os.environ, "PYTHONHASHSEED": seed}, stdout=subprocess.PIPE).returncode == 0
        assert whole(tmp_path / seed) == whole(tmp_path / "1")


def test_the_zip_hangs_on_nothing_but_what_is_in_it():
    some = [("a.svg", b"1"), ("b.svg", np.arange(9).tobytes())]
    assert zipped("job", some) == zipped("job", list(some)) != zipped("job", some[::-1])


def test_papers_alone_can_be_sent_and_nothing_cannot(png, tmp_path, capsys):
    result = Pipeline().run(draw(FOUR_INKS, 120), Recipe(), names=("palette", "mended"))
    assert sent_files("x", result.stack, None, SendSettings((), papers=Papers(strip=True))) == ()
    assert main(["send", str(png), "-o", str(tmp_path / "out"), "--formats", ""]) == 2
    assert "No format is asked for" in capsys.readouterr().err
    assert main(["send", str(png), "-o", str(tmp_path / "out"), "--formats", "", "--job-sheet", "--strip"]) == 0
    assert {path.suffix for path in (tmp_path / "out").iterdir()} == {".pdf", ".png"}


@pytest.mark.parametrize("of", ["layers", "sheets"])
@pytest.mark.parametrize("name", ["x" * 300, "../../fair", "花壇", "", "Test cut"])
def test_odd_names_and_twins_give_each_file_a_name_of_its_own(name, of):
    """Stocks that are told apart by signs that no file's name has."""
    picture = draw(FOUR_INKS, 200)
    keys = [layer.key for layer in Pipeline().run(picture, Recipe(), names=("palette", "mended")).stack.layers]
    stocks = [msgspec.structs.replace(GENERIC[0], name=stock) for stock in ("Card A", "card-a", "花", "壇")]
    rules = tuple(LayerRule(key, stock=stock) for key, stock in zip(keys, stocks, strict=True))
    recipe = Recipe().with_("layers", rules=rules)
    result = Pipeline().run(picture, recipe, names=("palette", "mended", "sheets", "checked"))
    settings = SendSettings(("svg", "hpgl"), of, each=True, papers=Papers(True, True, True))
    laid = result.layout, work_of(result, [])
    made = sent_files(name, result.stack, laid, settings) + papers_of(name, result, laid, settings)
    names = [one.path for one in made]
    assert len(set(names)) == len(names) and set(names) == set(sent_names(name, result.stack, result.layout, settings))
    assert all(re.fullmatch(r"[a-z0-9-]{1,120}\.[a-z]+", one) for one in names)


@pytest.mark.parametrize("size", [(400, 8), (8, 400)])
def test_long_and_narrow_designs_have_papers_too(size):
    rgb = np.full((size[1], size[0], 3), 255, np.uint8)
    rgb[2:-2, 2:-2] = (200, 30, 30)
    recipe = Recipe().with_("finish", width=size[0] * 1.5)
    result = Pipeline().run(picture_of(rgb), recipe, names=("palette", "mended", "sheets", "checked"))
    laid = result.layout, work_of(result, [])
    made = papers_of("Long", result, laid, SendSettings(papers=Papers(True, True, True)))
    assert [one.format for one in made] == ["pdf", "png", "pdf", "svg"]
