import json
import subprocess
import sys

import numpy as np
import pytest
from PIL import Image
from svgelements import SVG
from svgelements import Path as SvgPath

from sketchloom.cli.main import main
from sketchloom.core.job import Job, Recipe, encode_recipe, write_job
from sketchloom.core.picture import Crop, Paint, Stroke
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def png(tmp_path):
    path = tmp_path / "art.png"
    Image.fromarray(draw(FOUR_INKS).rgba).save(path)
    return path


def trace(*words) -> int:
    return main(["trace", *map(str, words)])


def paths_in(file):
    return [e for e in SVG.parse(str(file)).elements() if isinstance(e, SvgPath)]


def test_a_picture_becomes_a_layered_svg_and_a_report(png, tmp_path):
    out, report = tmp_path / "out.svg", tmp_path / "report.json"
    assert trace(png, "-o", out, "--width", "6in", "--report", report, "--each") == 0
    assert len(paths_in(out)) == 4
    assert json.loads(report.read_text())["size_mm"][0] == pytest.approx(152.4)
    single = sorted(tmp_path.glob("out-layer-*.svg"))
    assert len(single) == 4
    assert all(len(paths_in(file)) == 1 for file in single)


def test_options_reach_the_recipe(png, tmp_path):
    out = tmp_path / "out.svg"
    assert trace(png, "-o", out, "--inks", 2, "--ground", "keep", "--page", "picture", "--width", "100mm") == 0
    assert len(paths_in(out)) == 2
    assert trace(png, "-o", out, "--build", "single") == 0
    assert len(paths_in(out)) == 1
    assert trace(png, "-o", out, "--mode", "ink", "--threshold", "0.5") == 0
    assert len(paths_in(out)) == 1


def test_a_recipe_is_taken_from_a_job_or_json_and_options_go_before_it(png, tmp_path):
    recipe = Recipe().with_("separate", inks=3).with_("finish", width=50.0)
    (tmp_path / "r.json").write_bytes(encode_recipe(recipe))
    write_job(tmp_path / "j.loom", Job("J", "art.png", png.read_bytes(), recipe), "", b"")
    out = tmp_path / "out.svg"
    for name in ("r.json", "j.loom"):
        assert trace(png, "-o", out, "--recipe", tmp_path / name) == 0
        assert len(paths_in(out)) == 3
        assert 'width="50mm"' in out.read_text()
    assert trace(png, "-o", out, "--recipe", tmp_path / "r.json", "--inks", "auto") == 0
    assert len(paths_in(out)) == 4


@pytest.mark.parametrize(
    "words",
    [
        ["--mode", "oil"],
        ["--inks", "many"],
        ["--inks", "0"],
        ["--width", "12"],
        ["--width", "-3mm"],
        ["--smoothness", "abc"],
        ["--least-area", "1kg"],
        ["--recipe", "missing.loom"],
        ["--nonsense"],
    ],
)
def test_a_bad_argument_is_one_sentence_and_exit_2(png, tmp_path, capsys, words):
    out = tmp_path / "out.svg"
    assert trace(png, "-o", out, *words) == 2
    error = capsys.readouterr().err.strip()
    assert error
    assert "\n" not in error
    assert "Traceback" not in error
    assert not out.exists()


