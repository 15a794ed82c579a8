"""Jobs on the command line, flags that are followed to the written file, and words that cannot be meant."""

import json
import os

import numpy as np
import pytest
from PIL import Image
from svgelements import SVG
from svgelements import Path as SvgPath

from sketchloom.cli.main import main
from sketchloom.core.job import read_job, read_recipe
from sketchloom.core.picture import Crop, Sharpen
from tests.conftest import FOUR_INKS, draw


@pytest.fixture
def png(tmp_path):
    path = tmp_path / "harvest_plate.png"
    Image.fromarray(draw(FOUR_INKS).rgba).save(path)
    return path


def run(*words) -> int:
    return main([*map(str, words)])


def paths_in(file):
    return [e for e in SVG.parse(str(file)).elements() if isinstance(e, SvgPath)]


EVERYTHING = """
    --inks 3 --smoothness 0.08mm --straightness 0.3mm --corner 70 --square 4 --mirror 0.4mm --least-area 3mm2
    --build carried --width 90mm --page picture --ground keep --crop 0,0,180,190 --calm 0.5mm --sharpen 0.3mm
""".split()  # noqa: SIM905


def test_a_job_and_a_recipe_that_are_saved_give_the_same_file(png, tmp_path):
    straight, job, recipe = tmp_path / "straight.svg", tmp_path / "plate.loom", tmp_path / "plate.json"
    assert run("trace", png, "-o", straight, *EVERYTHING, "--save-job", job, "--save-recipe", recipe) == 0
    for name, words in (
        ("job", [job]),
        ("recipe", [png, "--recipe", recipe]),
        ("job_as_recipe", [png, "--recipe", job]),
    ):
        assert run("trace", *words, "-o", tmp_path / f"{name}.svg") == 0
        assert (tmp_path / f"{name}.svg").read_bytes() == straight.read_bytes()
    saved = read_job(job)
    assert saved.name == "harvest plate" and saved.picture == png.read_bytes()
    assert saved.recipe == read_recipe(recipe)
    assert saved.recipe.separate.inks == 3 and saved.recipe.layers.build == "carried"
    assert saved.recipe.trace.corner == 70 and saved.recipe.tidy.least_area == 3


def test_an_enlarged_picture_keeps_its_size_and_the_report_tells_it(png, tmp_path):
    large, out, report = tmp_path / "large.png", tmp_path / "large.svg", tmp_path / "large.json"
    Image.open(png).convert("RGB").resize((600, 600), Image.Resampling.BICUBIC).save(large)
    assert run("trace", large, "-o", out, "--report", report, "--page", "picture") == 0
    told = json.loads(report.read_text())
    assert told["enlarged"] == 3 and told["worked_px"] == [200, 200]
    # CSS Values and Units 3, 5.2: 96 px are an inch
    assert told["size_mm"] == pytest.approx([600 * 25.4 / 96] * 2, abs=0.01)
    assert run("trace", png, "-o", out, "--report", report, "--page", "picture") == 0
    told = json.loads(report.read_text())
    assert told["enlarged"] == 1 and told["worked_px"] == [200, 200]


def test_sharpen_is_a_row_measured_or_as_wide_as_said(png, tmp_path, capsys):
    job = tmp_path / "sharp.loom"
    assert run("trace", png, "--sharpen", "auto", "--save-job", job) == 0
    assert read_job(job).recipe.prepare == (Sharpen(),)
    assert run("prepare", png, "--sharpen", "0.5mm", "--width", "100mm", "-o", tmp_path / "sharp.png") == 0
    assert run("trace", png, "--sharpen", "wide", "--save-job", tmp_path / "none.loom") == 2
    assert "wide" in capsys.readouterr().err


def test_a_job_is_made_without_an_svg(png, tmp_path):
    assert run("trace", png, "--save-job", tmp_path / "only.loom") == 0
    assert sorted(path.name for path in tmp_path.iterdir()) == ["harvest_plate.png", "only.loom"]


def test_flags_go_before_a_jobs_settings_and_its_rows_stay(png, tmp_path, capsys):
    job, out, report = tmp_path / "j.loom", tmp_path / "o.svg", tmp_path / "r.json"
    assert run("trace", png, "--width", "90mm", "--inks", 2, "--crop", "0,0,200,190", "--save-job", job) == 0
    assert (
        run("trace", job, "--width", "45mm", "--crop", "0,0,200,180", "-o", out, "--report", report, "--save-job", job)
        == 2
    )
    assert "never written over" in capsys.readouterr().err
    again = tmp_path / "k.loom"
    assert (
        run(
            "trace", job, "--width", "45mm", "--crop", "0,0,200,180", "-o", out, "--report", report, "--save-job", again
        )
        == 0
    )
    assert 'width="45mm"' in out.read_text() and len(paths_in(out)) == 2
    assert [type(row) for row in read_job(again).recipe.prepare] == [Crop, Crop]
    assert json.loads(report.read_text())["size_mm"][0] == pytest.approx(45)


def test_a_job_is_inspected_as_its_picture(png, tmp_path, capsys):
    job = tmp_path / "j.loom"
    assert run("trace", png, "--save-job", job) == 0
    capsys.readouterr()
    assert run("inspect", png) == 0
    plain = capsys.readouterr().out
    assert run("inspect", job) == 0
    assert capsys.readouterr().out == plain


