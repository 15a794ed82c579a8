"""Sends end whole, whatever stops them; what is written is what was meant."""

import os
import re
import subprocess
import sys

import pytest
from fontTools.pens.areaPen import AreaPen

import sketchloom.core.send.files as files
from sketchloom.core.curves import OutlinePen, Path
from sketchloom.core.cut import Cut
from sketchloom.core.errors import WriteError
from sketchloom.core.job import Pipeline, Recipe
from sketchloom.core.layers import LayerRule
from sketchloom.core.palette import Ink
from sketchloom.core.send import SVG, WRITERS, files_of, names_of, settle_all, write_all, write_whole
from tests.conftest import FOUR_INKS, check_svg, draw, svg_text


@pytest.fixture
def two(tmp_path):
    """Two files of an earlier run."""
    paths = tmp_path / "a.svg", tmp_path / "b.svg"
    for path in paths:
        path.write_text("old")
    return paths


def left(folder) -> set[str]:
    return {path.name for path in folder.iterdir()}


def test_a_rename_that_fails_half_way_takes_back_what_was_done(two, tmp_path, monkeypatch):
    real, calls = os.replace, []

    def broken(source, target):
        calls.append(target)
        if len(calls) == 2:
            raise OSError(28, "No space left on device")
        real(source, target)

    monkeypatch.setattr(files.os, "replace", broken)
    with pytest.raises(WriteError, match=r"b\.svg cannot be written: no space left"):
        write_all({two[0]: b"new", two[1]: b"new"})
    monkeypatch.undo()
    assert [path.read_text() for path in two] == ["old", "old"]
    assert left(tmp_path) == {"a.svg", "b.svg"}


KILLED = """
import os, sys
import sketchloom.core.send.files as files
real, calls, at = os.replace, [], sys.argv[1]
def killed(*a):
    calls.append(a)
    if at == f"rename {len(calls)}":
        os._exit(9)
    real(*a)
files.os.replace = killed
if at == "writing":
    files._keep_old = lambda target: os._exit(9)
from pathlib import Path
files.write_all({Path(name): b"new" for name in sys.argv[2:]})
"""


@pytest.mark.parametrize(("at", "text"), [("writing", "old"), ("rename 1", "new"), ("rename 2", "new")])
def test_what_a_killed_run_leaves_is_completed_or_taken_back_at_the_next_start(two, tmp_path, at, text):
    killed = subprocess.run([sys.executable, "-c", KILLED, at, *map(str, two)], env=os.environ)
    assert killed.returncode == 9
    assert len(left(tmp_path)) > 2
    settle_all()
    assert [path.read_text() for path in two] == [text, text]
    assert left(tmp_path) == {"a.svg", "b.svg"}
    assert not list(files._folder().glob("*.json"))


def test_the_record_of_a_run_that_lives_is_left_alone(two, tmp_path):
    with files._record() as record:
        target = files._target(two[0])
        files._note(record, files._Record((target,)))
        files._write_new(target, b"new")
        settle_all()
        assert len(left(tmp_path)) == 3
    settle_all()


def test_a_record_that_is_half_written_or_of_no_send_does_no_harm(two, tmp_path):
    files._folder().mkdir(parents=True)
    for number, data in enumerate((b"", b'{"targets": [{"pa', b'{"targets": [], "ready": true}')):
        (files._folder() / f"{number}.json").write_bytes(data)
    settle_all()
    assert [path.read_text() for path in two] == ["old", "old"]


def test_a_link_is_written_through(tmp_path):
    (tmp_path / "real.svg").write_text("old")
    (tmp_path / "link.svg").symlink_to(tmp_path / "real.svg")
    write_whole(tmp_path / "link.svg", b"new")
    assert (tmp_path / "link.svg").is_symlink()
    assert (tmp_path / "real.svg").read_text() == "new"
    (tmp_path / "ahead.svg").symlink_to(tmp_path / "made.svg")
    write_whole(tmp_path / "ahead.svg", b"new")
    assert (tmp_path / "made.svg").read_text() == "new"
    with pytest.raises(WriteError, match="would be one"):
        write_all({tmp_path / "link.svg": b"1", tmp_path / "real.svg": b"2"})


def test_what_is_read_only_or_no_plain_file_is_refused(tmp_path):
    kept = tmp_path / "kept.svg"
    kept.write_text("old")
    kept.chmod(0o444)
    with pytest.raises(WriteError, match="read-only"):
        write_whole(kept, b"new")
    assert kept.read_text() == "old"
    os.mkfifo(tmp_path / "pipe.svg")
    for path, why in ((tmp_path / "pipe.svg", "no plain file"), (tmp_path, "a folder"), (tmp_path / "a\0b", "name")):
        with pytest.raises(WriteError, match=why):
            write_whole(path, b"new")


def test_a_file_keeps_the_rights_it_had_and_a_new_one_has_the_usual(tmp_path):
    old, new = tmp_path / "old.svg", tmp_path / "new.svg"
    old.write_text("old")
    old.chmod(0o640)
    mask = os.umask(0o027)
    try:
        write_all({old: b"1", new: b"2"})
    finally:
        os.umask(mask)
    assert old.stat().st_mode & 0o777 == 0o640
    assert new.stat().st_mode & 0o777 == 0o640


