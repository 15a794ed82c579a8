"""`sketch-loom send`: files of every format in a folder, or one sentence and nothing."""

import json
import zipfile

import msgspec
import pytest
from PIL import Image

from sketchloom.cli.main import main
from sketchloom.core.job import FORMATS, read_job
from sketchloom.core.stock import GENERIC, STOCKS
from tests.conftest import FOUR_INKS, draw
from tests.core.send import readers


@pytest.fixture
def png(tmp_path):
    path = tmp_path / "Fair stall.png"
    Image.fromarray(draw(FOUR_INKS).rgba).save(path)
    return path


def send(*words) -> int:
    return main(["send", *map(str, words)])


def test_all_formats_go_in_one_folder_and_a_zip_with_a_report(png, tmp_path):
    out, report = tmp_path / "job", tmp_path / "sent.json"
    words = [png, "-o", out, "--formats", f"{','.join(FORMATS)},loom", "--each", "--zip", "--width", "60mm"]
    assert send(*words, "--report", report) == 0
    told = json.loads(report.read_text())["files"]
    assert {one["format"] for one in told} == set(FORMATS) and len(told) == 5 * len(FORMATS)
    for one in told:
        assert (out / one["path"]).stat().st_size == one["bytes"] > 0 and one["read_by"] and one["of"]
        assert one["size_mm"][0] == pytest.approx(60, abs=0.01)
    names = {path.name for path in out.iterdir()}
    assert names == {one["path"] for one in told} | {"fair-stall.loom", "fair-stall.zip"}
    assert {name for name in names if name.endswith(".svg")} > {"fair-stall.svg"}
    assert all(name[0] in "1234f" and name == name.lower() and " " not in name for name in names)
    assert read_job(out / "fair-stall.loom").recipe.finish.width == 60.0
    with zipfile.ZipFile(out / "fair-stall.zip") as archive:
        assert set(archive.namelist()) == {f"fair-stall/{name}" for name in names - {"fair-stall.zip"}}
        assert archive.read("fair-stall/fair-stall.dxf") == (out / "fair-stall.dxf").read_bytes()
    before = {path.name: path.read_bytes() for path in out.iterdir()}
    again = tmp_path / "again"
    assert send(out / "fair-stall.loom", "-o", again, *words[3:-2]) == 0  # after saving and opening
    after = {path.name: path.read_bytes() for path in again.iterdir()}
    assert {name: data for name, data in after.items() if not name.endswith((".loom", ".zip"))} == {
        name: data for name, data in before.items() if not name.endswith((".loom", ".zip"))
    }


def test_sheets_are_sent_one_file_each_with_what_makes_them_ready(png, tmp_path):
    out = tmp_path / "sheets"
    flags = ["--of", "sheets", "--formats", "dxf,hpgl", "--turn-page", "--sheet", "80x60mm", "--weeding-box", "3mm"]
    assert send(png, "-o", out, *flags) == 0
    files = sorted(path.name for path in out.iterdir())
    assert len(files) == 8 and files[0].startswith("sheet-1-")
    (width, height), found = readers.read_dxf((out / files[0]).read_bytes())
    assert (width, height) == (80.0, 60.0) and sum(map(len, found.values())) == 3  # a ring with its hole, and the box


def test_outlines_and_pieces_are_asked_for(png, tmp_path):
    assert send(png, "-o", tmp_path / "a", "--outlines", "--by-piece") == 0
    text = (tmp_path / "a" / "fair-stall.svg").read_text()
    assert "evenodd" not in text and text.count('stroke-width="0.1"') >= 4


@pytest.mark.parametrize(("words", "told"), [
    (["--formats", "gcode"], "“gcode” is no format"), (["--formats", ","], "No format is asked for"),
    (["--of", "sheets", "--sheet", "8x8mm", "--seam", "none"], "sheet"),
    (["--formats", "png", "--png-dpi", "10000", "--width", "900mm"], "too many for a PNG"),
    (["--report", "x.txt"], "let its name end with .json"),
])  # fmt: skip
def test_what_cannot_be_sent_is_one_sentence_and_nothing_is_written(png, tmp_path, capsys, words, told):
    out = tmp_path / "none"
    assert send(png, "-o", out, *words) == 2
    error = capsys.readouterr().err.strip()
    assert told in error and "\n" not in error and not out.exists()


def test_a_folder_that_is_a_file_leaves_what_was_there(png, tmp_path, capsys):
    out = tmp_path / "taken"
    out.write_text("mine")
    assert send(png, "-o", out, "--formats", "svg,dxf") == 2
    assert out.read_text() == "mine" and "cannot be made" in capsys.readouterr().err


@pytest.mark.parametrize("ending", [f".{form}" for form in FORMATS])
def test_trace_takes_each_ending(png, tmp_path, ending):
    out = tmp_path / f"art{ending}"
    assert main(["trace", str(png), "-o", str(out), "--each"]) == 0
    assert len(list(tmp_path.glob(f"art*{ending}"))) == 5


@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_papers_and_test_cuts_go_with_the_files_and_into_the_report(png, tmp_path, paper):
    out, report = tmp_path / "out", tmp_path / "sent.json"
    words = ["--job-sheet", "--paper", paper, "--strip", "--test-cut", "--formats", "svg,hpgl", "--stock", "red card"]
    assert send(png, "-o", out, *words, "--width", "60mm", "--report", report) == 0
    told = {one["path"]: one for one in json.loads(report.read_text())["files"]}
    assert set(told) == {
        "fair-stall.svg", "fair-stall.hpgl", "fair-stall-job-sheet.pdf", "fair-stall-strip.png",
        "fair-stall-strip.pdf", "test-cut-red-card.svg", "test-cut-red-card.hpgl",
    }  # fmt: skip
    side = 297.0 if paper == "a4" else 279.4
    assert max(told["fair-stall-job-sheet.pdf"]["size_mm"]) == pytest.approx(side, abs=0.01)
    assert told["fair-stall-job-sheet.pdf"]["read_by"] == "pypdfium2"
    assert all((out / path).stat().st_size == one["bytes"] for path, one in told.items())


def test_files_of_layers_are_called_after_layer_and_stock(png, tmp_path):
    assert send(png, "-o", tmp_path / "out", "--each", "--stock", "red card") == 0
    names = sorted(path.name for path in (tmp_path / "out").iterdir())
    assert names[0] == "1-soot-red-card.svg" and names[-1] == "fair-stall.svg"
    assert send(png, "-o", tmp_path / "twice", "--each", "--stock", "soot soot white card") == 2
    shelf = (msgspec.structs.replace(GENERIC[0], name="Soot black card"), *GENERIC)
    STOCKS.write(shelf)
    assert send(png, "-o", tmp_path / "twice", "--each", "--stock", "soot black card") == 0
    assert "1-soot-black-card.svg" in {path.name for path in (tmp_path / "twice").iterdir()}  # no word twice


def test_a_job_sheet_of_what_must_not_be_cut_is_refused(png, tmp_path, capsys):
    words = ["--job-sheet", "--stock", "adhesive vinyl", "--cutter", "laser"]
    assert send(png, "-o", tmp_path / "out", *words) == 2
    assert "chlorine" in capsys.readouterr().err and not (tmp_path / "out").exists()


def test_a_spot_colour_is_written(png, tmp_path):
    assert send(png, "-o", tmp_path / "out", "--formats", "pdf", "--pdf-spot", "Knife") == 0
    assert b"/Knife" in (tmp_path / "out" / "fair-stall.pdf").read_bytes()