def test_an_ink_is_built_by_its_key(png, tmp_path):
    report = tmp_path / "r.json"
    assert run("trace", png, "-o", tmp_path / "a.svg", "--report", report) == 0
    key = json.loads(report.read_text())["palette"][-1]["key"]
    assert (
        run("trace", png, "-o", tmp_path / "b.svg", "--layer", f"{key}=carried", "--save-recipe", tmp_path / "r2.json")
        == 0
    )
    rules = read_recipe(tmp_path / "r2.json").layers.rules
    assert [(rule.ink, rule.build) for rule in rules] == [(key, "carried")]
    plain, ruled = ({e.id: e.d() for e in paths_in(tmp_path / name)} for name in ("a.svg", "b.svg"))
    assert plain.keys() == ruled.keys()


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["trace", "harvest_plate.png", "-o", "a.bmp"], ".svg"),
        (["trace", "harvest_plate.png"], "Nothing would be written"),
        (["trace", "harvest_plate.png", "--each", "--save-job", "a.loom"], "-o OUT.svg"),
        (["trace", "harvest_plate.png", "--save-job", "a.zip"], ".loom"),
        (["trace", "harvest_plate.png", "-o", "a.svg", "--save-recipe", "a.loom"], ".json"),
        (["trace", "harvest_plate.png", "-o", "a\0.svg"], "no file of such a name"),
        (["trace", "a\0.png", "-o", "a.svg"], "name"),
        (["trace", "harvest_plate.png", "-o", "a.svg", "--mode", "flat", "--threshold", "0.5"], "--threshold"),
        (["trace", "harvest_plate.png", "-o", "a.svg", "--mode", "ink", "--inks", "4"], "--inks"),
        (["trace", "harvest_plate.png", "-o", "a.svg", "--layer", "#010203=flush"], "#010203"),
        (["trace", "harvest_plate.png", "-o", "a.svg", "--layer", "red=flush"], "red"),
        (["trace", "harvest_plate.png", "harvest_plate.loom", "-o", "a.svg"], "by itself"),
        (["frace", "harvest_plate.png"], "did you mean sketch-loom trace"),
        (["inspekt"], "did you mean sketch-loom inspect"),
    ],
)
def test_what_cannot_be_meant_is_one_sentence(png, tmp_path, capsys, monkeypatch, words, said):
    monkeypatch.chdir(tmp_path)
    assert run(*words) == 2
    told = capsys.readouterr().err.strip()
    assert said in told and "\n" not in told and told[-1] in ".?"
    assert [path.name for path in tmp_path.iterdir()] == ["harvest_plate.png"]


def test_a_flag_that_does_nothing_on_the_road_taken_is_told(png, tmp_path, capsys):
    assert run("trace", png, "-o", tmp_path / "a.svg", "--threshold", "0.5") == 0
    assert "--threshold does nothing for flat art" in capsys.readouterr().err


def test_an_ink_colour_that_nothing_has_says_so(tmp_path, capsys):
    sheet = np.full((200, 200, 3), 255, np.uint8)
    sheet[90:96, 20:180] = 0
    Image.fromarray(sheet).save(tmp_path / "line.png")
    words = ["trace", tmp_path / "line.png", "-o", tmp_path / "a.svg", "--mode", "ink", "--ink-colour"]
    assert run(*words, "#00b050") == 3
    assert "has the ink colour #00b050" in capsys.readouterr().err
    assert run(*words, "#101010") == 0


def test_a_name_that_is_no_utf_8_is_written_and_kept_in_a_job(png, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    odd = os.fsdecode(b"caf\xe9\x07.png")
    png.rename(odd)
    assert run("trace", odd, "-o", os.fsdecode(b"caf\xe9.svg"), "--save-job", "odd.loom") == 0
    saved = read_job(tmp_path / "odd.loom")
    assert saved.name.isprintable() and saved.name
    assert run("trace", "odd.loom", "-o", "again.svg") == 0
    assert (tmp_path / "again.svg").read_bytes() == (tmp_path / os.fsdecode(b"caf\xe9.svg")).read_bytes()


def test_limits_of_one_ink_go_from_the_command_line_to_the_file_and_back(png, tmp_path):
    """FOUR_INKS has an ellipse #4f8a4b of about 500 px2; at 1 px a mm a larger limit of that ink takes it away."""
    base, words = [png, "--width", "200mm", "--page", "picture"], ["--least-area", "1mm2"]
    reports = {}
    for name, more in (
        ("plain", words),
        ("own", [*words, "--least-area", "#4f8a4b=900mm2", "--least-width", "#8e2a5b=0.2mm"]),
    ):
        files = ["-o", tmp_path / f"{name}.svg", "--save-job", tmp_path / f"{name}.loom"]
        assert run("trace", *base, *more, *files, "--report", tmp_path / f"{name}.json") == 0
        told = json.loads((tmp_path / f"{name}.json").read_text())
        reports[name] = {ink["key"]: ink["pieces"] for ink in told["palette"]}, told["tidy"]["specks"]
    assert reports["plain"][0]["#4f8a4b"] == 1 and not reports["own"][0].get("#4f8a4b")
    assert reports["own"][1] == reports["plain"][1] + 1
    saved = read_job(tmp_path / "own.loom").recipe.tidy
    assert saved.least_area == 1 and saved.limits_of("#4f8a4b").least_area == 900
    assert saved.limits_of("#8e2a5b").least_width == pytest.approx(0.2)
    assert run("trace", tmp_path / "own.loom", "-o", tmp_path / "again.svg") == 0
    assert (tmp_path / "again.svg").read_bytes() == (tmp_path / "own.svg").read_bytes()
    assert run("trace", *base, "--least-area", "#123456=3mm2", "-o", tmp_path / "no.svg") == 2
    assert not (tmp_path / "no.svg").exists()