@pytest.mark.parametrize("name", ["text.png", "empty.png", "half.png", "missing.png", "folder"])
def test_a_bad_picture_is_one_sentence_and_exit_2(png, tmp_path, capsys, name):
    (tmp_path / "text.png").write_text("shopping list")
    (tmp_path / "empty.png").write_bytes(b"")
    (tmp_path / "half.png").write_bytes(png.read_bytes()[: png.stat().st_size // 2])
    (tmp_path / "folder").mkdir()
    assert trace(tmp_path / name, "-o", tmp_path / "out.svg") == 2
    error = capsys.readouterr().err.strip()
    assert name in error
    assert "\n" not in error
    assert not (tmp_path / "out.svg").exists()


def test_an_output_that_cannot_be_written_leaves_nothing(png, tmp_path, capsys):
    before = sorted(tmp_path.iterdir())
    assert trace(png, "-o", tmp_path / "no" / "out.svg") == 2
    assert trace(png, "-o", tmp_path / "out.svg", "--report", tmp_path / "no" / "r.json") == 2
    assert trace(png, "-o", png) == 2
    assert sorted(tmp_path.iterdir()) == before
    assert capsys.readouterr().err.count("\n") == 3


def test_nothing_to_cut_is_exit_3(tmp_path, capsys):
    white = tmp_path / "white.png"
    Image.fromarray(np.full((30, 30, 3), 255, np.uint8)).save(white)
    assert trace(white, "-o", tmp_path / "out.svg") == 3
    assert "Nothing is left to cut" in capsys.readouterr().err
    assert not (tmp_path / "out.svg").exists()


def test_two_runs_give_the_same_bytes(png, tmp_path):
    for name in ("a.svg", "b.svg"):
        subprocess.run(
            [sys.executable, "-m", "sketchloom", "trace", png, "-o", tmp_path / name, "--width", "77mm"], check=True
        )
    assert (tmp_path / "a.svg").read_bytes() == (tmp_path / "b.svg").read_bytes()


def test_a_picture_is_inspected(png, tmp_path, capsys):
    assert main(["inspect", str(png), "--width", "180mm"]) == 0
    report = json.loads(capsys.readouterr().out)
    drawn = ["kind", "verdict", "inks", "ground", "open_outlines", "px_per_mm", "smallest_detail_mm"]
    keys = [*drawn, "flat_share", "noise", "evenness", "blur"]
    assert sorted(report) == sorted(keys)
    assert main(["inspect", str(png), "--report", str(tmp_path / "r.json")]) == 0
    assert json.loads((tmp_path / "r.json").read_text())["inks"] == 4


def test_a_picture_is_prepared_and_traced_with_the_same_flags(png, tmp_path, capsys):
    out = tmp_path / "out.png"
    assert (
        main(["prepare", str(png), "-o", str(out), "--crop", "10,10,180,180", "--clear", "colour", "--dpi", "150"]) == 0
    )
    image = Image.open(out)
    assert image.size == (180, 180)
    assert image.getpixel((0, 0))[3] == 0
    assert image.info["dpi"] == pytest.approx((150, 150), rel=1e-3)
    assert (
        trace(
            png,
            "-o",
            tmp_path / "o.svg",
            "--crop",
            "20,20,160,80",
            "--ground",
            "keep",
            "--page",
            "picture",
            "--width",
            "80mm",
        )
        == 0
    )
    assert 'width="80mm" height="40mm"' in (tmp_path / "o.svg").read_text()
    for words in (["--straighten", "1,2"], ["--crop", "0,0,0,5"], ["--clear", "sky"], ["--straighten", "auto"]):
        assert main(["prepare", str(png), "-o", str(tmp_path / "no.png"), *words]) == 2
        assert capsys.readouterr().err.count("\n") == 1
    assert not (tmp_path / "no.png").exists()
    assert main(["prepare", str(png), "-o", str(png)]) == 2


def test_any_page_of_a_pdf_is_prepared_inspected_and_traced(tmp_path, capsys):
    bodies = FOUR_INKS, '<circle cx="90" cy="90" r="60"/>'
    # a picture with a palette goes into a PDF as it is; others go in as JPEG
    pages = [Image.fromarray(draw(body, 200).rgba[..., :3]).quantize(64) for body in bodies]
    pages[0].save(tmp_path / "p.pdf", "PDF", save_all=True, append_images=pages[1:], resolution=300)
    out = tmp_path / "out.svg"
    assert trace(tmp_path / "p.pdf", "-o", out) == 0
    assert len(paths_in(out)) >= 4
    assert trace(tmp_path / "p.pdf", "-o", out, "--page-number", 2, "--dpi", 600) == 0
    assert len(paths_in(out)) == 1
    assert trace(tmp_path / "p.pdf", "-o", out, "--page-number", 3) == 2
    assert capsys.readouterr().err == "p.pdf has 2 pages, so there is no page 3.\n"
    assert main(["inspect", str(tmp_path / "p.pdf"), "--page-number", "2", "--width", "50mm"]) == 0
    assert json.loads(capsys.readouterr().out)["inks"] == 1
    png = tmp_path / "p.png"
    assert main(["prepare", str(tmp_path / "p.pdf"), "-o", str(png), "--page-number", "2", "--dpi", "150"]) == 0
    assert Image.open(png).size == (100, 100)


def test_a_picture_to_print_has_its_size_and_its_cut_line(png, tmp_path):
    out, cut = tmp_path / "print.png", tmp_path / "cut.svg"
    words = ["prepare", png, "-o", out, "--clear", "colour", "--width", "4in", "--dpi", "150", "--cut", cut]
    assert main(list(map(str, words))) == 0
    image = Image.open(out)
    assert image.size == (600, 600)
    assert image.info["dpi"][0] == pytest.approx(150, abs=0.5)
    assert 'width="101.6mm"' in cut.read_text()
    (path,) = paths_in(cut)
    # the square of the drawing covers 20 to 180 of 200
    assert np.allclose(path.bbox(), np.array([0.1, 0.1, 0.9, 0.9]) * 101.6 * 96 / 25.4, atol=1.0)


def test_a_picture_of_which_nothing_is_clear_is_cut_round_its_frame(png, tmp_path):
    cut = tmp_path / "cut.svg"
    assert main(["prepare", str(png), "-o", str(tmp_path / "p.png"), "--width", "50mm", "--cut", str(cut)]) == 0
    (path,) = paths_in(cut)
    assert len([part for part in path if type(part).__name__ == "Line"]) <= 4
    assert np.allclose(path.bbox(), np.array([0, 0, 50, 50]) * 96 / 25.4, atol=0.01)


def test_strokes_of_a_recipe_that_lie_outside_are_told(png, tmp_path, capsys):
    strokes = Stroke(((0.5, 0.5),), 0.05), Stroke(((0.05, 0.05),), 0.01)
    rows = (Crop(first=(0.2, 0.2), last=(0.9, 0.9)), Paint(strokes=strokes, colour=(200, 0, 200)))
    (tmp_path / "r.json").write_bytes(encode_recipe(Recipe(prepare=rows)))
    assert trace(png, "-o", tmp_path / "out.svg", "--recipe", tmp_path / "r.json") == 0
    assert capsys.readouterr().err == "art.png: 1 of 2 strokes lie outside the picture and do nothing.\n"
    lost = (*rows[:1], Paint(strokes=strokes[1:], colour=(200, 0, 200)))
    (tmp_path / "r.json").write_bytes(encode_recipe(Recipe(prepare=lost)))
    assert trace(png, "-o", tmp_path / "out.svg", "--recipe", tmp_path / "r.json") == 2
    assert "no place was found for Paint" in capsys.readouterr().err
