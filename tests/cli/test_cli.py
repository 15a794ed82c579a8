import json
import os
import subprocess
import sys

import numpy as np
import pytest
from PIL import Image
from skimage import data as photos
from svgelements import SVG
from svgelements import Path as SvgPath

from sketchloom.cli.main import main
from sketchloom.core.job import Job, Recipe, encode_recipe, write_job
from sketchloom.core.picture import Crop, Paint, Stroke
from tests.conftest import FOUR_INKS, draw, save_layers


@pytest.fixture
def png(tmp_path):
    path = tmp_path / "art.png"
    Image.fromarray(draw(FOUR_INKS).rgba).save(path)
    return path


def trace(*words) -> int:
    return main(["trace", *map(str, words)])


def paths_in(file):
    return [e for e in SVG.parse(str(file)).elements() if isinstance(e, SvgPath)]


def test_shades_are_joined_all_or_by_their_key(tmp_path, capsys):
    body = (
        '<rect x="20" y="20" width="160" height="160" fill="#b35400"/><rect x="30" y="30" width="130" height="130"'
        ' fill="#d06a10"/><rect x="40" y="40" width="90" height="90" fill="#e88a28"/>'
    )
    png, out, report = (tmp_path / name for name in ("art.png", "out.svg", "report.json"))
    Image.fromarray(draw(body).rgba).save(png)
    assert trace(png, "-o", out, "--report", report) == 0 and len(paths_in(out)) == 3
    group = json.loads(report.read_text())["shades"][0]
    assert set(group["inks"]) == {"#b35400", "#d06a10", "#e88a28"} and not group["gradient"]
    for words, count in ((["--shades", "1"], 1), (["--shades", f"{group['key']}=2"], 2)):
        assert trace(png, "-o", out, *words) == 0 and len(paths_in(out)) == count
    for words in (["--shades", "#123456=2"], ["--shades", "many"], ["--shades", "0"], ["--shades=2", "--mode", "ink"]):
        assert trace(png, "-o", out, *words) == 2
        assert len(capsys.readouterr().err.strip().splitlines()) == 1


def test_a_picture_becomes_a_layered_svg_and_a_report(png, tmp_path):
    out, report = tmp_path / "out.svg", tmp_path / "report.json"
    assert trace(png, "-o", out, "--width", "6in", "--report", report, "--each") == 0
    assert len(paths_in(out)) == 4
    assert json.loads(report.read_text())["size_mm"][0] == pytest.approx(152.4)
    single = sorted(tmp_path.glob("out-layer-*.svg"))
    assert len(single) == 4
    assert all(len(paths_in(file)) == 1 for file in single)


def test_either_side_sets_the_size_and_both_are_refused(png, tmp_path, capsys):
    out, report = tmp_path / "out.svg", tmp_path / "report.json"
    assert trace(png, "-o", out, "--height", "5cm", "--report", report) == 0
    assert json.loads(report.read_text())["size_mm"][1] == pytest.approx(50.0)
    assert trace(png, "-o", out, "--height", "5cm", "--width", "5cm") == 2
    assert "give one of them" in capsys.readouterr().err


def test_an_ink_goes_to_the_ground_by_its_key(png, tmp_path, capsys):
    out, report = tmp_path / "out.svg", tmp_path / "report.json"
    assert trace(png, "-o", out, "--report", report) == 0
    keys = [layer["key"] for layer in json.loads(report.read_text())["layers"]]
    assert trace(png, "-o", out, "--to-ground", keys[-1].upper(), "--report", report) == 0
    assert [layer["key"] for layer in json.loads(report.read_text())["layers"]] == keys[:-1]
    assert trace(png, "-o", out, "--to-ground", "#123456") == 2
    assert "No ink is #123456" in capsys.readouterr().err