RING = '<circle cx="100" cy="100" r="80" fill="#205080"/><circle cx="100" cy="100" r="40" fill="#fff"/>'


def spoilt(text: str, stack) -> dict[str, str]:
    """Ways in which a written SVG can be wrong with every bound as it was."""
    data = text.split(' d="')[1].split('"')[0]
    outer, hole, _ = data.split("Z")
    x, _, rest = outer.removeprefix("M").partition(" ")
    return {
        "a hole lost": text.replace(f"{hole}Z", ""),
        "a wrong colour": text.replace(stack.layers[0].ink.hex, "#000000"),
        "another rule of filling": text.replace("evenodd", "nonzero"),
        "a point moved": text.replace(f"M{x} {rest}", f"M{float(x) + 0.01:.3f} {rest}"),
        "a line for a curve": text.replace("C", "L", 1),
        "left open": text.replace("Z", "", 1),
        "another page": text.replace('width="', 'width="1', 1),
        "another height": text.replace('height="', 'height="1', 1),
        "one path more": text.replace("</g>", '<path d="M0 0L1 1"/></g>', 1),
        "a group lost": text.split("<g ")[0] + "</svg>",
        "cut off": text[:-30],
        "no numbers": text.replace(data, "Mx y"),
    }


def test_every_way_of_being_wrong_is_found():
    stack = Pipeline(0).run(draw(RING), Recipe()).stack
    text = svg_text(stack)
    check_svg(text, stack)
    for what, wrong in spoilt(text, stack).items():
        assert wrong != text, what
        with pytest.raises(WriteError):
            check_svg(wrong, stack)


def test_a_wrong_width_of_a_centre_line_is_found():
    body = '<path d="M40 100H160" stroke="#205080" stroke-width="12" stroke-linecap="round"/>'
    recipe = Recipe().with_("layers", rules=(LayerRule("#205080", None, True),))
    stack = Pipeline(0).run(draw(body), recipe).stack
    text = svg_text(stack)
    check_svg(text, stack)
    with pytest.raises(WriteError):
        check_svg(text.replace('stroke-width="', 'stroke-width="1'), stack)
    with pytest.raises(WriteError):
        check_svg(text.replace('stroke="#205080"', 'stroke="#205081"'), stack)


def test_one_file_a_layer_holds_that_layer_alone():
    stack = Pipeline(0).run(draw(FOUR_INKS), Recipe()).stack
    apart = files_of(SVG, stack.cuts, each=True)
    assert len(apart) == 4 and len(set(apart)) == 4
    for (name, data), layer in zip(apart.items(), stack.layers, strict=True):
        assert data.count(b"<path ") == 1 and layer.ink.hex.encode() in data
        assert name.startswith("-layer-")
    assert set(WRITERS) == {".svg", ".dxf", ".pdf", ".eps", ".hpgl", ".png"}


def test_names_go_by_key_and_not_by_place():
    picture = draw(FOUR_INKS)
    stack = Pipeline(0).run(picture, Recipe()).stack
    whole = names_of(stack.cuts.cuts)
    assert len(set(whole.values())) == 4
    hidden = Recipe().with_("layers", rules=(LayerRule(stack.layers[0].key, hidden=True),))
    rest = names_of(Pipeline(0).run(picture, hidden).stack.cuts.cuts)
    assert rest == {key: name for key, name in whole.items() if key != stack.layers[0].key}
    turned = Recipe().with_("layers", order=tuple(layer.key for layer in reversed(stack.layers)))
    assert names_of(Pipeline(0).run(picture, turned).stack.cuts.cuts) == whole


def test_no_two_layers_have_one_name():
    path = Path((), ())
    keys = ("Ä", "ß", "#a0b0c0", "#a0b0c0+1", "a0b0c0 1", "#a0b0c0/left", "ink", "INK", "ink--2")
    cuts = tuple(Cut(key=key, name="", ink=Ink(key, "", (0, 0, 0), (0, 0, 0)), path=path) for key in keys)
    names = list(names_of(cuts).values())
    assert len(set(names)) == len(keys) and all(re.fullmatch("[a-z0-9-]+", name) for name in names)


@pytest.mark.parametrize("closed_by", ["line", "curve"])
def test_quadratic_outlines_of_a_font_are_read_as_fonttools_measures_them(closed_by):
    pen, area = OutlinePen(), AreaPen()
    for one in (pen, area):
        one.moveTo((0, 0))
        one.qCurveTo((40, -30), (80, 10), (90, 60))  # a corner between two controls is implied, as in TrueType
        one.lineTo((30, 80))
        if closed_by == "curve":
            one.qCurveTo((-20, 50), (0, 0))
        one.closePath()
    ((contour, straight),) = pen.contours
    assert straight.tolist() == ([False, False, True, False] if closed_by == "curve" else [False, False, True, True])
    assert abs(Path((contour,), (straight,)).areas[0]) == pytest.approx(abs(area.value))