@pytest.mark.parametrize("flag", ["picture", "--recipe", "--limits"])
def test_a_pipe_and_a_device_are_refused_in_one_sentence_wherever_a_file_is_taken(png, tmp_path, capsys, flag):
    os.mkfifo(pipe := tmp_path / "pipe.json")
    (endless := tmp_path / "endless.json").symlink_to("/dev/zero")
    (circle := tmp_path / "circle.json").symlink_to(tmp_path / "circle.json")
    for file in (pipe, endless, circle, tmp_path, tmp_path / ("n" * 300)):
        words = {
            "picture": ["trace", file, "-o", tmp_path / "out.svg"],
            "--recipe": ["trace", png, "-o", tmp_path / "out.svg", "--recipe", file],
            "--limits": ["check", tmp_path / "art.svg", "--limits", file],
        }[flag]
        (tmp_path / "art.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="9"/></svg>')
        assert main(list(map(str, words))) == 2
        assert len(capsys.readouterr().err.strip().splitlines()) == 1


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
        ["--strength", "2"],
        ["--faint", "0"],
        ["--ink-colour", "blue"],
        ["--ink-colour", "#12345"],
        ["--detail", "-1mm"],
        ["--gap", "wide"],
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
    drawn = [
        "kind",
        "mode",
        "verdict",
        "inks",
        "ground",
        "open_outlines",
        "px_per_mm",
        "size_from",
        "smallest_detail_mm",
    ]
    keys = [*drawn, "flat_share", "noise", "evenness", "blur", "detail_px", "enlarged"]
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


STROKE = 'stroke="#111" stroke-width="8" stroke-linecap="round" fill="none"'


@pytest.fixture
def sketch(tmp_path):
    """A circle with a gap, a closed box, and a blue line."""
    body = (
        f'<path d="M320 96A110 110 0 1 0 338 128" {STROKE}/><rect x="40" y="330" width="320" height="50" {STROKE}/>'
        f'<path d="M20 20H380" {STROKE.replace("#111", "#2850b0")}/>'
    )
    path = tmp_path / "sketch.png"
    Image.fromarray(draw(body, 400).rgba).save(path)
    return path


def test_options_for_drawings_reach_the_recipe(sketch, tmp_path):
    out, report = tmp_path / "out.svg", tmp_path / "report.json"

    def told(*words) -> dict:
        assert trace(sketch, "-o", out, "--report", report, *words) == 0
        return json.loads(report.read_text())

    open_, closed = told("--mode", "lineart"), told("--mode", "lineart", "--close-gaps")
    assert open_["mode"] == "lineart" and open_["leaks"] == 1
    assert len(closed["palette"]) == len(open_["palette"]) + 1
    assert told("--mode", "lineart", "--gap", "0.5mm")["leaks"] == 0
    ink, filled = told("--mode", "ink"), told("--mode", "ink", "--silhouette")
    assert 0.9 < ink["ink_drawing"]["sure"] <= 1 and not ink["ink_drawing"]["local"]
    assert filled["palette"][0]["area_mm2"] > 1.5 * ink["palette"][0]["area_mm2"]
    blue = told("--mode", "ink", "--ink-colour", "#2850b0")
    assert blue["palette"][0]["pieces"] == 1
    assert told("--mode", "ink", "--local")["ink_drawing"]["local"]


def test_a_photo_is_proposed_and_told_in_flat_colours(tmp_path):
    path, out, report = tmp_path / "cup.jpg", tmp_path / "out.svg", tmp_path / "report.json"
    Image.fromarray(photos.coffee()).save(path, quality=90)
    assert trace(path, "-o", out, "--report", report) == 0
    told = json.loads(report.read_text())
    assert told["kind"] == "photo" and told["why"]
    words = ("--steps-by", "colour", "--inks", "5", "--detail", "2mm")
    assert trace(path, "-o", out, "--report", report, *words) == 0
    assert len(json.loads(report.read_text())["palette"]) == 5


def test_several_pictures_are_layers_or_refused(tmp_path, png, capsys):
    paths = save_layers(tmp_path)
    out = tmp_path / "out.svg"
    assert trace(*paths, "-o", out) == 0
    assert len(paths_in(out)) == 2
    assert trace(*paths, png, "-o", tmp_path / "no.svg") == 2
    assert "one size" in capsys.readouterr().err and not (tmp_path / "no.svg").exists()


@pytest.mark.parametrize(
    ("name", "mode"), [("coffee", "photo"), ("coffee", "flat"), ("page", "ink"), ("sketch", "lineart"), ("art", "flat")]
)
def test_one_core_and_all_give_the_same_bytes(tmp_path, png, sketch, name, mode):
    path = tmp_path / f"{name}.png"
    if name in ("coffee", "page"):
        Image.fromarray(getattr(photos, name)()).save(path)
    drawn = []
    for core in (min(os.sched_getaffinity(0)), None):
        out = tmp_path / f"out-{core}.svg"
        command = [sys.executable, "-m", "sketchloom", "trace", str(path), "-o", str(out), "--mode", mode]
        keep = (lambda core=core: os.sched_setaffinity(0, {core})) if core is not None else None
        subprocess.run(command, check=True, preexec_fn=keep)
        drawn.append(out.read_bytes())
    assert drawn[0] == drawn[1]


def test_trace_options_and_centre_lines_reach_the_svg(png, tmp_path, capsys):
    out, report = tmp_path / "plate.svg", tmp_path / "plate.json"
    ask = ["trace", str(png), "-o", str(out), "--report", str(report)]
    assert main([*ask, "--smoothness", "1mm", "--corner", "60", "--square", "2", "--straightness", "0.3mm"]) == 0
    plain = json.loads(report.read_text())
    code = plain["palette"][0]["hex"]
    assert main([*ask, "--each", "--centre-lines", code]) == 0
    told = json.loads(report.read_text())
    assert told["deviation_mm"] != plain["deviation_mm"]
    assert [line["hex"] for line in told["centre_lines"]] == [code]
    assert 'stroke-linecap="round"' in out.read_text()
    assert len(list(tmp_path.glob("plate-*centre-lines.svg"))) == 1
    assert main([*ask, "--centre-lines", "#123456"]) == 2
    assert "No ink is #123456; the picture has #" in capsys.readouterr().err
    assert main([*ask, "--corner", "200"]) == 2
    assert "A corner of 200° cannot be used; type 0 to 180°." in capsys.readouterr().err
